<?php

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('load_checks', function (Blueprint $t) {
            $t->id();
            $t->foreignId('load_id')->unique()->constrained()->cascadeOnDelete();
            // Of the rules and data it was made for; any other makes it stale.
            $t->char('fingerprint', 32);
            $t->string('state', 12);
            $t->unsignedBigInteger('rows_total')->default(0);
            $t->unsignedBigInteger('rows_done')->default(0);
            $t->json('result')->nullable();
            $t->text('error')->nullable();
            $t->timestamp('finished_at')->nullable();
            $t->timestamps();
        });
    }
};
