<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

/** What people typed and have not sent. */
return new class extends Migration
{
    public function up(): void
    {
        DB::statement(
            <<<'SQL'
            CREATE TABLE drafts (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT,
                migration_id INT UNSIGNED NOT NULL,
                user_id INT UNSIGNED NOT NULL,
                page VARCHAR(250) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
                fields MEDIUMTEXT NOT NULL,
                created_at TIMESTAMP NULL DEFAULT NULL,
                updated_at TIMESTAMP NULL DEFAULT NULL,
                PRIMARY KEY (id),
                UNIQUE KEY of_person (user_id, migration_id, page),
                KEY updated_at (updated_at),
                FOREIGN KEY (migration_id) REFERENCES migrations (id) ON DELETE CASCADE,
                FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE CASCADE
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
    }

    public function down(): void
    {
        DB::statement('DROP TABLE drafts');
    }
};
