<?php

namespace App\Support;

/** Words of others, of drivers and libraries, without where anything lies on this machine and without codes for programs. */
final class Plain
{
    public static function said(string $text): string
    {
        $roots = [base_path(), storage_path(), config('baggage.vault'), config('baggage.scratch'), sys_get_temp_dir()];
        $roots = array_filter([...$roots, ...array_map(realpath(...), $roots)], fn ($root) => is_string($root) && strlen($root) > 1);
        $any = implode('|', array_map(fn (string $root) => preg_quote(rtrim($root, '/'), '~'), array_unique($roots)));

        $text = (string) preg_replace("~(?:$any)(?:/[^\\s\"'<>:;,)]*)?~", 'the file', $text);

        // SQLSTATE[42000]: Syntax error or access violation: 1142 …
        return (string) preg_replace('/SQLSTATE\[\w+\](?: \[\d+\])?:? ?(?:[A-Z][a-z][^:\d]*: )?(?:\d+ )?/', '', $text);
    }
}
