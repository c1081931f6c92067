<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

return new class extends Migration
{
    /** A round may take over the key crosswalk of an earlier one in the same target. */
    public function up(): void
    {
        DB::statement('ALTER TABLE lanes ADD COLUMN earlier_lane_id INT UNSIGNED DEFAULT NULL,
            ADD CONSTRAINT lanes_earlier FOREIGN KEY (earlier_lane_id) REFERENCES lanes (id) ON DELETE SET NULL');
    }

    public function down(): void
    {
        DB::statement('ALTER TABLE lanes DROP FOREIGN KEY lanes_earlier, DROP COLUMN earlier_lane_id');
    }
};
