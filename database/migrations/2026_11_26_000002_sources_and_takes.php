<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

return new class extends Migration
{
    /**
     * Legacy systems, what is read of them, and what was found in it.
     */
    public function up(): void
    {
        DB::statement(
            <<<'SQL'
            CREATE TABLE sources (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT,
                migration_id INT UNSIGNED NOT NULL,
                code VARCHAR(12) NOT NULL,
                name VARCHAR(255) NOT NULL,
                notes TEXT DEFAULT NULL,
                created_at TIMESTAMP NULL DEFAULT NULL,
                updated_at TIMESTAMP NULL DEFAULT NULL,
                PRIMARY KEY (id),
                UNIQUE KEY sources_migration_id_code_unique (migration_id,code),
                FOREIGN KEY (migration_id) REFERENCES migrations (id) ON DELETE CASCADE
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE connections (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT,
                source_id INT UNSIGNED NOT NULL,
                name VARCHAR(60) NOT NULL,
                notes TEXT DEFAULT NULL,
                driver VARCHAR(12) NOT NULL,
                host VARCHAR(255) DEFAULT NULL,
                port VARCHAR(40) DEFAULT NULL,
                `database` VARCHAR(255) DEFAULT NULL,
                username VARCHAR(255) DEFAULT NULL,
                password TEXT DEFAULT NULL,
                password_env VARCHAR(255) DEFAULT NULL,
                created_at TIMESTAMP NULL DEFAULT NULL,
                updated_at TIMESTAMP NULL DEFAULT NULL,
                from_command_line TINYINT(1) NOT NULL DEFAULT 0,
                PRIMARY KEY (id),
                UNIQUE KEY connections_source_id_name_unique (source_id,name),
                FOREIGN KEY (source_id) REFERENCES sources (id) ON DELETE CASCADE
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE extracts (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT,
                source_id INT UNSIGNED NOT NULL,
                name VARCHAR(255) NOT NULL,
                origin VARCHAR(500) DEFAULT NULL,
                reader JSON NOT NULL,
                `columns` JSON DEFAULT NULL,
                take_id INT UNSIGNED DEFAULT NULL,
                created_at TIMESTAMP NULL DEFAULT NULL,
                updated_at TIMESTAMP NULL DEFAULT NULL,
                finding_decisions JSON DEFAULT NULL,
                not_loaded TEXT DEFAULT NULL,
                PRIMARY KEY (id),
                UNIQUE KEY extracts_source_id_name_unique (source_id,name),
                FOREIGN KEY (source_id) REFERENCES sources (id)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE takes (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT,
                extract_id INT UNSIGNED NOT NULL,
                `number` INT UNSIGNED NOT NULL,
                state VARCHAR(12) NOT NULL,
                `file` VARCHAR(500) NOT NULL,
                file_name VARCHAR(255) NOT NULL,
                bytes BIGINT UNSIGNED NOT NULL,
                bytes_read BIGINT UNSIGNED NOT NULL DEFAULT 0,
                checksum CHAR(64) DEFAULT NULL,
                `rows` BIGINT UNSIGNED DEFAULT NULL,
                source_rows BIGINT UNSIGNED DEFAULT NULL,
                counted_by VARCHAR(80) DEFAULT NULL,
                profile JSON DEFAULT NULL,
                error TEXT DEFAULT NULL,
                taken_at TIMESTAMP NULL DEFAULT NULL,
                user_id INT UNSIGNED DEFAULT NULL,
                created_at TIMESTAMP NULL DEFAULT NULL,
                updated_at TIMESTAMP NULL DEFAULT NULL,
                `columns` JSON DEFAULT NULL,
                parameters JSON DEFAULT NULL,
                compared JSON DEFAULT NULL,
                studied_at TIMESTAMP NULL DEFAULT NULL,
                recipe JSON DEFAULT NULL,
                arithmetic JSON DEFAULT NULL,
                attempts TINYINT UNSIGNED NOT NULL DEFAULT 0,
                study_attempts JSON DEFAULT NULL,
                PRIMARY KEY (id),
                UNIQUE KEY takes_extract_id_number_unique (extract_id,number),
                KEY takes_user_id_foreign (user_id),
                FOREIGN KEY (extract_id) REFERENCES extracts (id),
                FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE SET NULL
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE findings (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT,
                extract_id INT UNSIGNED NOT NULL,
                take_id INT UNSIGNED NOT NULL,
                code VARCHAR(40) NOT NULL,
                `position` INT UNSIGNED DEFAULT NULL,
                header VARCHAR(255) DEFAULT NULL,
                n BIGINT UNSIGNED NOT NULL,
                message TEXT NOT NULL,
                `rows` MEDIUMTEXT NOT NULL,
                decision VARCHAR(12) NOT NULL DEFAULT 'open',
                note TEXT DEFAULT NULL,
                user_id INT UNSIGNED DEFAULT NULL,
                created_at TIMESTAMP NULL DEFAULT NULL,
                updated_at TIMESTAMP NULL DEFAULT NULL,
                PRIMARY KEY (id),
                KEY findings_take_id_foreign (take_id),
                KEY findings_user_id_foreign (user_id),
                KEY findings_extract_id_take_id_decision_index (extract_id,take_id,decision),
                FOREIGN KEY (extract_id) REFERENCES extracts (id) ON DELETE CASCADE,
                FOREIGN KEY (take_id) REFERENCES takes (id) ON DELETE CASCADE,
                FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE SET NULL
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE key_candidates (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT,
                extract_id INT UNSIGNED NOT NULL,
                take_id INT UNSIGNED NOT NULL,
                `columns` JSON NOT NULL,
                duplicate_rows BIGINT UNSIGNED NOT NULL,
                blank_rows BIGINT UNSIGNED NOT NULL,
                examples JSON NOT NULL,
                created_at TIMESTAMP NULL DEFAULT NULL,
                updated_at TIMESTAMP NULL DEFAULT NULL,
                PRIMARY KEY (id),
                KEY key_candidates_extract_id_foreign (extract_id),
                KEY key_candidates_take_id_foreign (take_id),
                FOREIGN KEY (extract_id) REFERENCES extracts (id) ON DELETE CASCADE,
                FOREIGN KEY (take_id) REFERENCES takes (id) ON DELETE CASCADE
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE column_references (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT,
                migration_id INT UNSIGNED NOT NULL,
                extract_id INT UNSIGNED NOT NULL,
                `columns` JSON NOT NULL,
                parent_extract_id INT UNSIGNED NOT NULL,
                parent_columns JSON NOT NULL,
                values_total BIGINT UNSIGNED NOT NULL,
                values_found BIGINT UNSIGNED NOT NULL,
                orphan_rows BIGINT UNSIGNED NOT NULL,
                decision VARCHAR(12) NOT NULL DEFAULT 'found',
                user_id INT UNSIGNED DEFAULT NULL,
                created_at TIMESTAMP NULL DEFAULT NULL,
                updated_at TIMESTAMP NULL DEFAULT NULL,
                `number` INT UNSIGNED DEFAULT NULL,
                PRIMARY KEY (id),
                KEY column_references_migration_id_foreign (migration_id),
                KEY column_references_extract_id_foreign (extract_id),
                KEY column_references_user_id_foreign (user_id),
                KEY column_references_parent_extract_id_foreign (parent_extract_id),
                FOREIGN KEY (extract_id) REFERENCES extracts (id) ON DELETE CASCADE,
                FOREIGN KEY (migration_id) REFERENCES migrations (id) ON DELETE CASCADE,
                FOREIGN KEY (parent_extract_id) REFERENCES extracts (id) ON DELETE CASCADE,
                FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE SET NULL
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE column_decisions (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT,
                extract_id INT UNSIGNED NOT NULL,
                header VARCHAR(255) NOT NULL,
                reason TEXT NOT NULL,
                user_id INT UNSIGNED DEFAULT NULL,
                created_at TIMESTAMP NULL DEFAULT NULL,
                updated_at TIMESTAMP NULL DEFAULT NULL,
                PRIMARY KEY (id),
                UNIQUE KEY column_decisions_extract_id_header_unique (extract_id,header),
                KEY column_decisions_user_id_foreign (user_id),
                FOREIGN KEY (extract_id) REFERENCES extracts (id) ON DELETE CASCADE,
                FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE SET NULL
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE corrections (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT,
                extract_id INT UNSIGNED NOT NULL,
                row_no BIGINT UNSIGNED NOT NULL,
                header VARCHAR(255) NOT NULL,
                old_value TEXT DEFAULT NULL,
                new_value TEXT DEFAULT NULL,
                reason TEXT DEFAULT NULL,
                user_id INT UNSIGNED DEFAULT NULL,
                created_at TIMESTAMP NULL DEFAULT NULL,
                updated_at TIMESTAMP NULL DEFAULT NULL,
                replaced BIGINT UNSIGNED NOT NULL DEFAULT 0,
                PRIMARY KEY (id),
                UNIQUE KEY corrections_of_cell (extract_id,row_no,header,replaced),
                KEY corrections_user_id_foreign (user_id),
                FOREIGN KEY (extract_id) REFERENCES extracts (id) ON DELETE CASCADE,
                FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE SET NULL
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
    }
};
