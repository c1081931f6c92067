<?php

return [
    // Rows per batch of a pass: one transaction in the target, one in Baggage.
    'batch' => (int) env('BAGGAGE_BATCH', 2000),
    // Workers there are: so many go at a pass together.
    'workers' => (int) env('BAGGAGE_WORKERS', 1),
    // Rows staged at once while a source is read.
    'rows_per_write' => 20_000,
    // Where frozen files lie; never below public/.
    'vault' => env('BAGGAGE_VAULT', storage_path('app/vault')),
    // Days after which an upload nobody froze is removed.
    'waiting_days' => 7,
    // Largest upload taken, in bytes.
    'upload_limit' => (int) env('BAGGAGE_UPLOAD_LIMIT', 1024 ** 3),
    // Widest file taken, in columns.
    'column_limit' => 4096,
    // Foreign bytes are opened in processes of their own: seconds, MB and bytes of an answer each may take.
    'apart' => [
        'on' => (bool) env('BAGGAGE_APART', true),
        // While somebody waits for a page, and by a worker where that was not enough.
        'look' => ['seconds' => (float) env('BAGGAGE_LOOK_SECONDS', 5), 'memory' => 512, 'answer' => 32 << 20],
        'look_long' => ['seconds' => (float) env('BAGGAGE_LONG_LOOK_SECONDS', 120), 'memory' => 1024, 'answer' => 32 << 20],
        // Ended where nothing more comes for so many seconds, or somebody asks for it.
        'freeze' => ['memory' => (int) env('BAGGAGE_FREEZE_MEMORY', 2048), 'answer' => 1 << 20],
        'stalled' => (float) env('BAGGAGE_STALLED_SECONDS', 900),
    ],
    // What is only needed while something is read.
    'scratch' => env('BAGGAGE_SCRATCH', storage_path('app/scratch')),
];
