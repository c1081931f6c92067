<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

return new class extends Migration
{
    /**
     * What a pass replaced is known by the pass, and what records were before it by the record: so it can be backed out. Of passes that
     * were before, neither is known.
     */
    public function up(): void
    {
        DB::statement('ALTER TABLE outcome_log ADD COLUMN by_pass INT UNSIGNED DEFAULT NULL AFTER cause_id');
        DB::statement('ALTER TABLE values_before ADD COLUMN id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT FIRST,
            ADD COLUMN entity_id INT UNSIGNED NOT NULL DEFAULT 0 AFTER item,
            ADD COLUMN target_key VARCHAR(190) NOT NULL DEFAULT \'\' AFTER entity_id,
            DROP PRIMARY KEY, ADD PRIMARY KEY (id), ADD KEY of_row (pass_id, load_id, item), ADD KEY of_record (entity_id, target_key)');
        DB::statement('ALTER TABLE links ADD KEY of_parent (lane_id, parent_space_id, parent_key)');
        DB::statement('ALTER TABLE passes ADD COLUMN backs_out JSON DEFAULT NULL, ADD COLUMN backed_out_by INT UNSIGNED DEFAULT NULL,
            ADD COLUMN is_logged TINYINT(1) NOT NULL DEFAULT 1, ADD COLUMN left_records INT UNSIGNED NOT NULL DEFAULT 0');
        DB::statement('UPDATE passes SET is_logged = 0');
        DB::statement(
            <<<'SQL'
            CREATE TABLE left_records (
                pass_id INT UNSIGNED NOT NULL,
                load_id INT UNSIGNED NOT NULL,
                item INT UNSIGNED NOT NULL,
                target_key VARCHAR(190) NOT NULL,
                why VARCHAR(500) NOT NULL,
                PRIMARY KEY (pass_id, load_id, item)
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin
            SQL
        );
    }

    public function down(): void
    {
        DB::statement('DROP TABLE left_records');
        DB::statement('ALTER TABLE links DROP KEY of_parent');
        DB::statement('ALTER TABLE passes DROP COLUMN backs_out, DROP COLUMN backed_out_by,
            DROP COLUMN is_logged, DROP COLUMN left_records');
        DB::statement('ALTER TABLE values_before DROP KEY of_record, DROP KEY of_row, DROP PRIMARY KEY,
            DROP COLUMN id, DROP COLUMN entity_id,
            DROP COLUMN target_key, ADD PRIMARY KEY (pass_id, load_id, item)');
        DB::statement('ALTER TABLE outcome_log DROP COLUMN by_pass');
    }
};
