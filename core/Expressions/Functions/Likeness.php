<?php

namespace Baggage\Core\Expressions\Functions;

use Baggage\Core\Expressions\Described;

/** How alike two texts are; compared without regard to capitals, accents and blanks at the ends. */
final class Likeness
{
    /** Longer texts are compared by their beginning: the work grows with the square of the length. */
    private const LONGEST = 400;

    #[
        Described(
            'distance',
            'text, text',
            'The fewest letters to put in, take out or change to make one text of the other (Levenshtein).',
            "distance('Skarv', 'Skrav')",
            '2',
        ),
    ]
    public static function distance(?string $a, ?string $b): int
    {
        [$a, $b] = [self::letters($a), self::letters($b)];
        if ($a === $b) {
            return 0;
        }
        $row = range(0, count($b));
        foreach ($a as $i => $x) {
            $diagonal = $row[0];
            $row[0] = $i + 1;
            foreach ($b as $j => $y) {
                $above = $row[$j + 1];
                $row[$j + 1] = min($above + 1, $row[$j] + 1, $diagonal + ($x === $y ? 0 : 1));
                $diagonal = $above;
            }
        }

        return $row[count($b)];
    }

    #[
        Described(
            'likeness',
            'text, text',
            'From 0 for nothing in common to 1 for the same (Jaro and Winkler); beginnings count more.',
            "likeness('MARTHA', 'MARHTA')",
            '0.961',
        ),
    ]
    public static function likeness(?string $a, ?string $b): string
    {
        return rtrim(rtrim(number_format(self::winkler(self::letters($a), self::letters($b)), 3, '.', ''), '0'), '.')
            ?: '0';
    }

    #[
        Described(
            'soundex',
            'text',
            'The code of a surname by its sound in English, as the census keeps it.',
            "soundex('Tymczak')",
            'T522',
        ),
    ]
    public static function soundex(?string $text): ?string
    {
        $letters = preg_replace('/[^A-Z]/', '', strtoupper((string) Text::plain($text)));
        if ($letters === null || $letters === '') {
            return null;
        }
        // US National Archives: letters of one code in a row count once, also with H or W between them; vowels separate.
        $codes = strtr($letters, 'BFPVCGJKQSXZDTLMNRAEIOUYHW', '11112222222233455600000000');
        $out = $letters[0];
        $last = $codes[0];
        for ($i = 1, $n = strlen($letters); $i < $n && strlen($out) < 4; $i++) {
            $code = $codes[$i];
            if ($code !== '0' && $code !== $last) {
                $out .= $code;
            }
            if ($letters[$i] !== 'H' && $letters[$i] !== 'W') {
                $last = $code;
            }
        }

        return str_pad($out, 4, '0');
    }

    /**
     * M. A. Jaro 1989, W. E. Winkler 1990: up to four letters of a common beginning are worth a tenth each of what is missing.
     *
     * @param  list<string>  $a
     * @param  list<string>  $b
     */
    private static function winkler(array $a, array $b): float
    {
        [$n, $m] = [count($a), count($b)];
        if ($n === 0 || $m === 0) {
            return $n === $m ? 1.0 : 0.0;
        }
        $window = max(0, intdiv(max($n, $m), 2) - 1);
        $usedB = [];
        $matchedA = [];
        foreach ($a as $i => $x) {
            for ($j = max(0, $i - $window); $j < min($m, $i + $window + 1); $j++) {
                if (! isset($usedB[$j]) && $b[$j] === $x) {
                    $usedB[$j] = true;
                    $matchedA[] = $x;
                    break;
                }
            }
        }
        $matches = count($matchedA);
        if ($matches === 0) {
            return 0.0;
        }
        ksort($usedB);
        $swaps = 0;
        foreach (array_keys($usedB) as $k => $j) {
            $swaps += $b[$j] === $matchedA[$k] ? 0 : 1;
        }
        $jaro = ($matches / $n + $matches / $m + ($matches - $swaps / 2) / $matches) / 3;
        for ($common = 0; $common < 4 && isset($a[$common], $b[$common]) && $a[$common] === $b[$common]; $common++);

        return $jaro > 0.7 ? $jaro + $common * 0.1 * (1 - $jaro) : $jaro;
    }

    /** @return list<string> */
    private static function letters(?string $text): array
    {
        return mb_str_split(mb_substr(mb_strtolower((string) Text::plain(Text::trim($text))), 0, self::LONGEST));
    }
}
