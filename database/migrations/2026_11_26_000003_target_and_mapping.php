<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

return new class extends Migration
{
    /**
     * The new application, and how feeds become records of it.
     */
    public function up(): void
    {
        DB::statement(
            <<<'SQL'
            CREATE TABLE targets (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT,
                migration_id INT UNSIGNED NOT NULL,
                name VARCHAR(255) NOT NULL,
                host VARCHAR(255) NOT NULL,
                port VARCHAR(255) NOT NULL,
                `database` VARCHAR(255) NOT NULL,
                username VARCHAR(255) NOT NULL,
                password TEXT DEFAULT NULL,
                password_env VARCHAR(255) DEFAULT NULL,
                created_at TIMESTAMP NULL DEFAULT NULL,
                updated_at TIMESTAMP NULL DEFAULT NULL,
                from_command_line TINYINT(1) NOT NULL DEFAULT 0,
                PRIMARY KEY (id),
                UNIQUE KEY targets_migration_id_name_unique (migration_id,name),
                FOREIGN KEY (migration_id) REFERENCES migrations (id) ON DELETE CASCADE
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE entities (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT,
                migration_id INT UNSIGNED NOT NULL,
                name VARCHAR(255) NOT NULL,
                `position` INT UNSIGNED NOT NULL,
                definition JSON NOT NULL,
                created_at TIMESTAMP NULL DEFAULT NULL,
                updated_at TIMESTAMP NULL DEFAULT NULL,
                PRIMARY KEY (id),
                UNIQUE KEY entities_migration_id_name_unique (migration_id,name),
                FOREIGN KEY (migration_id) REFERENCES migrations (id) ON DELETE CASCADE
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE loads (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT,
                migration_id INT UNSIGNED NOT NULL,
                entity_id INT UNSIGNED NOT NULL,
                extract_id INT UNSIGNED NOT NULL,
                name VARCHAR(255) NOT NULL,
                `position` INT UNSIGNED NOT NULL,
                key_columns JSON NOT NULL,
                key_space VARCHAR(12) CHARACTER SET ascii COLLATE ascii_bin DEFAULT NULL,
                key_normalisation VARCHAR(12) NOT NULL DEFAULT 'trim',
                scope TEXT DEFAULT NULL,
                scope_reason TEXT DEFAULT NULL,
                policy VARCHAR(20) NOT NULL DEFAULT 'create',
                match_on JSON DEFAULT NULL,
                note TEXT DEFAULT NULL,
                version INT UNSIGNED NOT NULL DEFAULT 1,
                created_at TIMESTAMP NULL DEFAULT NULL,
                updated_at TIMESTAMP NULL DEFAULT NULL,
                PRIMARY KEY (id),
                UNIQUE KEY loads_migration_id_name_unique (migration_id,name),
                KEY loads_entity_id_foreign (entity_id),
                KEY loads_extract_id_foreign (extract_id),
                FOREIGN KEY (entity_id) REFERENCES entities (id),
                FOREIGN KEY (extract_id) REFERENCES extracts (id),
                FOREIGN KEY (migration_id) REFERENCES migrations (id) ON DELETE CASCADE
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE rules (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT,
                load_id INT UNSIGNED NOT NULL,
                field VARCHAR(255) NOT NULL,
                expression TEXT DEFAULT NULL,
                empty_reason TEXT DEFAULT NULL,
                note TEXT DEFAULT NULL,
                version INT UNSIGNED NOT NULL DEFAULT 1,
                user_id INT UNSIGNED DEFAULT NULL,
                created_at TIMESTAMP NULL DEFAULT NULL,
                updated_at TIMESTAMP NULL DEFAULT NULL,
                PRIMARY KEY (id),
                UNIQUE KEY rules_load_id_field_unique (load_id,field),
                KEY rules_user_id_foreign (user_id),
                FOREIGN KEY (load_id) REFERENCES loads (id) ON DELETE CASCADE,
                FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE SET NULL
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE rule_versions (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT,
                load_id INT UNSIGNED NOT NULL,
                field VARCHAR(255) NOT NULL,
                expression TEXT DEFAULT NULL,
                empty_reason TEXT DEFAULT NULL,
                note TEXT DEFAULT NULL,
                user_id INT UNSIGNED DEFAULT NULL,
                at TIMESTAMP(3) NOT NULL DEFAULT current_timestamp(3),
                PRIMARY KEY (id),
                KEY rule_versions_user_id_foreign (user_id),
                KEY rule_versions_load_id_field_id_index (load_id,field,id),
                FOREIGN KEY (load_id) REFERENCES loads (id) ON DELETE CASCADE,
                FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE SET NULL
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE code_crosswalks (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT,
                migration_id INT UNSIGNED NOT NULL,
                name VARCHAR(255) NOT NULL,
                created_at TIMESTAMP NULL DEFAULT NULL,
                updated_at TIMESTAMP NULL DEFAULT NULL,
                otherwise VARCHAR(8) NOT NULL DEFAULT 'reject',
                otherwise_value VARCHAR(190) DEFAULT NULL,
                note TEXT DEFAULT NULL,
                PRIMARY KEY (id),
                UNIQUE KEY code_crosswalks_migration_id_name_unique (migration_id,name),
                FOREIGN KEY (migration_id) REFERENCES migrations (id) ON DELETE CASCADE
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE code_entries (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT,
                code_crosswalk_id INT UNSIGNED NOT NULL,
                old_value VARCHAR(190) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
                new_value VARCHAR(190) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin DEFAULT NULL,
                user_id INT UNSIGNED DEFAULT NULL,
                created_at TIMESTAMP NULL DEFAULT NULL,
                updated_at TIMESTAMP NULL DEFAULT NULL,
                decision VARCHAR(8) NOT NULL DEFAULT 'value',
                note TEXT DEFAULT NULL,
                PRIMARY KEY (id),
                UNIQUE KEY code_entries_code_crosswalk_id_old_value_unique (code_crosswalk_id,old_value),
                KEY code_entries_user_id_foreign (user_id),
                FOREIGN KEY (code_crosswalk_id) REFERENCES code_crosswalks (id) ON DELETE CASCADE,
                FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE SET NULL
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE parameters (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT,
                migration_id INT UNSIGNED NOT NULL,
                name VARCHAR(60) NOT NULL,
                prompt VARCHAR(255) NOT NULL,
                default_value VARCHAR(255) DEFAULT NULL,
                created_at TIMESTAMP NULL DEFAULT NULL,
                updated_at TIMESTAMP NULL DEFAULT NULL,
                PRIMARY KEY (id),
                UNIQUE KEY parameters_migration_id_name_unique (migration_id,name),
                FOREIGN KEY (migration_id) REFERENCES migrations (id) ON DELETE CASCADE
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE load_checks (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT,
                load_id INT UNSIGNED NOT NULL,
                hash CHAR(32) NOT NULL,
                state VARCHAR(12) NOT NULL,
                rows_total BIGINT UNSIGNED NOT NULL DEFAULT 0,
                rows_done BIGINT UNSIGNED NOT NULL DEFAULT 0,
                result JSON DEFAULT NULL,
                error TEXT DEFAULT NULL,
                finished_at TIMESTAMP NULL DEFAULT NULL,
                created_at TIMESTAMP NULL DEFAULT NULL,
                updated_at TIMESTAMP NULL DEFAULT NULL,
                attempts TINYINT UNSIGNED NOT NULL DEFAULT 0,
                PRIMARY KEY (id),
                UNIQUE KEY load_checks_load_id_unique (load_id),
                FOREIGN KEY (load_id) REFERENCES loads (id) ON DELETE CASCADE
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE change_lists (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT,
                migration_id INT UNSIGNED NOT NULL,
                kind VARCHAR(12) NOT NULL,
                file_name VARCHAR(255) NOT NULL,
                changes JSON NOT NULL,
                description JSON DEFAULT NULL,
                user_id INT UNSIGNED DEFAULT NULL,
                created_at TIMESTAMP NULL DEFAULT NULL,
                updated_at TIMESTAMP NULL DEFAULT NULL,
                PRIMARY KEY (id),
                KEY change_lists_migration_id_foreign (migration_id),
                KEY change_lists_user_id_foreign (user_id),
                FOREIGN KEY (migration_id) REFERENCES migrations (id) ON DELETE CASCADE,
                FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE SET NULL
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
    }
};
