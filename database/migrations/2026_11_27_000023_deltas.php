<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

return new class extends Migration
{
    /**
     * Rows keep their number from take to take, so a line of the ledger is found by it in any of them. A pass may take a round to newer
     * takes, rules or decisions; rows that are delivered no more keep a line beside the sum.
     */
    public function up(): void
    {
        DB::statement('ALTER TABLE takes ADD COLUMN last_row INT UNSIGNED DEFAULT NULL');
        DB::statement("ALTER TABLE outcomes ADD COLUMN seen_by INT UNSIGNED DEFAULT NULL,
            MODIFY outcome ENUM('loaded','updated','unchanged','merged','removed','excluded','held','rejected','waived','pending',
                'gone','review','withdrawn') NOT NULL");
        DB::statement('ALTER TABLE outcome_log ADD COLUMN legacy_key VARCHAR(190) DEFAULT NULL');
        DB::statement('ALTER TABLE passes ADD COLUMN is_full TINYINT(1) NOT NULL DEFAULT 0');
        DB::statement('ALTER TABLE pass_loads ADD COLUMN from_take_id INT UNSIGNED DEFAULT NULL,
            ADD COLUMN compared_row BIGINT UNSIGNED DEFAULT NULL, ADD COLUMN compared JSON DEFAULT NULL');
        DB::statement("ALTER TABLE loads ADD COLUMN gone VARCHAR(8) NOT NULL DEFAULT 'review'");
        DB::statement(
            <<<'SQL'
            CREATE TABLE delta_rows (
                pass_load_id INT UNSIGNED NOT NULL,
                kind ENUM('work','remove') NOT NULL,
                item INT UNSIGNED NOT NULL,
                PRIMARY KEY (pass_load_id, kind, item),
                FOREIGN KEY (pass_load_id) REFERENCES pass_loads (id) ON DELETE CASCADE
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE moved_keys (
                pass_id INT UNSIGNED NOT NULL,
                space_id INT UNSIGNED NOT NULL,
                legacy_key VARCHAR(190) NOT NULL,
                PRIMARY KEY (pass_id, space_id, legacy_key),
                FOREIGN KEY (pass_id) REFERENCES passes (id) ON DELETE CASCADE
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
        );
    }

    public function down(): void
    {
        DB::statement('DROP TABLE moved_keys');
        DB::statement('DROP TABLE delta_rows');
        DB::statement('ALTER TABLE loads DROP COLUMN gone');
        DB::statement('ALTER TABLE pass_loads DROP COLUMN from_take_id, DROP COLUMN compared_row, DROP COLUMN compared');
        DB::statement('ALTER TABLE passes DROP COLUMN is_full');
        DB::statement('ALTER TABLE outcome_log DROP COLUMN legacy_key');
        DB::statement("ALTER TABLE outcomes DROP COLUMN seen_by,
            MODIFY outcome
                ENUM('loaded','updated','unchanged','merged','removed','excluded','held','rejected','waived','pending') NOT NULL");
        DB::statement('ALTER TABLE takes DROP COLUMN last_row');
    }
};
