<?php

return [
    'name' => 'Baggage',
    'env' => env('APP_ENV', 'production'),
    'debug' => (bool) env('APP_DEBUG', false),
    'url' => env('APP_URL', 'http://127.0.0.1'),
    // Whose word on address, host and TLS of a request counts, and the names this installation answers to (patterns); none: any.
    'trusted_proxies' => array_values(array_filter(explode(',', (string) env('BAGGAGE_PROXIES', '')))),
    'trusted_hosts' => array_map(
        fn (string $host) => '^'.preg_quote(trim($host)).'$',
        array_values(array_filter(explode(',', (string) env('BAGGAGE_HOSTS', '')))),
    ),
    'timezone' => 'UTC',
    'locale' => 'en',
    'fallback_locale' => 'en',
    'cipher' => 'AES-256-CBC',
    'key' => env('APP_KEY'),
    'previous_keys' => array_values(array_filter(explode(',', (string) env('APP_PREVIOUS_KEYS', '')))),
    'maintenance' => ['driver' => 'file'],
];
