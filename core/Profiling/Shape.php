<?php

namespace Baggage\Core\Profiling;

/** The build of a value: which kinds of characters stand where. */
final class Shape
{
    public const OTHER = '…';

    private const FROM = '0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz';

    private const TO = 'ddddddddddUUUUUUUUUUUUUUUUUUUUUUUUUUllllllllllllllllllllllllll';

    /** Longer values are text, not codes. */
    private const LONGEST = 24;

    /** @var array<string, string> raw shape → shape */
    private static array $known = [];

    /** d for each digit, U for each capital and l for each other letter of ASCII; everything else as it stands. */
    public static function raw(string $value): string
    {
        return strtr($value, self::FROM, self::TO);
    }

    /**
     * @param  non-empty-list<string|int>  $values
     * @return list<string> raw() of each
     */
    public static function rawOfAll(array $values): array
    {
        // One walk over all of them; the separator is of the characters that stay as they are.
        $builds = explode("\n", self::raw(implode("\n", $values)));

        return count($builds) === count($values) ? $builds : array_map(fn ($v) => self::raw((string) $v), $values);
    }

    /** d for a digit, U for a capital, l for any other letter, everything else as it stands; runs of letters in words shortened to one. */
    public static function of(string $value): string
    {
        return self::ofRaw(self::raw($value));
    }

    /** @param  string  $raw  as raw() gives it */
    public static function ofRaw(string $raw): string
    {
        if (strlen($raw) > self::LONGEST) {
            return self::OTHER;
        }
        if (isset(self::$known[$raw])) {
            return self::$known[$raw];
        }
        if (count(self::$known) > 20_000) {
            self::$known = [];
        }

        return self::$known[$raw] = self::shortened($raw);
    }

    private static function shortened(string $shape): string
    {
        if (preg_match('/[\x80-\xFF]/', $shape) === 1) {
            $shape = (string) preg_replace(
                ['/\p{Lu}/u', '/\p{L}/u'],
                ['U', 'l'],
                str_replace(['d', 'U', 'l'], ["\1", "\2", "\3"], $shape),
            );
            $shape = str_replace(["\1", "\2", "\3"], ['d', 'U', 'l'], $shape);
        }
        // Words differ in length without meaning anything by it.
        if (strpos($shape, 'l') !== false || strlen($shape) > 12) {
            $shape = (string) preg_replace('/([Ul])[Ul]+/', '$1+', $shape);
        }

        return $shape;
    }

    /** In words: "2 capitals, -, 3 digits". */
    public static function words(string $shape): string
    {
        if ($shape === self::OTHER) {
            return 'other text';
        }
        preg_match_all('/d+|U\+|l\+|U+|l+|\s+|[^dUl\s]/u', $shape, $m);
        $parts = array_map(
            fn (string $run) => match (true) {
                $run === 'U+', $run === 'l+' => 'word',
                $run[0] === 'd' => self::many(strlen($run), 'digit'),
                $run[0] === 'U' => self::many(strlen($run), 'capital'),
                $run[0] === 'l' => self::many(strlen($run), 'letter'),
                trim($run) === '' => strlen($run) === 1 ? 'blank' : strlen($run).' blanks',
                default => $run,
            },
            $m[0],
        );

        return implode(' ', $parts);
    }

    private static function many(int $n, string $what): string
    {
        return $n === 1 ? "1 $what" : "$n {$what}s";
    }
}
