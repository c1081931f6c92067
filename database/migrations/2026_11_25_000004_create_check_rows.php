<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

return new class extends Migration
{
    public function up(): void
    {
        // Which rows each cause of a check is about.
        DB::statement(<<<'SQL'
            CREATE TABLE check_rows (
                check_id BIGINT UNSIGNED NOT NULL,
                cause SMALLINT UNSIGNED NOT NULL,
                row_no INT UNSIGNED NOT NULL,
                PRIMARY KEY (check_id, cause, row_no),
                FOREIGN KEY (check_id) REFERENCES load_checks (id) ON DELETE CASCADE
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4
            SQL);
        // What was found before names no rows.
        DB::table('load_checks')->delete();
    }
};
