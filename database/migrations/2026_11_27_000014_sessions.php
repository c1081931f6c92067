<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

return new class extends Migration
{
    /**
     * Sessions that can be read and ended one by one, second factors with their recovery codes, and what the administrator set.
     */
    public function up(): void
    {
        DB::statement(
            <<<'SQL'
            CREATE TABLE login_sessions (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT,
                user_id INT UNSIGNED NOT NULL,
                token BINARY(32) NOT NULL,
                ip VARCHAR(45) DEFAULT NULL,
                agent VARCHAR(250) NOT NULL DEFAULT '',
                began_at TIMESTAMP NOT NULL DEFAULT current_timestamp(),
                seen_at TIMESTAMP NOT NULL DEFAULT current_timestamp(),
                PRIMARY KEY (id),
                UNIQUE KEY login_sessions_token (token),
                KEY login_sessions_user_id (user_id),
                FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE CASCADE
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE recovery_codes (
                user_id INT UNSIGNED NOT NULL,
                code BINARY(32) NOT NULL,
                PRIMARY KEY (user_id, code),
                FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE CASCADE
            ) ENGINE=InnoDB
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE settings (
                name VARCHAR(40) NOT NULL,
                value LONGTEXT NOT NULL,
                PRIMARY KEY (name)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin
            SQL
        );
        // Its form says what it showed instead.
        DB::statement('ALTER TABLE loads DROP version');
        DB::statement('ALTER TABLE audit_entries ADD KEY audit_entries_by (migration_id, user_id, id)');
        DB::statement(
            <<<'SQL'
            ALTER TABLE users
                DROP era,
                ADD totp_secret TEXT DEFAULT NULL,
                ADD totp_since TIMESTAMP NULL DEFAULT NULL,
                ADD totp_step BIGINT UNSIGNED NOT NULL DEFAULT 0
            SQL
        );
    }
};
