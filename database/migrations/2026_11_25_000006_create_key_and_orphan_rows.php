<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        // Rows that share a key, by the first of them; 0 for rows whose key is blank.
        DB::statement(<<<'SQL'
            CREATE TABLE key_rows (
                key_id BIGINT UNSIGNED NOT NULL,
                first_row INT UNSIGNED NOT NULL,
                row_no INT UNSIGNED NOT NULL,
                PRIMARY KEY (key_id, first_row, row_no),
                FOREIGN KEY (key_id) REFERENCES key_candidates (id) ON DELETE CASCADE
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4
            SQL);
        // Rows of a reference whose parent is nowhere. References are written anew by each study, so they are known by a number of their own.
        DB::statement(<<<'SQL'
            CREATE TABLE orphan_rows (
                migration_id BIGINT UNSIGNED NOT NULL,
                reference INT UNSIGNED NOT NULL,
                row_no INT UNSIGNED NOT NULL,
                PRIMARY KEY (migration_id, reference, row_no),
                FOREIGN KEY (migration_id) REFERENCES migrations (id) ON DELETE CASCADE
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4
            SQL);
        Schema::table('column_references', function (Blueprint $t) {
            $t->unsignedInteger('number')->nullable();
            $t->dropColumn('examples');
        });
        // Each work has a table of its own now, which ends with it.
        DB::statement('DROP TABLE IF EXISTS row_prints');
        // Found before without their rows being written down: looked for again.
        DB::table('takes')->update(['studied_at' => null]);
    }
};
