<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::table('takes', function (Blueprint $t) {
            // Keys, comparison and references are known from then on.
            $t->timestamp('studied_at')->nullable();
            // Of a feed: what it was made by, and how the rows of its extracts became its rows.
            $t->json('recipe')->nullable();
            $t->json('arithmetic')->nullable();
        });
        Schema::table('extracts', function (Blueprint $t) {
            // Why no load reads it, where that is decided.
            $t->text('not_loaded')->nullable();
        });
        Schema::table('migrations', function (Blueprint $t) {
            // File the plan takes the target's entities from instead of its database.
            $t->string('target_description', 500)->nullable();
        });
        Schema::create('rule_versions', function (Blueprint $t) {
            $t->id();
            $t->foreignId('load_id')->constrained()->cascadeOnDelete();
            $t->string('field');
            $t->text('expression')->nullable();
            $t->text('empty_reason')->nullable();
            $t->text('note')->nullable();
            $t->foreignId('user_id')->nullable()->constrained()->nullOnDelete();
            $t->timestamp('at', 3)->useCurrent();
            $t->index(['load_id', 'field', 'id']);
        });
        // Values of a migration that are asked for when a round begins, used in rules by name.
        Schema::create('parameters', function (Blueprint $t) {
            $t->id();
            $t->foreignId('migration_id')->constrained()->cascadeOnDelete();
            $t->string('name', 60);
            $t->string('prompt');
            $t->string('default_value')->nullable();
            $t->timestamps();
            $t->unique(['migration_id', 'name']);
        });
        Schema::table('rounds', function (Blueprint $t) {
            $t->json('parameters')->nullable();
        });
        Schema::table('code_crosswalks', function (Blueprint $t) {
            // What becomes of an old value without an entry: reject it, leave the field empty, or a stated value.
            $t->string('otherwise', 8)->default('reject');
            $t->string('otherwise_value', 190)->nullable();
            $t->text('note')->nullable();
        });
        Schema::table('code_entries', function (Blueprint $t) {
            $t->string('decision', 8)->default('value');
            $t->text('note')->nullable();
        });
        Schema::create('change_lists', function (Blueprint $t) {
            $t->id();
            $t->foreignId('migration_id')->constrained()->cascadeOnDelete();
            $t->string('kind', 12);
            $t->string('file_name');
            $t->json('changes');
            // Of a target's description: the whole of it, taken over at once.
            $t->json('description')->nullable();
            $t->foreignId('user_id')->nullable()->constrained()->nullOnDelete();
            $t->timestamps();
        });
    }
};
