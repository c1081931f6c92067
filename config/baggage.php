<?php

return [
    // Rows per batch of a pass: one transaction in the target, one in Baggage.
    'batch' => (int) env('BAGGAGE_BATCH', 2000),
    // Seconds a pass waits, time after time, for a target that does not answer; longer where it says so itself. Then it stops.
    'patience' => explode(',', (string) env('BAGGAGE_PATIENCE', '1,2,5,15,30,60,120')),
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
    // What is read of foreign bytes at the most, as said in Baggage\Core\Reading\Limits; bytes unless it counts things.
    'limits' => [
        'line' => 16 << 20,
        'cell' => 12 << 20,
        'record' => 16 << 20,
        'columns' => 4096,
        'depth' => 64,
        'tag' => 60_000,
        'attributes' => 1_000,
        'part' => 64 << 20,
        'pages' => 200_000,
        'old' => 40 << 20,
        // An archive: all of it together, from what size on it may not unpack to more than so many times its own, members, tables.
        'archive' => (int) env('BAGGAGE_ARCHIVE_LIMIT', 64 << 30),
        'harmless' => 50 << 20,
        'ratio' => 250,
        'members' => 10_000,
        'tables' => 200,
        'plan' => 32_000_000,
        'values' => 2_000_000,
        'aliases' => 100,
    ],
    // Foreign bytes are opened in processes of their own: seconds, MB and bytes of an answer each may take.
    'apart' => [
        'on' => (bool) env('BAGGAGE_APART', true),
        // While somebody waits for a page, and by a worker where that was not enough.
        'look' => ['seconds' => (float) env('BAGGAGE_LOOK_SECONDS', 5), 'memory' => 512, 'answer' => 12 << 20],
        'look_long' => ['seconds' => (float) env('BAGGAGE_LONG_LOOK_SECONDS', 60), 'memory' => 2048, 'answer' => 64 << 20],
        // Ended where nothing more comes for so many seconds, or somebody asks for it.
        'freeze' => ['memory' => (int) env('BAGGAGE_FREEZE_MEMORY', 2048), 'answer' => 1 << 20],
        // A file of the client's that came back, or gets columns of ours.
        'answer' => ['seconds' => (float) env('BAGGAGE_ANSWER_SECONDS', 1800), 'memory' => 512, 'answer' => 1 << 20],
        'stalled' => (float) env('BAGGAGE_STALLED_SECONDS', 900),
    ],
    // Rows of a take, and MB that stay free on the disk: what comes to more is ended, and nothing of it kept.
    'most_rows' => (int) env('BAGGAGE_MOST_ROWS', 200_000_000),
    'disk_reserve' => (int) env('BAGGAGE_DISK_RESERVE', 1024),
    // Rows of all takes of one migration together, and MB its files and rows take of the disk.
    'migration' => [
        'rows' => (int) env('BAGGAGE_MIGRATION_ROWS', 1_000_000_000),
        'disk' => (int) env('BAGGAGE_MIGRATION_DISK', 1_000_000),
    ],
    // Networks connections may reach: never these (this network, link-local with what clouds answer there, multicast); only those,
    // where any is named; and no port this application itself is served at.
    'networks' => [
        'never' => ['0.0.0.0/8', '169.254.0.0/16', '224.0.0.0/4', '240.0.0.0/4', '::/128', 'fe80::/10', 'ff00::/8', 'fd00:ec2::254/128'],
        'only' => array_values(array_filter(explode(',', (string) env('BAGGAGE_NETWORKS', '')))),
        'own_ports' => array_values(array_filter([(int) parse_url((string) env('APP_URL', ''), PHP_URL_PORT)])),
    ],
    // Seconds a statement may take on a source, where its database has such a limit: for a page, and for a take. Seconds a target may
    // say nothing while a pass waits for it.
    'statement' => [
        'look' => 10,
        'freeze' => (int) env('BAGGAGE_STATEMENT_SECONDS', 6 * 3600),
        'target' => (int) env('BAGGAGE_TARGET_SECONDS', 600),
    ],
    // What is only needed while something is read.
    'scratch' => env('BAGGAGE_SCRATCH', storage_path('app/scratch')),
];
