<?php

return [
    'default' => 'mariadb',
    'connections' => [
        'mariadb' => [
            'driver' => 'mariadb',
            'host' => env('DB_HOST', '127.0.0.1'),
            'port' => env('DB_PORT', '3306'),
            'database' => env('DB_DATABASE', 'baggage'),
            'username' => env('DB_USERNAME', 'baggage'),
            'password' => env('DB_PASSWORD', ''),
            'charset' => 'utf8mb4',
            'collation' => 'utf8mb4_unicode_520_ci',
            'prefix' => '',
            'strict' => true,
            'engine' => 'InnoDB',
            // LOAD DATA LOCAL writes row-sized tables; the file is always one that Baggage wrote itself.
            'options' => [
                PDO::MYSQL_ATTR_LOCAL_INFILE => true,
                PDO::ATTR_EMULATE_PREPARES => true,
            ],
        ],
    ],
    // "migrations" is a word of the job here (DESIGN section 1), so the framework's own list moves aside.
    'migrations' => ['table' => 'schema_migrations', 'update_date_on_publish' => true],
];
