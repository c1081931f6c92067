<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

return new class extends Migration
{
    /** Where the legacy key of a load is stated another way its rows get new keys, kept beside those they had. */
    public function up(): void
    {
        DB::statement(
            <<<'SQL'
            CREATE TABLE new_keys (
                pass_id INT UNSIGNED NOT NULL,
                load_id INT UNSIGNED NOT NULL,
                item INT UNSIGNED NOT NULL,
                old_key VARCHAR(190) NOT NULL,
                new_key VARCHAR(190) NOT NULL,
                stands TINYINT UNSIGNED DEFAULT NULL,
                PRIMARY KEY (pass_id, load_id, item),
                KEY by_old (pass_id, old_key),
                KEY by_new (pass_id, new_key)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
        );
        DB::statement('ALTER TABLE passes ADD COLUMN has_new_keys TINYINT(1) NOT NULL DEFAULT 0');
    }

    public function down(): void
    {
        DB::statement('ALTER TABLE passes DROP COLUMN has_new_keys');
        DB::statement('DROP TABLE new_keys');
    }
};
