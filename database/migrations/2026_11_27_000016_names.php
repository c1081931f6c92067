<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

return new class extends Migration
{
    /**
     * Two clients' migrations may have one name, so that nobody learns of another's by it; of one beginner they may not.
     */
    public function up(): void
    {
        DB::statement(
            <<<'SQL'
            ALTER TABLE migrations
                ADD begun_by INT UNSIGNED NOT NULL DEFAULT 0,
                DROP KEY migrations_name_unique,
                ADD UNIQUE KEY migrations_name_begun_by (name, begun_by)
            SQL
        );
    }
};
