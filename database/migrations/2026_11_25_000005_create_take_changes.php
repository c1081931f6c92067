<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

return new class extends Migration
{
    public function up(): void
    {
        // How the rows of a take differ from those of the take it is compared with.
        DB::statement(<<<'SQL'
            CREATE TABLE take_changes (
                take_id BIGINT UNSIGNED NOT NULL,
                kind ENUM('added', 'changed', 'gone') NOT NULL,
                row_no INT UNSIGNED NOT NULL COMMENT 'of this take; of the one before where it is gone',
                was_row INT UNSIGNED NULL COMMENT 'the changed row in the take before',
                PRIMARY KEY (take_id, kind, row_no),
                FOREIGN KEY (take_id) REFERENCES takes (id) ON DELETE CASCADE
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4
            SQL);
        // Compared before without its rows being written down: it is studied again.
        DB::table('takes')->whereNotNull('compared')->update(['compared' => null, 'studied_at' => null]);
    }
};
