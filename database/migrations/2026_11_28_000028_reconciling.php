<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

return new class extends Migration
{
    /**
     * Control totals, what was counted of them and compared, with the rows behind; what a target wrote otherwise than it was given; what
     * the client says of the number of rows.
     */
    public function up(): void
    {
        DB::statement('ALTER TABLE record_counters ADD COLUMN removed BIGINT NOT NULL DEFAULT 0');
        DB::statement('ALTER TABLE takes ADD COLUMN stated_rows BIGINT UNSIGNED DEFAULT NULL,
            ADD COLUMN stated_by VARCHAR(255) DEFAULT NULL');
        DB::statement('ALTER TABLE extracts ADD COLUMN covering JSON DEFAULT NULL');
        DB::statement('ALTER TABLE causes ADD KEY by_parent (lane_id, parent_space_id, parent_key)');
        DB::statement('ALTER TABLE works ADD COLUMN stop_requested TINYINT(1) NOT NULL DEFAULT 0');
        DB::statement(
            <<<'SQL'
            CREATE TABLE written_otherwise (
                id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
                lane_id INT UNSIGNED NOT NULL,
                load_id INT UNSIGNED NOT NULL,
                item INT UNSIGNED NOT NULL,
                pass_id INT UNSIGNED NOT NULL,
                holds MEDIUMTEXT NOT NULL,
                KEY by_row (lane_id, load_id, item, pass_id)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE control_totals (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
                migration_id INT UNSIGNED NOT NULL,
                entity_id INT UNSIGNED NOT NULL,
                load_id INT UNSIGNED DEFAULT NULL,
                name VARCHAR(100) NOT NULL,
                position INT UNSIGNED NOT NULL,
                definition JSON NOT NULL,
                version INT UNSIGNED NOT NULL DEFAULT 1,
                user_id INT UNSIGNED DEFAULT NULL,
                created_at TIMESTAMP NULL DEFAULT NULL,
                updated_at TIMESTAMP NULL DEFAULT NULL,
                UNIQUE KEY one (migration_id, name),
                FOREIGN KEY (migration_id) REFERENCES migrations (id),
                FOREIGN KEY (entity_id) REFERENCES entities (id) ON DELETE CASCADE,
                FOREIGN KEY (load_id) REFERENCES loads (id) ON DELETE CASCADE,
                FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE SET NULL
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE reckonings (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
                round_id INT UNSIGNED NOT NULL,
                kind VARCHAR(12) NOT NULL,
                asked JSON NOT NULL,
                pass_id INT UNSIGNED DEFAULT NULL,
                figures LONGTEXT DEFAULT NULL,
                user_id INT UNSIGNED DEFAULT NULL,
                begun_at TIMESTAMP(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
                done_at TIMESTAMP(3) NULL DEFAULT NULL,
                KEY of_round (round_id, kind, id),
                FOREIGN KEY (round_id) REFERENCES rounds (id),
                FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE SET NULL
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE total_groups (
                reckoning_id INT UNSIGNED NOT NULL,
                total INT UNSIGNED NOT NULL,
                name VARCHAR(190) NOT NULL,
                figures TEXT NOT NULL,
                weight DOUBLE NOT NULL DEFAULT 0,
                PRIMARY KEY (reckoning_id, total, name),
                KEY by_weight (reckoning_id, total, weight, name)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE differing_rows (
                reckoning_id INT UNSIGNED NOT NULL,
                number INT UNSIGNED NOT NULL AUTO_INCREMENT,
                total INT UNSIGNED NOT NULL DEFAULT 0,
                load_id INT UNSIGNED NOT NULL,
                item INT UNSIGNED NOT NULL,
                name VARCHAR(190) NOT NULL,
                class VARCHAR(60) NOT NULL,
                happened VARCHAR(8) NOT NULL,
                legacy TEXT DEFAULT NULL,
                target TEXT DEFAULT NULL,
                weight DOUBLE NOT NULL,
                PRIMARY KEY (number),
                KEY by_weight (reckoning_id, total, weight, number),
                KEY by_name (reckoning_id, total, name, weight, number),
                KEY by_class (reckoning_id, load_id, name, class, happened, number),
                KEY by_row (reckoning_id, load_id, item)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
        );
    }

    public function down(): void
    {
        foreach (['differing_rows', 'total_groups', 'reckonings', 'control_totals', 'written_otherwise'] as $table) {
            DB::statement("DROP TABLE $table");
        }
        DB::statement('ALTER TABLE causes DROP KEY by_parent');
        DB::statement('ALTER TABLE works DROP COLUMN stop_requested');
        DB::statement('ALTER TABLE extracts DROP COLUMN covering');
        DB::statement('ALTER TABLE takes DROP COLUMN stated_rows, DROP COLUMN stated_by');
        DB::statement('ALTER TABLE record_counters DROP COLUMN removed');
    }
};
