<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

/** The rows behind the figures of checks, takes, keys, references and findings. */
return new class extends Migration
{
    private const TABLES = [
        'check_rows' => 'check_id BIGINT UNSIGNED NOT NULL, cause SMALLINT UNSIGNED NOT NULL, row_no INT UNSIGNED '
            .'NOT NULL, PRIMARY KEY (check_id, cause, row_no), FOREIGN KEY (check_id) REFERENCES load_checks (id) ON DELETE CASCADE',
        // row_no is that of the take before where a row is gone; was_row is where a changed row stood in it.
        'take_changes' => "take_id BIGINT UNSIGNED NOT NULL, kind ENUM('added', 'changed', 'gone') NOT NULL, row_no "
            .'INT UNSIGNED NOT NULL, was_row INT UNSIGNED NULL, PRIMARY KEY (take_id, kind, row_no), '
            .'FOREIGN KEY (take_id) REFERENCES takes (id) ON DELETE CASCADE',
        // Rows that share a key, by the first of them; 0 for rows whose key is blank.
        'key_rows' => 'key_id BIGINT UNSIGNED NOT NULL, first_row INT UNSIGNED NOT NULL, row_no INT UNSIGNED NOT '
            .'NULL, PRIMARY KEY (key_id, first_row, row_no), FOREIGN KEY (key_id) REFERENCES key_candidates (id) ON DELETE CASCADE',
        // References are written anew by each study, so they are known by a number of their own.
        'orphan_rows' => 'migration_id BIGINT UNSIGNED NOT NULL, reference INT UNSIGNED NOT NULL, row_no INT '
            .'UNSIGNED NOT NULL, PRIMARY KEY (migration_id, reference, row_no), '
            .'FOREIGN KEY (migration_id) REFERENCES migrations (id) ON DELETE CASCADE',
        // Only of findings about more rows than stand with them.
        'finding_rows' => 'finding_id BIGINT UNSIGNED NOT NULL, row_no INT UNSIGNED NOT NULL, PRIMARY KEY '
            .'(finding_id, row_no), FOREIGN KEY (finding_id) REFERENCES findings (id) ON DELETE CASCADE',
    ];

    public function up(): void
    {
        foreach (self::TABLES as $name => $columns) {
            DB::statement("CREATE TABLE $name ($columns) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4");
        }
        Schema::table('column_references', function (Blueprint $t) {
            $t->unsignedInteger('number')->nullable();
            $t->dropColumn('examples');
        });
        // Each work has a temporary table of its own now.
        DB::statement('DROP TABLE IF EXISTS row_prints');
        // What was found before names no rows: checks are made again by a person, studies by a worker.
        DB::table('load_checks')->delete();
        DB::table('takes')->update(['compared' => null, 'studied_at' => null]);
    }
};
