<?php

namespace App\Support;

use Throwable;

/** An error nobody foresaw: its whole story goes to the log under a number, and only that number and its kind leave. */
final class Unforeseen
{
    public static function said(string $what, Throwable $e): string
    {
        if ($e instanceof BrokenOff) {
            return "$what: {$e->getMessage()}";
        }
        $number = bin2hex(random_bytes(4));
        report(new \RuntimeException("Unforeseen error $number", 0, $e));

        return "$what by an error that was not foreseen (".class_basename($e)
            ."). It stands in the log as $number; nothing half done was kept.";
    }
}
