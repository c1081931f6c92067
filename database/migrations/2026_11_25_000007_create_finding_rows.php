<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

return new class extends Migration
{
    public function up(): void
    {
        // All rows of findings that are about more than stand with the finding.
        DB::statement(<<<'SQL'
            CREATE TABLE finding_rows (
                finding_id BIGINT UNSIGNED NOT NULL,
                row_no INT UNSIGNED NOT NULL,
                PRIMARY KEY (finding_id, row_no),
                FOREIGN KEY (finding_id) REFERENCES findings (id) ON DELETE CASCADE
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4
            SQL);
    }
};
