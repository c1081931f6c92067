<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        foreach (['connections', 'targets'] as $table) {
            Schema::table($table, function (Blueprint $t) {
                // Only then are names from the environment filled in.
                $t->boolean('from_command_line')->default(false);
            });
        }
        Schema::table('targets', function (Blueprint $t) {
            $t->dropColumn('is_standin');
        });
        foreach (['takes', 'load_checks', 'passes'] as $table) {
            Schema::table($table, function (Blueprint $t) {
                // Processes that began on it; one that ends by itself leaves nothing to begin again.
                $t->unsignedTinyInteger('attempts')->default(0);
            });
        }
        Schema::table('takes', function (Blueprint $t) {
            // The same of each step of its study that has not ended by itself.
            $t->json('study_attempts')->nullable();
        });
    }
};
