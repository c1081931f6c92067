<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

return new class extends Migration
{
    /**
     * That those who worked on a pass ended before it did.
     */
    public function up(): void
    {
        DB::statement(
            <<<'SQL'
            ALTER TABLE passes
                ADD interrupted SMALLINT UNSIGNED NOT NULL DEFAULT 0,
                ADD interrupted_at TIMESTAMP NULL DEFAULT NULL
            SQL
        );
    }
};
