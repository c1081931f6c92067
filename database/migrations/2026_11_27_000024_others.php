<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

return new class extends Migration
{
    /** What becomes of fields of its records that others changed is a setting of a load. */
    public function up(): void
    {
        DB::statement("ALTER TABLE loads ADD COLUMN others VARCHAR(9) NOT NULL DEFAULT 'overwrite'");
    }

    public function down(): void
    {
        DB::statement('ALTER TABLE loads DROP COLUMN others');
    }
};
