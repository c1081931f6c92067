<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

/** What stands around every page, figures that were counted, and work that takes longer than a page. */
return new class extends Migration
{
    public function up(): void
    {
        DB::statement(
            <<<'SQL'
            CREATE TABLE overviews (
                migration_id INT UNSIGNED NOT NULL,
                version INT UNSIGNED NOT NULL,
                value MEDIUMTEXT NOT NULL,
                PRIMARY KEY (migration_id),
                FOREIGN KEY (migration_id) REFERENCES migrations (id) ON DELETE CASCADE
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        // No key to migrations: nobody who writes may wait for somebody who changes one.
        DB::statement(
            <<<'SQL'
            CREATE TABLE overview_marks (
                id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT,
                migration_id INT UNSIGNED NOT NULL,
                PRIMARY KEY (id),
                KEY of_migration (migration_id, id)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE counts (
                round_id INT UNSIGNED NOT NULL,
                state VARCHAR(10) NOT NULL,
                pass_id INT UNSIGNED DEFAULT NULL,
                figures JSON DEFAULT NULL,
                error TEXT DEFAULT NULL,
                asked_at TIMESTAMP(3) NULL DEFAULT NULL,
                counted_at TIMESTAMP(3) NULL DEFAULT NULL,
                PRIMARY KEY (round_id),
                FOREIGN KEY (round_id) REFERENCES rounds (id) ON DELETE CASCADE
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE works (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT,
                migration_id INT UNSIGNED NOT NULL,
                user_id INT UNSIGNED DEFAULT NULL,
                kind VARCHAR(20) NOT NULL,
                title VARCHAR(255) NOT NULL,
                given LONGTEXT NOT NULL,
                state VARCHAR(10) NOT NULL,
                total INT UNSIGNED NOT NULL DEFAULT 0,
                done INT UNSIGNED NOT NULL DEFAULT 0,
                attempts TINYINT UNSIGNED NOT NULL DEFAULT 0,
                told TEXT DEFAULT NULL,
                file VARCHAR(255) DEFAULT NULL,
                seen TINYINT(1) NOT NULL DEFAULT 0,
                created_at TIMESTAMP NULL DEFAULT NULL,
                updated_at TIMESTAMP NULL DEFAULT NULL,
                PRIMARY KEY (id),
                KEY of_migration (migration_id, state),
                KEY of_user (user_id),
                FOREIGN KEY (migration_id) REFERENCES migrations (id) ON DELETE CASCADE,
                FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE SET NULL
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement('ALTER TABLE waivers ADD KEY newest (load_id, cause_hash, decision)');
        DB::statement('ALTER TABLE correction_places ADD KEY waiting (take_id, state)');
        DB::statement('ALTER TABLE rounds ADD note VARCHAR(1000) DEFAULT NULL');
        DB::statement('ALTER TABLE pass_loads ADD began_at TIMESTAMP(3) NULL DEFAULT NULL, ADD ended_at TIMESTAMP(3) NULL DEFAULT NULL');
    }

    public function down(): void
    {
        DB::statement('ALTER TABLE pass_loads DROP began_at, DROP ended_at');
        DB::statement('ALTER TABLE rounds DROP note');
        DB::statement('ALTER TABLE correction_places DROP KEY waiting');
        DB::statement('ALTER TABLE waivers DROP KEY newest');
        foreach (['works', 'counts', 'overview_marks', 'overviews'] as $table) {
            DB::statement("DROP TABLE $table");
        }
    }
};
