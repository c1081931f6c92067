<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('users', function (Blueprint $t) {
            $t->id();
            $t->string('name');
            $t->string('email')->unique();
            $t->string('role', 20);
            $t->string('password');
            $t->rememberToken();
            $t->timestamps();
        });
        Schema::create('jobs', function (Blueprint $t) {
            $t->id();
            $t->string('queue')->index();
            $t->longText('payload');
            $t->unsignedTinyInteger('attempts');
            $t->unsignedInteger('reserved_at')->nullable();
            $t->unsignedInteger('available_at');
            $t->unsignedInteger('created_at');
        });
        Schema::create('failed_jobs', function (Blueprint $t) {
            $t->id();
            $t->string('uuid')->unique();
            $t->text('connection');
            $t->text('queue');
            $t->longText('payload');
            $t->longText('exception');
            $t->timestamp('failed_at')->useCurrent();
        });
        Schema::create('migrations', function (Blueprint $t) {
            $t->id();
            $t->string('name')->unique();
            $t->string('target_name');
            // Names this installation in receipts, so that two installations may feed one target.
            $t->string('installation', 40);
            $t->timestamps();
        });
        Schema::create('sources', function (Blueprint $t) {
            $t->id();
            $t->foreignId('migration_id')->constrained()->cascadeOnDelete();
            $t->string('code', 12);
            $t->string('name');
            $t->text('notes')->nullable();
            $t->timestamps();
            $t->unique(['migration_id', 'code']);
        });
        Schema::create('extracts', function (Blueprint $t) {
            $t->id();
            $t->foreignId('source_id')->constrained()->cascadeOnDelete();
            $t->string('name');
            // Where the file is read again from when the plan runs headless; relative to the plan file.
            $t->string('origin', 500)->nullable();
            $t->json('reader');
            $t->json('columns')->nullable();
            $t->unsignedBigInteger('take_id')->nullable();
            $t->timestamps();
            $t->unique(['source_id', 'name']);
        });
        Schema::create('takes', function (Blueprint $t) {
            $t->id();
            $t->foreignId('extract_id')->constrained()->cascadeOnDelete();
            $t->unsignedInteger('number');
            $t->string('state', 12);
            $t->string('file', 500);
            $t->string('file_name');
            $t->unsignedBigInteger('bytes');
            $t->unsignedBigInteger('bytes_read')->default(0);
            $t->char('checksum', 64)->nullable();
            $t->unsignedBigInteger('rows')->nullable();
            $t->unsignedBigInteger('source_rows')->nullable();
            $t->json('profile')->nullable();
            $t->text('error')->nullable();
            $t->timestamp('taken_at')->nullable();
            $t->foreignId('user_id')->nullable()->constrained()->nullOnDelete();
            $t->timestamps();
            $t->unique(['extract_id', 'number']);
        });
        Schema::create('targets', function (Blueprint $t) {
            $t->id();
            $t->foreignId('migration_id')->constrained()->cascadeOnDelete();
            $t->string('name');
            $t->string('host');
            $t->string('port');
            $t->string('database');
            $t->string('username');
            $t->text('password')->nullable();
            // The plan file names the variable a secret comes from, never the secret.
            $t->string('password_env')->nullable();
            $t->boolean('is_standin')->default(false);
            $t->timestamps();
            $t->unique(['migration_id', 'name']);
        });
        Schema::create('entities', function (Blueprint $t) {
            $t->id();
            $t->foreignId('migration_id')->constrained()->cascadeOnDelete();
            $t->string('name');
            $t->unsignedInteger('position');
            $t->json('definition');
            $t->timestamps();
            $t->unique(['migration_id', 'name']);
        });
        Schema::create('loads', function (Blueprint $t) {
            $t->id();
            $t->foreignId('migration_id')->constrained()->cascadeOnDelete();
            $t->foreignId('entity_id')->constrained()->cascadeOnDelete();
            $t->foreignId('extract_id')->constrained()->cascadeOnDelete();
            $t->string('name');
            $t->unsignedInteger('position');
            $t->json('key_columns');
            $t->string('key_normalisation', 12)->default('trim');
            $t->text('scope')->nullable();
            $t->text('scope_reason')->nullable();
            $t->string('policy', 20)->default('create');
            $t->json('match_on')->nullable();
            $t->text('note')->nullable();
            $t->unsignedInteger('version')->default(1);
            $t->timestamps();
            $t->unique(['migration_id', 'name']);
        });
        Schema::create('rules', function (Blueprint $t) {
            $t->id();
            $t->foreignId('load_id')->constrained()->cascadeOnDelete();
            $t->string('field');
            $t->text('expression')->nullable();
            $t->text('empty_reason')->nullable();
            $t->text('note')->nullable();
            $t->unsignedInteger('version')->default(1);
            $t->foreignId('user_id')->nullable()->constrained()->nullOnDelete();
            $t->timestamps();
            $t->unique(['load_id', 'field']);
        });
        Schema::create('column_decisions', function (Blueprint $t) {
            $t->id();
            $t->foreignId('extract_id')->constrained()->cascadeOnDelete();
            $t->string('header');
            $t->text('reason');
            $t->foreignId('user_id')->nullable()->constrained()->nullOnDelete();
            $t->timestamps();
            $t->unique(['extract_id', 'header']);
        });
        Schema::create('code_crosswalks', function (Blueprint $t) {
            $t->id();
            $t->foreignId('migration_id')->constrained()->cascadeOnDelete();
            $t->string('name');
            $t->timestamps();
            $t->unique(['migration_id', 'name']);
        });
        Schema::create('code_entries', function (Blueprint $t) {
            $t->id();
            $t->foreignId('code_crosswalk_id')->constrained()->cascadeOnDelete();
            $t->string('old_value', 190)->collation('utf8mb4_nopad_bin');
            $t->string('new_value', 190)->nullable()->collation('utf8mb4_nopad_bin');
            $t->foreignId('user_id')->nullable()->constrained()->nullOnDelete();
            $t->timestamps();
            $t->unique(['code_crosswalk_id', 'old_value']);
        });
        Schema::create('rounds', function (Blueprint $t) {
            $t->id();
            $t->foreignId('migration_id')->constrained()->cascadeOnDelete();
            $t->foreignId('target_id')->constrained();
            $t->string('kind', 12);
            $t->string('name');
            $t->unsignedInteger('number');
            $t->json('target_before');
            $t->foreignId('user_id')->nullable()->constrained()->nullOnDelete();
            $t->timestamps();
            $t->unique(['migration_id', 'name']);
        });
        Schema::create('passes', function (Blueprint $t) {
            $t->id();
            $t->foreignId('round_id')->constrained()->cascadeOnDelete();
            $t->unsignedInteger('number');
            $t->string('kind', 12);
            $t->string('state', 12);
            $t->boolean('stop_requested')->default(false);
            $t->text('error')->nullable();
            $t->timestamp('started_at', 3)->nullable();
            $t->timestamp('finished_at', 3)->nullable();
            $t->foreignId('user_id')->nullable()->constrained()->nullOnDelete();
            $t->timestamps();
            $t->unique(['round_id', 'number']);
        });
        Schema::create('pass_loads', function (Blueprint $t) {
            $t->id();
            $t->foreignId('pass_id')->constrained()->cascadeOnDelete();
            $t->foreignId('load_id')->constrained()->cascadeOnDelete();
            $t->foreignId('take_id')->constrained();
            $t->unsignedInteger('wave');
            $t->string('state', 12);
            // Last row number done; the batch after it is named by it.
            $t->unsignedBigInteger('cursor_row')->default(0);
            $t->unsignedBigInteger('key_cursor')->nullable();
            $t->unsignedBigInteger('rows_total')->default(0);
            $t->unsignedBigInteger('rows_done')->default(0);
            $t->decimal('seconds', 12, 3)->default(0);
            $t->json('counts')->nullable();
            $t->text('error')->nullable();
            $t->timestamps();
            $t->unique(['pass_id', 'load_id']);
        });
        Schema::create('corrections', function (Blueprint $t) {
            $t->id();
            $t->foreignId('extract_id')->constrained()->cascadeOnDelete();
            $t->unsignedBigInteger('row_no');
            $t->string('header');
            $t->text('old_value')->nullable();
            $t->text('new_value')->nullable();
            $t->text('reason')->nullable();
            $t->foreignId('user_id')->nullable()->constrained()->nullOnDelete();
            $t->timestamps();
            $t->unique(['extract_id', 'row_no', 'header']);
        });
        Schema::create('audit_entries', function (Blueprint $t) {
            $t->id();
            $t->foreignId('migration_id')->nullable()->constrained()->cascadeOnDelete();
            $t->foreignId('user_id')->nullable()->constrained()->nullOnDelete();
            $t->string('what');
            $t->json('detail')->nullable();
            $t->timestamp('at')->useCurrent();
            $t->index(['migration_id', 'id']);
        });
    }
};
