<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

return new class extends Migration
{
    /**
     * Tables with as many lines as there are rows, or a share of them. Keys and codes compare byte by byte, blanks at the end included.
     * The largest have no foreign keys: they would cost a look-up per row, and their rows are written in bulk and deleted in ranges.
     */
    public function up(): void
    {
        DB::statement(
            <<<'SQL'
            CREATE TABLE staged_rows (
                take_id INT UNSIGNED NOT NULL,
                row_no INT UNSIGNED NOT NULL,
                line INT UNSIGNED NOT NULL,
                hash BINARY(8) NOT NULL,
                cells MEDIUMTEXT NOT NULL,
                PRIMARY KEY (take_id,row_no)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE column_values (
                take_id INT UNSIGNED NOT NULL,
                `position` SMALLINT UNSIGNED NOT NULL,
                value VARCHAR(190) NOT NULL,
                n INT UNSIGNED NOT NULL,
                PRIMARY KEY (take_id,position,value)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE take_changes (
                take_id INT UNSIGNED NOT NULL,
                kind ENUM('added','changed','gone') NOT NULL,
                row_no INT UNSIGNED NOT NULL,
                was_row INT UNSIGNED DEFAULT NULL,
                PRIMARY KEY (take_id,kind,row_no),
                FOREIGN KEY (take_id) REFERENCES takes (id) ON DELETE CASCADE
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE key_rows (
                key_id INT UNSIGNED NOT NULL,
                first_row INT UNSIGNED NOT NULL,
                row_no INT UNSIGNED NOT NULL,
                PRIMARY KEY (key_id,first_row,row_no),
                FOREIGN KEY (key_id) REFERENCES key_candidates (id) ON DELETE CASCADE
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE orphan_rows (
                migration_id INT UNSIGNED NOT NULL,
                reference INT UNSIGNED NOT NULL,
                row_no INT UNSIGNED NOT NULL,
                PRIMARY KEY (migration_id,reference,row_no),
                FOREIGN KEY (migration_id) REFERENCES migrations (id) ON DELETE CASCADE
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE finding_rows (
                finding_id INT UNSIGNED NOT NULL,
                row_no INT UNSIGNED NOT NULL,
                PRIMARY KEY (finding_id,row_no),
                FOREIGN KEY (finding_id) REFERENCES findings (id) ON DELETE CASCADE
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE check_rows (
                check_id INT UNSIGNED NOT NULL,
                cause SMALLINT UNSIGNED NOT NULL,
                row_no INT UNSIGNED NOT NULL,
                PRIMARY KEY (check_id,cause,row_no),
                FOREIGN KEY (check_id) REFERENCES load_checks (id) ON DELETE CASCADE
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
    }
};
