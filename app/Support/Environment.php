<?php

namespace App\Support;

use Illuminate\Support\Env;

/** What a plan or a connection may take from the environment: anything but Baggage's own secrets, which could be sent anywhere otherwise. */
final class Environment
{
    public static function get(string $name, string $otherwise = ''): string
    {
        return preg_match('/^(APP|DB)_/', $name) === 1 ? $otherwise : (string) Env::get($name, $otherwise);
    }

    /** ${NAME} or ${NAME:-otherwise} replaced. */
    public static function fill(string $text): string
    {
        return (string) preg_replace_callback('/\$\{([A-Z_][A-Z0-9_]*)(?::-([^}]*))?\}/', fn ($m) => self::get($m[1], $m[2] ?? ''), $text);
    }
}
