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
    // Largest upload taken, in bytes.
    'upload_limit' => (int) env('BAGGAGE_UPLOAD_LIMIT', 1024 ** 3),
    // Widest file taken, in columns.
    'column_limit' => 4096,
];
