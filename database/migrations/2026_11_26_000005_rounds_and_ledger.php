<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

return new class extends Migration
{
    /**
     * Rounds, their lanes and passes, and what became of every row. A line of the ledger belongs to an item: in the first round load of
     * a lane that is the number of the row. stands is 1 where the row stands for a record and NULL otherwise, so the unique key
     * allows one such row per legacy key and any number of others.
     */
    public function up(): void
    {
        DB::statement(
            <<<'SQL'
            CREATE TABLE key_spaces (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
                migration_id INT UNSIGNED NOT NULL,
                entity_id INT UNSIGNED NOT NULL,
                name VARCHAR(24) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
                UNIQUE KEY one (entity_id, name),
                FOREIGN KEY (migration_id) REFERENCES migrations (id),
                FOREIGN KEY (entity_id) REFERENCES entities (id)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE plan_versions (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
                migration_id INT UNSIGNED NOT NULL,
                hash CHAR(64) NOT NULL,
                definition LONGTEXT NOT NULL,
                created_at TIMESTAMP NOT NULL DEFAULT CURRENT_TIMESTAMP,
                UNIQUE KEY one (migration_id, hash),
                FOREIGN KEY (migration_id) REFERENCES migrations (id)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE rounds (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
                migration_id INT UNSIGNED NOT NULL,
                kind VARCHAR(12) NOT NULL,
                name VARCHAR(255) NOT NULL,
                number INT UNSIGNED NOT NULL,
                parameters JSON DEFAULT NULL,
                user_id INT UNSIGNED DEFAULT NULL,
                created_at TIMESTAMP NULL DEFAULT NULL,
                updated_at TIMESTAMP NULL DEFAULT NULL,
                UNIQUE KEY one (migration_id, name),
                FOREIGN KEY (migration_id) REFERENCES migrations (id),
                FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE SET NULL
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE lanes (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
                round_id INT UNSIGNED NOT NULL,
                target_id INT UNSIGNED NOT NULL,
                UNIQUE KEY one (round_id, target_id),
                FOREIGN KEY (round_id) REFERENCES rounds (id),
                FOREIGN KEY (target_id) REFERENCES targets (id)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE round_loads (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
                round_id INT UNSIGNED NOT NULL,
                load_id INT UNSIGNED NOT NULL,
                take_id INT UNSIGNED NOT NULL,
                space_id INT UNSIGNED NOT NULL,
                number INT UNSIGNED NOT NULL,
                feed_rows BIGINT UNSIGNED NOT NULL,
                source_rows BIGINT UNSIGNED NOT NULL,
                UNIQUE KEY one (round_id, load_id, number),
                FOREIGN KEY (round_id) REFERENCES rounds (id),
                FOREIGN KEY (load_id) REFERENCES loads (id),
                FOREIGN KEY (take_id) REFERENCES takes (id),
                FOREIGN KEY (space_id) REFERENCES key_spaces (id)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE passes (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
                round_id INT UNSIGNED NOT NULL,
                lane_id INT UNSIGNED NOT NULL,
                number INT UNSIGNED NOT NULL,
                kind VARCHAR(12) NOT NULL,
                state VARCHAR(12) NOT NULL,
                plan_version_id INT UNSIGNED NOT NULL,
                decision BIGINT UNSIGNED NOT NULL DEFAULT 0,
                stop_requested TINYINT(1) NOT NULL DEFAULT 0,
                attempts TINYINT UNSIGNED NOT NULL DEFAULT 0,
                error TEXT DEFAULT NULL,
                started_at TIMESTAMP(3) NULL DEFAULT NULL,
                finished_at TIMESTAMP(3) NULL DEFAULT NULL,
                user_id INT UNSIGNED DEFAULT NULL,
                created_at TIMESTAMP NULL DEFAULT NULL,
                updated_at TIMESTAMP NULL DEFAULT NULL,
                UNIQUE KEY one (round_id, number),
                FOREIGN KEY (round_id) REFERENCES rounds (id),
                FOREIGN KEY (lane_id) REFERENCES lanes (id),
                FOREIGN KEY (plan_version_id) REFERENCES plan_versions (id),
                FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE SET NULL
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE pass_loads (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
                pass_id INT UNSIGNED NOT NULL,
                load_id INT UNSIGNED NOT NULL,
                take_id INT UNSIGNED NOT NULL,
                wave INT UNSIGNED NOT NULL,
                state VARCHAR(12) NOT NULL,
                cursor_row BIGINT UNSIGNED NOT NULL DEFAULT 0,
                key_cursor BIGINT UNSIGNED DEFAULT NULL,
                rows_total BIGINT UNSIGNED NOT NULL DEFAULT 0,
                rows_done BIGINT UNSIGNED NOT NULL DEFAULT 0,
                seconds DECIMAL(12,3) NOT NULL DEFAULT 0.000,
                counts JSON DEFAULT NULL,
                error TEXT DEFAULT NULL,
                created_at TIMESTAMP NULL DEFAULT NULL,
                updated_at TIMESTAMP NULL DEFAULT NULL,
                UNIQUE KEY one (pass_id, load_id),
                FOREIGN KEY (pass_id) REFERENCES passes (id),
                FOREIGN KEY (load_id) REFERENCES loads (id),
                FOREIGN KEY (take_id) REFERENCES takes (id)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE target_counts (
                pass_id INT UNSIGNED NOT NULL,
                entity_id INT UNSIGNED NOT NULL,
                `before` BIGINT UNSIGNED NOT NULL,
                `after` BIGINT UNSIGNED DEFAULT NULL,
                PRIMARY KEY (pass_id, entity_id),
                FOREIGN KEY (pass_id) REFERENCES passes (id),
                FOREIGN KEY (entity_id) REFERENCES entities (id)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE record_counters (
                lane_id INT UNSIGNED NOT NULL,
                entity_id INT UNSIGNED NOT NULL,
                made BIGINT NOT NULL,
                PRIMARY KEY (lane_id, entity_id)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE outcomes (
                lane_id INT UNSIGNED NOT NULL,
                load_id INT UNSIGNED NOT NULL,
                item INT UNSIGNED NOT NULL,
                space_id INT UNSIGNED NOT NULL,
                legacy_key VARCHAR(190) NOT NULL,
                stands TINYINT UNSIGNED DEFAULT NULL,
                outcome ENUM('loaded','updated','unchanged','merged','removed','excluded','held','rejected','waived','pending') NOT NULL,
                target_key VARCHAR(190) DEFAULT NULL,
                sent_hash BINARY(16) DEFAULT NULL,
                pass_id INT UNSIGNED NOT NULL,
                PRIMARY KEY (lane_id, load_id, item),
                UNIQUE KEY crosswalk (lane_id, space_id, legacy_key, stands),
                KEY target (lane_id, target_key),
                KEY by_outcome (lane_id, load_id, outcome)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE row_causes (
                lane_id INT UNSIGNED NOT NULL,
                load_id INT UNSIGNED NOT NULL,
                item INT UNSIGNED NOT NULL,
                cause_id INT UNSIGNED NOT NULL,
                root_cause_id INT UNSIGNED DEFAULT NULL,
                PRIMARY KEY (lane_id, load_id, item),
                KEY by_cause (cause_id, item),
                KEY by_root (root_cause_id)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE outcome_log (
                id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
                lane_id INT UNSIGNED NOT NULL,
                load_id INT UNSIGNED NOT NULL,
                item INT UNSIGNED NOT NULL,
                pass_id INT UNSIGNED NOT NULL,
                outcome VARCHAR(12) NOT NULL,
                target_key VARCHAR(190) DEFAULT NULL,
                sent_hash BINARY(16) DEFAULT NULL,
                cause_id INT UNSIGNED DEFAULT NULL,
                replaced_at TIMESTAMP NOT NULL DEFAULT CURRENT_TIMESTAMP,
                KEY by_row (lane_id, load_id, item)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE values_before (
                pass_id INT UNSIGNED NOT NULL,
                load_id INT UNSIGNED NOT NULL,
                item INT UNSIGNED NOT NULL,
                `values` MEDIUMTEXT NOT NULL,
                PRIMARY KEY (pass_id, load_id, item)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE causes (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
                lane_id INT UNSIGNED NOT NULL,
                load_id INT UNSIGNED NOT NULL,
                stage VARCHAR(12) NOT NULL,
                code VARCHAR(30) NOT NULL,
                field VARCHAR(190) DEFAULT NULL,
                value VARCHAR(250) DEFAULT NULL,
                message VARCHAR(500) NOT NULL,
                parent_entity VARCHAR(190) DEFAULT NULL,
                parent_space VARCHAR(12) DEFAULT NULL,
                parent_space_id INT UNSIGNED DEFAULT NULL,
                parent_key VARCHAR(190) DEFAULT NULL,
                hash CHAR(32) NOT NULL,
                UNIQUE KEY one (lane_id, load_id, hash)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE cause_tallies (
                lane_id INT UNSIGNED NOT NULL,
                cause_id INT UNSIGNED NOT NULL,
                outcome VARCHAR(12) NOT NULL,
                n BIGINT NOT NULL,
                PRIMARY KEY (lane_id, cause_id, outcome)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE links (
                lane_id INT UNSIGNED NOT NULL,
                load_id INT UNSIGNED NOT NULL,
                item INT UNSIGNED NOT NULL,
                field VARCHAR(64) NOT NULL,
                parent_space_id INT UNSIGNED NOT NULL,
                parent_key VARCHAR(190) NOT NULL,
                target_key VARCHAR(190) NOT NULL,
                state ENUM('waiting','made') NOT NULL,
                PRIMARY KEY (lane_id, load_id, item, field),
                KEY waiting (lane_id, state, load_id, field, item)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE match_entries (
                lane_id INT UNSIGNED NOT NULL,
                entity_id INT UNSIGNED NOT NULL,
                match_key CHAR(32) NOT NULL,
                target_key VARCHAR(190) NOT NULL,
                load_id INT UNSIGNED DEFAULT NULL,
                item INT UNSIGNED DEFAULT NULL,
                PRIMARY KEY (lane_id, entity_id, match_key)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE tallies (
                lane_id INT UNSIGNED NOT NULL,
                load_id INT UNSIGNED NOT NULL,
                outcome VARCHAR(12) NOT NULL,
                n BIGINT NOT NULL,
                PRIMARY KEY (lane_id, load_id, outcome)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
        );
    }
};
