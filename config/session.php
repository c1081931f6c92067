<?php

return [
    'driver' => env('SESSION_DRIVER', 'file'),
    // Longer than any session of a person: when that is over stands in the database, where the administrator set it.
    'lifetime' => 24 * 60,
    'expire_on_close' => true,
    'encrypt' => false,
    'files' => storage_path('framework/sessions'),
    'lottery' => [2, 100],
    // Behind TLS the browser itself holds the cookie to this host, this path and TLS (RFC 6265bis, section 4.1.3.2, from memory).
    'cookie' => env('SESSION_COOKIE', env('BAGGAGE_TLS') ? '__Host-baggage' : 'baggage_session'),
    'path' => '/',
    'domain' => null,
    'secure' => (bool) env('BAGGAGE_TLS', false),
    'http_only' => true,
    'same_site' => 'strict',
];
