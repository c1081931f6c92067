<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

return new class extends Migration
{
    /**
     * Dry runs: what they were asked, and of the rows those that would differ from what the ledger says.
     */
    public function up(): void
    {
        DB::statement('ALTER TABLE cause_tallies ADD KEY by_outcome (lane_id, outcome, n)');
        DB::statement(
            <<<'SQL'
            CREATE TABLE pairs (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
                load_id INT UNSIGNED NOT NULL,
                target_id INT UNSIGNED NOT NULL,
                lane_id INT UNSIGNED DEFAULT NULL,
                legacy_key VARCHAR(190) DEFAULT NULL,
                row_key_id INT UNSIGNED DEFAULT NULL,
                target_key VARCHAR(190) NOT NULL,
                reason VARCHAR(500) NOT NULL,
                user_id INT UNSIGNED DEFAULT NULL,
                decision INT UNSIGNED NOT NULL,
                ended INT UNSIGNED NOT NULL DEFAULT 0,
                created_at TIMESTAMP NULL DEFAULT NULL,
                updated_at TIMESTAMP NULL DEFAULT NULL,
                KEY by_key (load_id, target_id, legacy_key),
                KEY by_row (row_key_id),
                FOREIGN KEY (load_id) REFERENCES loads (id) ON DELETE CASCADE,
                FOREIGN KEY (target_id) REFERENCES targets (id) ON DELETE CASCADE,
                FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE SET NULL
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE cause_tasks (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
                load_id INT UNSIGNED NOT NULL,
                stage VARCHAR(12) NOT NULL,
                code VARCHAR(30) NOT NULL,
                field VARCHAR(190) NOT NULL DEFAULT '',
                user_id INT UNSIGNED NOT NULL,
                until DATE DEFAULT NULL,
                note VARCHAR(500) DEFAULT NULL,
                given_by INT UNSIGNED DEFAULT NULL,
                updated_at TIMESTAMP NULL DEFAULT NULL,
                UNIQUE KEY one (load_id, stage, code, field),
                FOREIGN KEY (load_id) REFERENCES loads (id) ON DELETE CASCADE,
                FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE CASCADE,
                FOREIGN KEY (given_by) REFERENCES users (id) ON DELETE SET NULL
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE pass_log (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
                pass_id INT UNSIGNED NOT NULL,
                what VARCHAR(1000) NOT NULL,
                next_try_at TIMESTAMP NULL DEFAULT NULL,
                at TIMESTAMP NOT NULL DEFAULT CURRENT_TIMESTAMP,
                KEY of_pass (pass_id, id),
                FOREIGN KEY (pass_id) REFERENCES passes (id) ON DELETE CASCADE
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement('ALTER TABLE passes ADD compared LONGTEXT DEFAULT NULL, ADD log_from BIGINT UNSIGNED NOT NULL DEFAULT 0,
            ADD only VARCHAR(300) DEFAULT NULL');
        $this->repairs();
        DB::statement(
            <<<'SQL'
            CREATE TABLE dry_runs (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
                migration_id INT UNSIGNED NOT NULL,
                round_id INT UNSIGNED DEFAULT NULL,
                target_id INT UNSIGNED NOT NULL,
                user_id INT UNSIGNED DEFAULT NULL,
                kind VARCHAR(10) NOT NULL,
                title VARCHAR(255) NOT NULL,
                given LONGTEXT NOT NULL,
                plan CHAR(64) DEFAULT NULL,
                decision INT UNSIGNED NOT NULL,
                state VARCHAR(10) NOT NULL,
                total INT UNSIGNED NOT NULL DEFAULT 0,
                done INT UNSIGNED NOT NULL DEFAULT 0,
                attempts TINYINT UNSIGNED NOT NULL DEFAULT 0,
                found LONGTEXT DEFAULT NULL,
                error TEXT DEFAULT NULL,
                began_at TIMESTAMP NULL DEFAULT NULL,
                ended_at TIMESTAMP NULL DEFAULT NULL,
                created_at TIMESTAMP NULL DEFAULT NULL,
                updated_at TIMESTAMP NULL DEFAULT NULL,
                KEY of_round (migration_id, round_id),
                FOREIGN KEY (migration_id) REFERENCES migrations (id) ON DELETE CASCADE,
                FOREIGN KEY (round_id) REFERENCES rounds (id) ON DELETE CASCADE,
                FOREIGN KEY (target_id) REFERENCES targets (id) ON DELETE CASCADE,
                FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE SET NULL
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE dry_causes (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
                dry_run_id INT UNSIGNED NOT NULL,
                load_id INT UNSIGNED NOT NULL,
                stage VARCHAR(12) NOT NULL,
                code VARCHAR(30) NOT NULL,
                field VARCHAR(190) DEFAULT NULL,
                value VARCHAR(250) DEFAULT NULL,
                message VARCHAR(500) NOT NULL,
                hash CHAR(32) NOT NULL,
                UNIQUE KEY one (dry_run_id, load_id, hash)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE dry_rows (
                dry_run_id INT UNSIGNED NOT NULL,
                load_id INT UNSIGNED NOT NULL,
                item INT UNSIGNED NOT NULL,
                space_id INT UNSIGNED NOT NULL,
                legacy_key VARCHAR(190) NOT NULL,
                stands TINYINT UNSIGNED DEFAULT NULL,
                outcome VARCHAR(12) NOT NULL,
                target_key VARCHAR(190) DEFAULT NULL,
                cause_id INT UNSIGNED DEFAULT NULL,
                root_cause_id INT DEFAULT NULL,
                was VARCHAR(12) DEFAULT NULL,
                PRIMARY KEY (dry_run_id, load_id, item),
                KEY crosswalk (dry_run_id, space_id, legacy_key),
                KEY target (dry_run_id, target_key),
                KEY alike (dry_run_id, load_id, outcome, cause_id)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE dry_tries (
                dry_run_id INT UNSIGNED NOT NULL,
                load_id INT UNSIGNED NOT NULL,
                item INT UNSIGNED NOT NULL,
                PRIMARY KEY (dry_run_id, load_id, item)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE dry_values (
                dry_run_id INT UNSIGNED NOT NULL,
                hash BINARY(16) NOT NULL,
                target_key VARCHAR(190) NOT NULL,
                `values` TEXT NOT NULL,
                PRIMARY KEY (dry_run_id, hash, target_key)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE dry_records (
                dry_run_id INT UNSIGNED NOT NULL,
                entity VARCHAR(190) NOT NULL,
                target_key VARCHAR(190) NOT NULL,
                `values` LONGTEXT NOT NULL,
                PRIMARY KEY (dry_run_id, entity, target_key)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE dry_matches (
                dry_run_id INT UNSIGNED NOT NULL,
                entity_id INT UNSIGNED NOT NULL,
                match_key CHAR(32) NOT NULL,
                target_key VARCHAR(190) NOT NULL,
                PRIMARY KEY (dry_run_id, entity_id, match_key),
                KEY by_record (dry_run_id, entity_id, target_key)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
        );
    }

    /** Every repair, so that it can be found and taken back; those there are already by the numbers of their decisions. */
    private function repairs(): void
    {
        DB::statement(
            <<<'SQL'
            CREATE TABLE repairs (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
                migration_id INT UNSIGNED NOT NULL,
                round_id INT UNSIGNED DEFAULT NULL,
                load_id INT UNSIGNED DEFAULT NULL,
                extract_id INT UNSIGNED DEFAULT NULL,
                kind VARCHAR(10) NOT NULL,
                title VARCHAR(500) NOT NULL,
                about VARCHAR(190) DEFAULT NULL,
                was TEXT DEFAULT NULL,
                becomes TEXT DEFAULT NULL,
                reason VARCHAR(500) DEFAULT NULL,
                row_no INT UNSIGNED DEFAULT NULL,
                causes LONGTEXT DEFAULT NULL,
                before_it LONGTEXT DEFAULT NULL,
                `rows` INT UNSIGNED NOT NULL DEFAULT 0,
                numbers LONGTEXT DEFAULT NULL,
                work_id INT UNSIGNED DEFAULT NULL,
                freed LONGTEXT DEFAULT NULL,
                user_id INT UNSIGNED DEFAULT NULL,
                undone_by INT UNSIGNED DEFAULT NULL,
                undone_at TIMESTAMP NULL DEFAULT NULL,
                undone_told VARCHAR(500) DEFAULT NULL,
                created_at TIMESTAMP NULL DEFAULT NULL,
                updated_at TIMESTAMP NULL DEFAULT NULL,
                KEY of_migration (migration_id, id),
                FOREIGN KEY (migration_id) REFERENCES migrations (id) ON DELETE CASCADE,
                FOREIGN KEY (round_id) REFERENCES rounds (id) ON DELETE SET NULL,
                FOREIGN KEY (load_id) REFERENCES loads (id) ON DELETE SET NULL,
                FOREIGN KEY (extract_id) REFERENCES extracts (id) ON DELETE SET NULL,
                FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE SET NULL,
                FOREIGN KEY (undone_by) REFERENCES users (id) ON DELETE SET NULL
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            "INSERT INTO repairs (migration_id, extract_id, kind, title, about, was, becomes, reason, `rows`, numbers, user_id, created_at)
            SELECT s.migration_id, c.extract_id, IF(MAX(c.whole), 'row', 'correct'),
                CONCAT(IF(MAX(c.whole), 'Whole row', MIN(c.header)), ' corrected in ', COUNT(*), IF(COUNT(*) = 1, ' row', ' rows')),
                MIN(c.header), IF(COUNT(DISTINCT c.old_value) > 1, NULL, MIN(LEFT(c.old_value, 1000))), MIN(LEFT(c.new_value, 1000)),
                MIN(LEFT(c.reason, 500)), COUNT(*), CONCAT('[', c.decision, ']'), MIN(c.user_id), MIN(c.created_at)
            FROM corrections c JOIN extracts e ON e.id = c.extract_id JOIN sources s ON s.id = e.source_id
            WHERE c.ended = 0 GROUP BY s.migration_id, c.extract_id, c.decision",
        );
        DB::statement(
            "INSERT INTO repairs (migration_id, round_id, load_id, extract_id, kind, title, reason, `rows`, numbers, user_id, created_at)
            SELECT l.migration_id, w.round_id, w.load_id, l.extract_id, 'stay',
                CONCAT(COUNT(*), IF(COUNT(*) = 1, ' row', ' rows'), ' left behind'),
                MIN(LEFT(w.reason, 500)), COUNT(*), CONCAT('[', w.decision, ']'), MIN(w.user_id), MIN(w.created_at)
            FROM waivers w JOIN loads l ON l.id = w.load_id
            WHERE w.ended = 0 GROUP BY l.migration_id, w.round_id, w.load_id, l.extract_id, w.decision",
        );
    }
};
