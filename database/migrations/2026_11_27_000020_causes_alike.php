<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

return new class extends Migration
{
    /** Causes know which others are like them (load, stage, code, field), and tallies too: what fails alike is summed by one index. */
    public function up(): void
    {
        DB::statement('ALTER TABLE causes ADD alike BIGINT UNSIGNED NOT NULL DEFAULT 0');
        // As CauseBook::alike() gives it.
        DB::statement(
            "UPDATE causes SET alike = CONV(LEFT(MD5(CONCAT(load_id, '~', stage, '~', code, '~', COALESCE(field, ''))), 15), 16, 10)",
        );
        DB::statement('ALTER TABLE cause_tallies ADD alike BIGINT UNSIGNED NOT NULL DEFAULT 0');
        DB::statement('UPDATE cause_tallies t JOIN causes c ON c.id = t.cause_id SET t.alike = c.alike');
        DB::statement('ALTER TABLE cause_tallies ADD KEY by_alike (lane_id, outcome, alike, n)');
        // Repairs are taken back by the numbers of their decisions.
        DB::statement('ALTER TABLE corrections ADD KEY by_decision (decision)');
        DB::statement('ALTER TABLE waivers ADD KEY by_decision (decision)');
    }

    public function down(): void
    {
        DB::statement('ALTER TABLE waivers DROP KEY by_decision');
        DB::statement('ALTER TABLE corrections DROP KEY by_decision');
        DB::statement('ALTER TABLE cause_tallies DROP KEY by_alike, DROP alike');
        DB::statement('ALTER TABLE causes DROP alike');
    }
};
