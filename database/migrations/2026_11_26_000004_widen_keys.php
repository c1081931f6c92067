<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

return new class extends Migration
{
    /** A key of the target may be as long as one of the legacy system. */
    public function up(): void
    {
        foreach (['outcomes' => 'NULL', 'outcome_log' => 'NULL', 'links' => 'NOT NULL', 'match_entries' => 'NOT NULL'] as $table => $null) {
            DB::statement("ALTER TABLE $table MODIFY target_key VARCHAR(190) $null");
        }
    }
};
