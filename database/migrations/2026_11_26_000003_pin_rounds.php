<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        // The whole definition as passes used it, each kept once.
        Schema::create('plan_versions', function (Blueprint $t) {
            $t->id();
            $t->foreignId('migration_id')->constrained('migrations')->cascadeOnDelete();
            $t->char('hash', 64);
            $t->longText('definition');
            $t->timestamp('created_at')->useCurrent();
            $t->unique(['migration_id', 'hash']);
        });
        // Which take of its feed a load of a round works on.
        Schema::create('round_loads', function (Blueprint $t) {
            $t->id();
            $t->foreignId('round_id')->constrained('rounds')->cascadeOnDelete();
            $t->foreignId('load_id')->constrained('loads')->restrictOnDelete();
            $t->foreignId('take_id')->constrained('takes')->restrictOnDelete();
            $t->unsignedInteger('number');
            $t->unsignedBigInteger('feed_rows');
            $t->unsignedBigInteger('source_rows');
            $t->unique(['round_id', 'load_id', 'number']);
        });
        Schema::table('passes', function (Blueprint $t) {
            $t->foreignId('plan_version_id')->nullable()->constrained('plan_versions')->restrictOnDelete();
            // The last correction it sees.
            $t->unsignedBigInteger('decision')->default(0);
        });
        Schema::table('corrections', function (Blueprint $t) {
            // 0: it counts. Otherwise the number of the correction from which on it does not.
            $t->unsignedBigInteger('replaced')->default(0);
            $t->unique(['extract_id', 'row_no', 'header', 'replaced'], 'corrections_of_cell');
            $t->dropUnique(['extract_id', 'row_no', 'header']);
        });
        DB::statement("INSERT INTO round_loads (round_id, load_id, take_id, number, feed_rows, source_rows)
            SELECT p.round_id, l.load_id, l.take_id, 1, COALESCE(t.`rows`, 0), COALESCE(t.source_rows, 0)
            FROM pass_loads l JOIN passes p ON p.id = l.pass_id JOIN takes t ON t.id = l.take_id WHERE p.kind = 'first'");
    }
};
