<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

return new class extends Migration
{
    /**
     * Several workers on one load: stretches somebody is at, what rows claim for themselves, and rows that are in each other's way.
     */
    public function up(): void
    {
        DB::statement(
            <<<'SQL'
            CREATE TABLE stretches (
                pass_load_id INT UNSIGNED NOT NULL,
                kind ENUM('free','turn') NOT NULL,
                after_row BIGINT UNSIGNED NOT NULL,
                to_row BIGINT UNSIGNED NOT NULL,
                PRIMARY KEY (pass_load_id, kind, after_row),
                FOREIGN KEY (pass_load_id) REFERENCES pass_loads (id) ON DELETE CASCADE
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE claims (
                pass_load_id INT UNSIGNED NOT NULL,
                after_row BIGINT UNSIGNED NOT NULL,
                hashes MEDIUMBLOB NOT NULL,
                PRIMARY KEY (pass_load_id, after_row),
                FOREIGN KEY (pass_load_id) REFERENCES pass_loads (id) ON DELETE CASCADE
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE contested_rows (
                pass_load_id INT UNSIGNED NOT NULL,
                item INT UNSIGNED NOT NULL,
                PRIMARY KEY (pass_load_id, item),
                FOREIGN KEY (pass_load_id) REFERENCES pass_loads (id) ON DELETE CASCADE
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE announced_keys (
                lane_id INT UNSIGNED NOT NULL,
                space_id INT UNSIGNED NOT NULL,
                hash BINARY(16) NOT NULL,
                load_id INT UNSIGNED NOT NULL,
                item INT UNSIGNED NOT NULL,
                PRIMARY KEY (lane_id, space_id, hash)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
        );
        DB::statement(
            "ALTER TABLE pass_loads ADD COLUMN way ENUM('','free','turn') NOT NULL DEFAULT '' AFTER state,
                ADD COLUMN told_row BIGINT UNSIGNED NOT NULL DEFAULT 0 AFTER cursor_row,
                ADD COLUMN turn_row BIGINT UNSIGNED NOT NULL DEFAULT 0 AFTER told_row,
                ADD COLUMN last_row BIGINT UNSIGNED NOT NULL DEFAULT 0 AFTER turn_row,
                ADD COLUMN late_row BIGINT UNSIGNED DEFAULT NULL AFTER key_cursor,
                DROP COLUMN all_rows,
                ADD COLUMN is_turn_over TINYINT(1) NOT NULL DEFAULT 0 AFTER last_row"
        );
        DB::statement('ALTER TABLE passes ADD COLUMN is_prepared TINYINT(1) NOT NULL DEFAULT 0 AFTER stop_requested,
                ADD COLUMN told JSON NOT NULL DEFAULT (JSON_ARRAY())');
        DB::statement('ALTER TABLE causes ADD KEY by_code (lane_id, code)');
        // A pass that was paused before goes on row by row: what its earlier rows claimed was not told.
        DB::statement(
            "UPDATE pass_loads l JOIN passes p ON p.id = l.pass_id JOIN round_loads r ON r.round_id = p.round_id AND r.load_id = l.load_id
            SET l.last_row = r.feed_rows, p.is_prepared = l.cursor_row > 0 OR p.is_prepared,
                l.way = IF(l.cursor_row > 0, 'turn', l.way), l.turn_row = l.cursor_row
            WHERE p.state <> 'finished'"
        );
    }
};
