<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

return new class extends Migration
{
    /**
     * What people decide about rows: each decision has a number, so that a pass can say which it saw, and names its row by a key that
     * later takes have too. And what follows from it: which rows are due, which records may be out of date, how a round ended.
     */
    public function up(): void
    {
        foreach (self::TABLES as $table) {
            DB::statement($table);
        }
        DB::statement('ALTER TABLE extracts ADD row_key JSON DEFAULT NULL');
        DB::statement("ALTER TABLE causes ADD waive_hash CHAR(32) NOT NULL DEFAULT ''");
        DB::statement('ALTER TABLE pass_loads ADD all_rows TINYINT(1) NOT NULL DEFAULT 1');
        DB::statement('ALTER TABLE lanes ADD due_upto INT UNSIGNED NOT NULL DEFAULT 0, ADD is_set_back TINYINT(1) NOT NULL DEFAULT 0');
        DB::statement(
            'ALTER TABLE rounds ADD ended_as VARCHAR(12) DEFAULT NULL, ADD ended_with INT UNSIGNED DEFAULT NULL, '
                .'ADD ended_because TEXT DEFAULT NULL, '
                .'ADD ended_at TIMESTAMP NULL DEFAULT NULL, ADD ended_by INT UNSIGNED DEFAULT NULL, '
                .'ADD figures JSON DEFAULT NULL, ADD waivers_upto INT UNSIGNED NOT NULL DEFAULT 0, '
                .'ADD FOREIGN KEY (ended_by) REFERENCES users (id) ON DELETE SET NULL',
        );
        DB::statement("ALTER TABLE links MODIFY state ENUM('waiting','made','waived') NOT NULL");
        $this->corrections();
    }

    /** Corrections named rows by their number in whatever take was the newest. */
    private function corrections(): void
    {
        DB::statement(
            'INSERT INTO row_keys (extract_id, take_id, row_no, hash) '
                .'SELECT DISTINCT c.extract_id, e.take_id, c.row_no, s.hash FROM corrections c JOIN extracts e ON e.id = c.extract_id '
                .'JOIN staged_rows s ON s.take_id = e.take_id AND s.row_no = c.row_no',
        );
        DB::statement(
            'INSERT INTO decisions (id, migration_id, user_id, kind) SELECT c.id, s.migration_id, c.user_id, \'correction\' '
                .'FROM corrections c JOIN extracts e ON e.id = c.extract_id JOIN sources s ON s.id = e.source_id ORDER BY c.id',
        );
        DB::statement(
            'ALTER TABLE corrections ADD row_key_id INT UNSIGNED DEFAULT NULL, ADD decision INT UNSIGNED NOT NULL DEFAULT 0, '
                .'ADD whole TINYINT(1) NOT NULL DEFAULT 0, CHANGE replaced ended INT UNSIGNED NOT NULL DEFAULT 0, '
                .'ADD until_take INT UNSIGNED DEFAULT NULL, MODIFY old_value MEDIUMTEXT DEFAULT NULL, '
                .'MODIFY new_value MEDIUMTEXT DEFAULT NULL',
        );
        DB::statement(
            'UPDATE corrections c JOIN extracts e ON e.id = c.extract_id JOIN row_keys k ON k.extract_id = c.extract_id '
                .'AND k.take_id = e.take_id AND k.row_no = c.row_no SET c.row_key_id = k.id, c.decision = c.id',
        );
        DB::statement('DELETE FROM corrections WHERE row_key_id IS NULL');
        DB::statement(
            'ALTER TABLE corrections MODIFY row_key_id INT UNSIGNED NOT NULL, ADD KEY of_extract (extract_id, ended), '
                .'DROP KEY corrections_of_cell, DROP COLUMN row_no, ADD KEY of_row (row_key_id), '
                .'ADD FOREIGN KEY (row_key_id) REFERENCES row_keys (id)',
        );
    }

    private const TABLES = [
        <<<'SQL'
        CREATE TABLE decisions (
            id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
            migration_id INT UNSIGNED NOT NULL,
            user_id INT UNSIGNED DEFAULT NULL,
            kind VARCHAR(20) NOT NULL,
            at TIMESTAMP NOT NULL DEFAULT CURRENT_TIMESTAMP,
            KEY of_migration (migration_id, id),
            FOREIGN KEY (migration_id) REFERENCES migrations (id),
            FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE SET NULL
        ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
        SQL,
        <<<'SQL'
        CREATE TABLE row_keys (
            id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
            extract_id INT UNSIGNED NOT NULL,
            take_id INT UNSIGNED NOT NULL,
            row_no INT UNSIGNED NOT NULL,
            hash BINARY(8) NOT NULL,
            `columns` JSON DEFAULT NULL,
            `values` JSON DEFAULT NULL,
            place INT UNSIGNED DEFAULT NULL,
            known TINYINT(1) NOT NULL DEFAULT 0,
            UNIQUE KEY one (take_id, row_no),
            KEY of_extract (extract_id),
            FOREIGN KEY (extract_id) REFERENCES extracts (id),
            FOREIGN KEY (take_id) REFERENCES takes (id)
        ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
        SQL,
        <<<'SQL'
        CREATE TABLE row_places (
            take_id INT UNSIGNED NOT NULL,
            row_key_id INT UNSIGNED NOT NULL,
            row_no INT UNSIGNED DEFAULT NULL,
            PRIMARY KEY (take_id, row_key_id),
            KEY by_row (take_id, row_no),
            FOREIGN KEY (row_key_id) REFERENCES row_keys (id)
        ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
        SQL,
        <<<'SQL'
        CREATE TABLE correction_places (
            take_id INT UNSIGNED NOT NULL,
            row_no INT UNSIGNED NOT NULL,
            correction_id INT UNSIGNED NOT NULL,
            position SMALLINT UNSIGNED DEFAULT NULL,
            state ENUM('carried','confirmed','contradicted','without_row') NOT NULL,
            found MEDIUMTEXT DEFAULT NULL,
            PRIMARY KEY (take_id, row_no, correction_id),
            KEY of_correction (correction_id, take_id),
            FOREIGN KEY (correction_id) REFERENCES corrections (id)
        ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
        SQL,
        <<<'SQL'
        CREATE TABLE waivers (
            id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
            load_id INT UNSIGNED NOT NULL,
            round_id INT UNSIGNED NOT NULL,
            legacy_key VARCHAR(190) DEFAULT NULL,
            row_key_id INT UNSIGNED DEFAULT NULL,
            cause_hash CHAR(32) NOT NULL,
            reason TEXT NOT NULL,
            user_id INT UNSIGNED DEFAULT NULL,
            decision INT UNSIGNED NOT NULL,
            ended INT UNSIGNED NOT NULL DEFAULT 0,
            created_at TIMESTAMP NULL DEFAULT NULL,
            updated_at TIMESTAMP NULL DEFAULT NULL,
            KEY by_key (load_id, cause_hash, legacy_key),
            KEY by_row (row_key_id),
            FOREIGN KEY (load_id) REFERENCES loads (id),
            FOREIGN KEY (round_id) REFERENCES rounds (id),
            FOREIGN KEY (row_key_id) REFERENCES row_keys (id),
            FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE SET NULL
        ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
        SQL,
        <<<'SQL'
        CREATE TABLE due_causes (
            lane_id INT UNSIGNED NOT NULL,
            load_id INT UNSIGNED NOT NULL,
            cause_id INT UNSIGNED NOT NULL,
            pass_id INT UNSIGNED NOT NULL,
            n INT UNSIGNED NOT NULL,
            asked TINYINT(1) NOT NULL DEFAULT 0,
            PRIMARY KEY (lane_id, load_id, cause_id, pass_id)
        ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
        SQL,
        <<<'SQL'
        CREATE TABLE due_rows (
            lane_id INT UNSIGNED NOT NULL,
            load_id INT UNSIGNED NOT NULL,
            item INT UNSIGNED NOT NULL,
            PRIMARY KEY (lane_id, load_id, item)
        ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
        SQL,
        <<<'SQL'
        CREATE TABLE stale_rows (
            lane_id INT UNSIGNED NOT NULL,
            load_id INT UNSIGNED NOT NULL,
            by_rule INT UNSIGNED NOT NULL,
            by_correction INT UNSIGNED NOT NULL,
            PRIMARY KEY (lane_id, load_id)
        ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
        SQL,
    ];
};
