<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::table('takes', function (Blueprint $t) {
            // How source_rows was counted; null where the source has no count of its own.
            $t->string('counted_by', 80)->nullable()->after('source_rows');
            $t->json('columns')->nullable();
            // Values its query's parameters had, for those remembered by the next take.
            $t->json('parameters')->nullable();
            // Rows and columns added, changed and gone since the take before.
            $t->json('compared')->nullable();
        });
        Schema::table('extracts', function (Blueprint $t) {
            // What people decided about findings, by code and column; it holds for every take.
            $t->json('finding_decisions')->nullable();
        });
        Schema::create('connections', function (Blueprint $t) {
            $t->id();
            $t->foreignId('source_id')->constrained()->cascadeOnDelete();
            $t->string('name', 60);
            $t->text('notes')->nullable();
            $t->string('driver', 12);
            $t->string('host')->nullable();
            $t->string('port', 40)->nullable();
            $t->string('database')->nullable();
            $t->string('username')->nullable();
            $t->text('password')->nullable();
            $t->string('password_env')->nullable();
            $t->timestamps();
            $t->unique(['source_id', 'name']);
        });
        Schema::create('findings', function (Blueprint $t) {
            $t->id();
            $t->foreignId('extract_id')->constrained()->cascadeOnDelete();
            $t->foreignId('take_id')->constrained()->cascadeOnDelete();
            $t->string('code', 40);
            $t->unsignedInteger('position')->nullable();
            $t->string('header')->nullable();
            $t->unsignedBigInteger('n');
            $t->text('message');
            // The first rows it concerns, as JSON list of row numbers.
            $t->mediumText('rows');
            $t->string('decision', 12)->default('open');
            $t->text('note')->nullable();
            $t->foreignId('user_id')->nullable()->constrained()->nullOnDelete();
            $t->timestamps();
            $t->index(['extract_id', 'take_id', 'decision']);
        });
        Schema::create('key_candidates', function (Blueprint $t) {
            $t->id();
            $t->foreignId('extract_id')->constrained()->cascadeOnDelete();
            $t->foreignId('take_id')->constrained()->cascadeOnDelete();
            $t->json('columns');
            $t->unsignedBigInteger('duplicate_rows');
            $t->unsignedBigInteger('blank_rows');
            $t->json('examples');
            $t->timestamps();
        });
        Schema::create('column_references', function (Blueprint $t) {
            $t->id();
            $t->foreignId('migration_id')->constrained()->cascadeOnDelete();
            $t->foreignId('extract_id')->constrained()->cascadeOnDelete();
            $t->json('columns');
            $t->unsignedBigInteger('parent_extract_id');
            $t->json('parent_columns');
            $t->unsignedBigInteger('values_total');
            $t->unsignedBigInteger('values_found');
            $t->unsignedBigInteger('orphan_rows');
            $t->json('examples');
            $t->string('decision', 12)->default('found');
            $t->foreignId('user_id')->nullable()->constrained()->nullOnDelete();
            $t->timestamps();
            $t->foreign('parent_extract_id')->references('id')->on('extracts')->cascadeOnDelete();
        });
        // A key's rows with their hashes, filled while takes are compared or keys looked for, and emptied afterwards.
        DB::statement(<<<'SQL'
            CREATE TABLE row_prints (
                work INT UNSIGNED NOT NULL,
                side TINYINT UNSIGNED NOT NULL,
                print BINARY(8) NOT NULL,
                row_no INT UNSIGNED NOT NULL,
                hash BINARY(8) NOT NULL,
                KEY by_print (work, side, print, row_no)
            ) ENGINE=InnoDB
            SQL);
    }
};
