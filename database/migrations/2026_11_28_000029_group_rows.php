<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

return new class extends Migration
{
    /** Rows of one group of a control total, listed for whoever wants to see them. */
    public function up(): void
    {
        DB::statement(
            <<<'SQL'
            CREATE TABLE group_rows (
                number INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
                reckoning_id INT UNSIGNED NOT NULL,
                total INT UNSIGNED NOT NULL,
                name VARCHAR(190) NOT NULL,
                part VARCHAR(12) NOT NULL,
                load_id INT UNSIGNED NOT NULL,
                item INT UNSIGNED NOT NULL,
                legacy TEXT DEFAULT NULL,
                target TEXT DEFAULT NULL,
                KEY by_part (reckoning_id, total, name, part, number)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
        );
    }

    public function down(): void
    {
        DB::statement('DROP TABLE group_rows');
    }
};
