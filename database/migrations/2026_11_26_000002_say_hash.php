<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    /** One word for one thing. */
    public function up(): void
    {
        foreach (['causes', 'load_checks'] as $table) {
            Schema::table($table, fn (Blueprint $t) => $t->renameColumn('fingerprint', 'hash'));
        }
    }
};
