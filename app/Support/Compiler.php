<?php

namespace App\Support;

/** How this process compiles what it runs, so that one it begins does likewise. bin/jit.ini says what long work is started with. */
final class Compiler
{
    private const SETTINGS = [
        'opcache.enable_cli', 'opcache.jit', 'opcache.jit_buffer_size', 'opcache.jit_max_root_traces', 'opcache.jit_max_side_traces',
        'opcache.jit_max_exit_counters',
    ];

    /** @return array<string, string> setting of PHP → its value here, of those that have one */
    public static function settings(): array
    {
        $settings = [];
        foreach (self::SETTINGS as $name) {
            $settings[$name] = (string) ini_get($name);
        }

        return array_filter($settings, fn (string $value) => $value !== '');
    }
}
