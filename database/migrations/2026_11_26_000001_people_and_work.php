<?php

use App\Support\BrokenOff;
use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    /**
     * People, what they did, and work that waits.
     */
    public function up(): void
    {
        // A data folder of before this set of tables: nothing of it is touched.
        if (Schema::hasTable('users')) {
            throw BrokenOff::olderData();
        }
        DB::statement(
            <<<'SQL'
            CREATE TABLE users (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT,
                name VARCHAR(255) NOT NULL,
                email VARCHAR(255) NOT NULL,
                role VARCHAR(20) NOT NULL,
                password VARCHAR(255) NOT NULL,
                remember_token VARCHAR(100) DEFAULT NULL,
                created_at TIMESTAMP NULL DEFAULT NULL,
                updated_at TIMESTAMP NULL DEFAULT NULL,
                PRIMARY KEY (id),
                UNIQUE KEY users_email_unique (email)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE jobs (
                id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT,
                queue VARCHAR(255) NOT NULL,
                payload LONGTEXT NOT NULL,
                attempts TINYINT UNSIGNED NOT NULL,
                reserved_at INT UNSIGNED DEFAULT NULL,
                available_at INT UNSIGNED NOT NULL,
                created_at INT UNSIGNED NOT NULL,
                PRIMARY KEY (id),
                KEY jobs_queue_index (queue)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE failed_jobs (
                id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT,
                uuid VARCHAR(255) NOT NULL,
                connection TEXT NOT NULL,
                queue TEXT NOT NULL,
                payload LONGTEXT NOT NULL,
                exception LONGTEXT NOT NULL,
                failed_at TIMESTAMP NOT NULL DEFAULT current_timestamp(),
                PRIMARY KEY (id),
                UNIQUE KEY failed_jobs_uuid_unique (uuid)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE migrations (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT,
                name VARCHAR(255) NOT NULL,
                target_name VARCHAR(255) NOT NULL,
                installation VARCHAR(40) NOT NULL,
                created_at TIMESTAMP NULL DEFAULT NULL,
                updated_at TIMESTAMP NULL DEFAULT NULL,
                target_description VARCHAR(500) DEFAULT NULL,
                PRIMARY KEY (id),
                UNIQUE KEY migrations_name_unique (name)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE audit_entries (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT,
                migration_id INT UNSIGNED DEFAULT NULL,
                user_id INT UNSIGNED DEFAULT NULL,
                what VARCHAR(255) NOT NULL,
                detail JSON DEFAULT NULL,
                at TIMESTAMP NOT NULL DEFAULT current_timestamp(),
                PRIMARY KEY (id),
                KEY audit_entries_user_id_foreign (user_id),
                KEY audit_entries_migration_id_id_index (migration_id,id),
                FOREIGN KEY (migration_id) REFERENCES migrations (id) ON DELETE CASCADE,
                FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE SET NULL
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
    }
};
