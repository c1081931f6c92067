<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

return new class extends Migration
{
    /** Match rules belong to the entity and have names, loads list them; what a lane read of a target's records it read in a pass. */
    public function up(): void
    {
        DB::statement(
            <<<'SQL'
            CREATE TABLE match_rules (
                id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
                entity_id INT UNSIGNED NOT NULL,
                name VARCHAR(100) NOT NULL,
                `on` JSON NOT NULL,
                UNIQUE KEY one (entity_id, name),
                FOREIGN KEY (entity_id) REFERENCES entities (id) ON DELETE CASCADE
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin
            SQL
        );
        DB::statement(
            <<<'SQL'
            CREATE TABLE match_reads (
                lane_id INT UNSIGNED NOT NULL,
                entity_id INT UNSIGNED NOT NULL,
                rule CHAR(32) NOT NULL,
                pass_id INT UNSIGNED NOT NULL,
                n BIGINT UNSIGNED NOT NULL,
                newest VARCHAR(190) DEFAULT NULL,
                PRIMARY KEY (lane_id, entity_id, rule)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
        );
        DB::statement('ALTER TABLE loads ADD match_rules JSON DEFAULT NULL');
        foreach (DB::table('loads')->whereNotNull('match_on')->get(['id', 'entity_id', 'match_on']) as $load) {
            $on = (array) json_decode($load->match_on, true);
            if ($on === []) {
                continue;
            }
            $name = mb_substr(implode(' + ', array_keys($on)), 0, 80)." $load->id";
            DB::table('match_rules')->insert(['entity_id' => $load->entity_id, 'name' => $name, 'on' => json_encode($on)]);
            DB::table('loads')->where('id', $load->id)->update(['match_rules' => json_encode([$name])]);
        }
        DB::statement('ALTER TABLE loads DROP COLUMN match_on');
    }
};
