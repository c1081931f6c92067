<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

/** The plan as it was last applied from a file, so that work done on screens since is known; codes as they were. */
return new class extends Migration
{
    public function up(): void
    {
        DB::statement('ALTER TABLE migrations ADD plan_base LONGTEXT DEFAULT NULL');
        DB::statement('ALTER TABLE takes ADD reader JSON DEFAULT NULL');
        // Headers of one file may differ in capitals alone.
        DB::statement('ALTER TABLE column_decisions MODIFY header VARCHAR(255) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL');
        DB::statement('ALTER TABLE extracts ADD allow_empty TINYINT(1) NOT NULL DEFAULT 0');
        DB::statement(
            <<<'SQL'
            CREATE TABLE code_versions (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT,
                code_crosswalk_id INT UNSIGNED NOT NULL,
                old_value VARCHAR(190) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
                new_value VARCHAR(190) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin DEFAULT NULL,
                decision VARCHAR(8) DEFAULT NULL,
                user_id INT UNSIGNED DEFAULT NULL,
                at TIMESTAMP(3) NOT NULL DEFAULT current_timestamp(3),
                PRIMARY KEY (id),
                KEY of_code (code_crosswalk_id, old_value, id),
                FOREIGN KEY (code_crosswalk_id) REFERENCES code_crosswalks (id) ON DELETE CASCADE,
                FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE SET NULL
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
    }

    public function down(): void
    {
        DB::statement('DROP TABLE code_versions');
        DB::statement('ALTER TABLE extracts DROP allow_empty');
        DB::statement('ALTER TABLE takes DROP reader');
        DB::statement('ALTER TABLE migrations DROP plan_base');
    }
};
