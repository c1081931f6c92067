<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

return new class extends Migration
{
    /**
     * What becomes of fields of its records that others changed is a setting of a load. Of keys that lead elsewhere it is kept where they
     * led, so that the records which refer there are found.
     */
    public function up(): void
    {
        DB::statement("ALTER TABLE loads ADD COLUMN others VARCHAR(9) NOT NULL DEFAULT 'overwrite'");
        DB::statement('ALTER TABLE moved_keys ADD COLUMN target_key VARCHAR(190) DEFAULT NULL,
            ADD KEY led (pass_id, space_id, target_key)');
    }

    public function down(): void
    {
        DB::statement('ALTER TABLE moved_keys DROP KEY led, DROP COLUMN target_key');
        DB::statement('ALTER TABLE loads DROP COLUMN others');
    }
};
