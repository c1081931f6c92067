<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

return new class extends Migration
{
    /**
     * Invitations, and from where something was done.
     */
    public function up(): void
    {
        DB::statement(
            <<<'SQL'
            CREATE TABLE invitations (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT,
                user_id INT UNSIGNED NOT NULL,
                made_by INT UNSIGNED DEFAULT NULL,
                token BINARY(32) NOT NULL,
                expires_at TIMESTAMP NULL DEFAULT NULL,
                created_at TIMESTAMP NOT NULL DEFAULT current_timestamp(),
                PRIMARY KEY (id),
                UNIQUE KEY invitations_token (token),
                KEY invitations_user_id (user_id),
                FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE CASCADE,
                FOREIGN KEY (made_by) REFERENCES users (id) ON DELETE SET NULL
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        // Where it changes, every session that was begun before is over.
        DB::statement('ALTER TABLE users MODIFY password VARCHAR(255) DEFAULT NULL, ADD era INT UNSIGNED NOT NULL DEFAULT 0');
        DB::statement('ALTER TABLE audit_entries ADD ip VARCHAR(45) DEFAULT NULL, ADD KEY audit_entries_at (at)');
    }
};
