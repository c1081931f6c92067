<?php

namespace Baggage\Core\Writing;

/** By what a row of a file is known when it comes back: the file, the load, its row, and a check on the three. */
final readonly class Reference
{
    private function __construct(public string $file, public int $load, public int $row)
    {
    }

    public static function write(string $file, int $load, int $row): string
    {
        $text = "$file-$load-$row";

        return "$text-".self::check($text);
    }

    /** @return self|null null where it is none, or was changed */
    public static function of(?string $text): ?self
    {
        if (preg_match('/^\s*([A-Z][A-Z0-9]{5})-(\d{1,9})-(\d{1,9})-([0-9A-F]{4})\s*$/', (string) $text, $m) !== 1) {
            return null;
        }

        return self::check("$m[1]-$m[2]-$m[3]") === $m[4] ? new self($m[1], (int) $m[2], (int) $m[3]) : null;
    }

    /** Six letters and digits that are easily told from each other, the first a letter: no program takes it for a number or a day. */
    public static function code(): string
    {
        $letters = 'ABCDFGHJKLMNPQRSTVWXYZ';
        $code = $letters[random_int(0, strlen($letters) - 1)];
        for ($i = 0; $i < 5; $i++) {
            $all = $letters.'23456789';
            $code .= $all[random_int(0, strlen($all) - 1)];
        }

        return $code;
    }

    private static function check(string $text): string
    {
        return strtoupper(substr(hash('xxh32', $text), 0, 4));
    }
}
