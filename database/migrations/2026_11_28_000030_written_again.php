<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

return new class extends Migration
{
    /** Rows whose record somebody wants written again: the pass of their outcome when that was asked for, until another comes to them. */
    public function up(): void
    {
        DB::statement('ALTER TABLE due_rows ADD COLUMN pass_id INT UNSIGNED DEFAULT NULL');
    }

    public function down(): void
    {
        DB::statement('DELETE FROM due_rows WHERE pass_id IS NOT NULL');
        DB::statement('ALTER TABLE due_rows DROP COLUMN pass_id');
    }
};
