<?php

return [
    'default' => env('QUEUE_CONNECTION', 'database'),
    'connections' => [
        'sync' => ['driver' => 'sync', 'after_commit' => true],
        'database' => [
            // In turn by migration: App\Queueing\FairQueue.
            'driver' => 'fair',
            'table' => 'jobs',
            // Of what says no kind of its own.
            'queue' => 'rows',
            // Not by time: a job is somebody's as long as their connection to the database stands.
            'retry_after' => null,
            'after_commit' => true,
        ],
    ],
    'failed' => ['driver' => 'database-uuids', 'database' => 'mariadb', 'table' => 'failed_jobs'],
];
