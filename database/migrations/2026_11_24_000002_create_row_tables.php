<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

return new class extends Migration
{
    public function up(): void
    {
        // Row-sized tables. Keys and codes compare byte by byte, blanks at the end included. No foreign keys: they
        // would cost a look-up per row, and the rows are only ever written in bulk by the loader.
        DB::statement(
            <<<'SQL'
            CREATE TABLE staged_rows (
                take_id INT UNSIGNED NOT NULL,
                row_no INT UNSIGNED NOT NULL,
                line INT UNSIGNED NOT NULL,
                hash BINARY(8) NOT NULL,
                cells MEDIUMTEXT NOT NULL,
                PRIMARY KEY (take_id, row_no)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
            ,
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE column_values (
                take_id INT UNSIGNED NOT NULL,
                position SMALLINT UNSIGNED NOT NULL,
                value VARCHAR(190) NOT NULL,
                n INT UNSIGNED NOT NULL,
                PRIMARY KEY (take_id, position, value)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
            ,
        );
        // The ledger and the key crosswalk in one. twin is 0 where a target key is set, so the unique key allows one such
        // row per legacy key; rows without one carry their own number and never collide.
        DB::statement(
            <<<'SQL'
            CREATE TABLE outcomes (
                round_id INT UNSIGNED NOT NULL,
                load_id INT UNSIGNED NOT NULL,
                row_no INT UNSIGNED NOT NULL,
                entity_id INT UNSIGNED NOT NULL,
                source_id INT UNSIGNED NOT NULL,
                legacy_key VARCHAR(190) NOT NULL,
                twin BIGINT UNSIGNED NOT NULL,
                outcome ENUM('loaded','updated','unchanged','merged','removed','excluded','held','rejected','waived','pending') NOT NULL,
                target_key VARCHAR(64) NULL,
                cause_id INT UNSIGNED NULL,
                root_cause_id INT UNSIGNED NULL,
                pass_id INT UNSIGNED NOT NULL,
                PRIMARY KEY (round_id, load_id, row_no),
                UNIQUE KEY crosswalk (round_id, entity_id, source_id, legacy_key, twin),
                KEY target (round_id, entity_id, target_key),
                KEY by_outcome (round_id, load_id, outcome),
                KEY by_cause (cause_id, row_no),
                KEY by_root (root_cause_id)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
            ,
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE outcome_log (
                id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
                round_id INT UNSIGNED NOT NULL,
                load_id INT UNSIGNED NOT NULL,
                row_no INT UNSIGNED NOT NULL,
                pass_id INT UNSIGNED NOT NULL,
                outcome VARCHAR(12) NOT NULL,
                target_key VARCHAR(64) NULL,
                cause_id INT UNSIGNED NULL,
                replaced_at TIMESTAMP NOT NULL DEFAULT CURRENT_TIMESTAMP,
                KEY by_row (round_id, load_id, row_no)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
            ,
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE causes (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
                round_id INT UNSIGNED NOT NULL,
                load_id INT UNSIGNED NOT NULL,
                stage VARCHAR(12) NOT NULL,
                code VARCHAR(30) NOT NULL,
                field VARCHAR(190) NULL,
                value VARCHAR(250) NULL,
                message VARCHAR(500) NOT NULL,
                parent_entity VARCHAR(190) NULL,
                parent_source VARCHAR(12) NULL,
                parent_key VARCHAR(190) NULL,
                fingerprint CHAR(32) NOT NULL,
                UNIQUE KEY one (round_id, load_id, fingerprint)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
            ,
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE links (
                round_id INT UNSIGNED NOT NULL,
                load_id INT UNSIGNED NOT NULL,
                row_no INT UNSIGNED NOT NULL,
                field VARCHAR(64) NOT NULL,
                parent_entity_id INT UNSIGNED NOT NULL,
                parent_source_id INT UNSIGNED NOT NULL,
                parent_key VARCHAR(190) NOT NULL,
                target_key VARCHAR(64) NOT NULL,
                state ENUM('waiting','made') NOT NULL,
                PRIMARY KEY (round_id, load_id, row_no, field),
                KEY waiting (round_id, state, load_id, field, row_no)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
            ,
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE match_entries (
                round_id INT UNSIGNED NOT NULL,
                entity_id INT UNSIGNED NOT NULL,
                match_key CHAR(32) NOT NULL,
                target_key VARCHAR(64) NOT NULL,
                load_id INT UNSIGNED NULL,
                row_no INT UNSIGNED NULL,
                PRIMARY KEY (round_id, entity_id, match_key)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
            ,
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE tallies (
                round_id INT UNSIGNED NOT NULL,
                load_id INT UNSIGNED NOT NULL,
                outcome VARCHAR(12) NOT NULL,
                n BIGINT NOT NULL,
                PRIMARY KEY (round_id, load_id, outcome)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
            ,
        );
    }
};
