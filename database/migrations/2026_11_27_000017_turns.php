<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

return new class extends Migration
{
    /**
     * Jobs are of a migration and of whoever does them; migrations take turns at each queue.
     */
    public function up(): void
    {
        DB::statement(
            <<<'SQL'
            ALTER TABLE jobs
                ADD migration_id INT UNSIGNED NOT NULL DEFAULT 0,
                ADD taken_by BIGINT UNSIGNED DEFAULT NULL,
                ADD what CHAR(32) CHARACTER SET ascii COLLATE ascii_bin DEFAULT NULL,
                ADD KEY jobs_what (what),
                DROP KEY jobs_queue_index,
                ADD KEY jobs_of (queue, migration_id, id, reserved_at, available_at, taken_by)
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE turns (
                queue VARCHAR(20) NOT NULL,
                migration_id INT UNSIGNED NOT NULL,
                at BIGINT UNSIGNED NOT NULL,
                PRIMARY KEY (queue, migration_id)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        // What waited when this came is of no migration, and of the kind its class says.
        foreach (['FreezeTake' => 'takes', 'WorkOnPass' => 'passes', 'EndPass' => 'passes'] as $class => $queue) {
            DB::update("UPDATE jobs SET queue = ? WHERE queue = 'default' AND payload LIKE ?", [$queue, "%$class%"]);
        }
        DB::update("UPDATE jobs SET queue = 'rows' WHERE queue = 'default'");
    }
};
