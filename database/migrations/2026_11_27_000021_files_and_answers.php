<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

return new class extends Migration
{
    /** Files of rejects that go to the client, what comes back in them, and what is said about rows. */
    public function up(): void
    {
        foreach (self::TABLES as $table) {
            DB::statement($table);
        }
        DB::statement("ALTER TABLE migrations ADD words VARCHAR(12) NOT NULL DEFAULT 'en'");
    }

    private const TABLES = [
        <<<'SQL'
        CREATE TABLE files (
            id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
            migration_id INT UNSIGNED NOT NULL,
            round_id INT UNSIGNED NOT NULL,
            code CHAR(6) NOT NULL,
            title VARCHAR(255) NOT NULL,
            format VARCHAR(4) NOT NULL,
            words VARCHAR(12) NOT NULL,
            loads JSON NOT NULL,
            alike VARCHAR(300) DEFAULT NULL,
            decision INT UNSIGNED NOT NULL,
            row_count INT UNSIGNED NOT NULL DEFAULT 0,
            elsewhere INT UNSIGNED NOT NULL DEFAULT 0,
            work_id INT UNSIGNED DEFAULT NULL,
            user_id INT UNSIGNED DEFAULT NULL,
            to_whom VARCHAR(190) DEFAULT NULL,
            sent_on DATE DEFAULT NULL,
            closed_at TIMESTAMP NULL DEFAULT NULL,
            created_at TIMESTAMP NULL DEFAULT NULL,
            updated_at TIMESTAMP NULL DEFAULT NULL,
            UNIQUE KEY files_code (code),
            KEY of_migration (migration_id, id),
            FOREIGN KEY (migration_id) REFERENCES migrations (id) ON DELETE CASCADE,
            FOREIGN KEY (round_id) REFERENCES rounds (id) ON DELETE CASCADE,
            FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE SET NULL
        ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
        SQL,
        <<<'SQL'
        CREATE TABLE file_loads (
            file_id INT UNSIGNED NOT NULL,
            load_id INT UNSIGNED NOT NULL,
            take_id INT UNSIGNED NOT NULL,
            row_set LONGBLOB NOT NULL,
            PRIMARY KEY (file_id, load_id),
            KEY of_take (take_id),
            FOREIGN KEY (file_id) REFERENCES files (id) ON DELETE CASCADE
        ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
        SQL,
        <<<'SQL'
        CREATE TABLE answers (
            id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
            migration_id INT UNSIGNED NOT NULL,
            file_id INT UNSIGNED DEFAULT NULL,
            round_id INT UNSIGNED NOT NULL,
            name VARCHAR(255) NOT NULL,
            path VARCHAR(255) DEFAULT NULL,
            sent_by VARCHAR(190) DEFAULT NULL,
            state ENUM('waiting', 'asking', 'listed', 'refused') NOT NULL,
            told TEXT DEFAULT NULL,
            found JSON DEFAULT NULL,
            columns_as JSON DEFAULT NULL,
            user_id INT UNSIGNED DEFAULT NULL,
            created_at TIMESTAMP NULL DEFAULT NULL,
            updated_at TIMESTAMP NULL DEFAULT NULL,
            KEY of_migration (migration_id, id),
            FOREIGN KEY (migration_id) REFERENCES migrations (id) ON DELETE CASCADE,
            FOREIGN KEY (round_id) REFERENCES rounds (id) ON DELETE CASCADE,
            FOREIGN KEY (file_id) REFERENCES files (id) ON DELETE CASCADE,
            FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE SET NULL
        ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
        SQL,
        <<<'SQL'
        CREATE TABLE answer_changes (
            id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
            answer_id INT UNSIGNED NOT NULL,
            load_id INT UNSIGNED NOT NULL,
            row_no INT UNSIGNED NOT NULL,
            position SMALLINT UNSIGNED NOT NULL,
            was MEDIUMTEXT DEFAULT NULL,
            is_now MEDIUMTEXT DEFAULT NULL,
            becomes MEDIUMTEXT DEFAULT NULL,
            take_id INT UNSIGNED NOT NULL,
            kind ENUM('change', 'conflict', 'program') NOT NULL,
            state ENUM('open', 'taken', 'left') NOT NULL DEFAULT 'open',
            decision INT UNSIGNED DEFAULT NULL,
            user_id INT UNSIGNED DEFAULT NULL,
            KEY by_decision (decision),
            UNIQUE KEY cell (answer_id, load_id, row_no, position),
            KEY of_state (answer_id, state, kind, id),
            FOREIGN KEY (answer_id) REFERENCES answers (id) ON DELETE CASCADE
        ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
        SQL,
        <<<'SQL'
        CREATE TABLE row_remarks (
            id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
            answer_id INT UNSIGNED NOT NULL,
            row_key_id INT UNSIGNED NOT NULL,
            remark TEXT NOT NULL,
            UNIQUE KEY once (answer_id, row_key_id),
            KEY of_row (row_key_id),
            FOREIGN KEY (answer_id) REFERENCES answers (id) ON DELETE CASCADE,
            FOREIGN KEY (row_key_id) REFERENCES row_keys (id) ON DELETE CASCADE
        ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
        SQL,
    ];

    public function down(): void
    {
        DB::statement('ALTER TABLE migrations DROP words');
        foreach (['row_remarks', 'answer_changes', 'answers', 'file_loads', 'files'] as $table) {
            DB::statement("DROP TABLE $table");
        }
    }
};
