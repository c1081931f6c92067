<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

return new class extends Migration
{
    /** A dry run says what records would say otherwise. */
    public function up(): void
    {
        DB::statement('ALTER TABLE dry_rows ADD COLUMN changes MEDIUMTEXT DEFAULT NULL');
    }

    public function down(): void
    {
        DB::statement('ALTER TABLE dry_rows DROP COLUMN changes');
    }
};
