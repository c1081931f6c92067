<?php

namespace Baggage\Core\Writing;

/**
 * By what a row of a file is known when it comes back: the file, the load, its row, and a check on the three; and what its cells said, by
 * which a row that says the same is known without being looked up.
 */
final readonly class Reference
{
    /** @param  string|null  $said  hash of the cells; files written by older versions have none */
    private function __construct(public string $file, public int $load, public int $row, public ?string $said)
    {
    }

    /** @param  list<string|null>  $cells  of the client's own columns, as they are written */
    public static function write(string $file, int $load, int $row, array $cells): string
    {
        $text = "$file-$load-$row";

        return "$text-".strtoupper(substr(hash('xxh32', $text), 0, 4).substr(hash('xxh3', implode("\0", $cells)), 0, 12));
    }

    /**
     * Forty-eight bits: that a changed row seems unchanged has a chance of one in 280 million millions.
     *
     * @param  list<string|null>  $cells
     */
    public static function hash(array $cells): string
    {
        return strtoupper(substr(hash('xxh3', implode("\0", $cells)), 0, 12));
    }

    /** @return self|null null where it is none, or was changed */
    public static function of(?string $text): ?self
    {
        if (preg_match('/^\s*([A-Z][A-Z0-9]{5})-(\d{1,9})-(\d{1,9})-([0-9A-F]{4})([0-9A-F]{12})?\s*$/', (string) $text, $m) !== 1) {
            return null;
        }

        return self::check("$m[1]-$m[2]-$m[3]") === $m[4] ? new self($m[1], (int) $m[2], (int) $m[3], $m[5] ?? null) : null;
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
