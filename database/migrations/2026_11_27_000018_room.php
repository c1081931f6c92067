<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

return new class extends Migration
{
    /**
     * How much was staged of a take, so that it is known what a migration takes of the disk.
     */
    public function up(): void
    {
        DB::statement('ALTER TABLE takes ADD staged_bytes BIGINT UNSIGNED DEFAULT NULL');
    }
};
