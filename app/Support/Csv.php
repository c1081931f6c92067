<?php

namespace App\Support;

use Baggage\Core\Writing\Guarded;
use Symfony\Component\HttpFoundation\StreamedResponse;

/** Lines of comma-separated values (RFC 4180, section 2). */
final class Csv
{
    /** @param  list<string|int|float|null>  $values */
    public static function line(array $values): string
    {
        return implode(',', array_map(self::cell(...), $values))."\r\n";
    }

    /** @param  \Closure(): iterable<list<string|int|float|null>>  $lines  asked for while they are sent */
    public static function file(string $name, \Closure $lines): StreamedResponse
    {
        return new StreamedResponse(function () use ($lines) {
            foreach ($lines() as $line) {
                echo self::line($line);
            }
        }, 200, [
            'Content-Type' => 'text/csv; charset=utf-8',
            'Content-Disposition' => "attachment; filename=\"$name.csv\"",
            'Cache-Control' => 'no-store',
        ]);
    }

    private static function cell(string|int|float|null $value): string
    {
        return Guarded::cell((string) $value);
    }
}
