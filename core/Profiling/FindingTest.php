<?php

namespace Baggage\Core\Profiling;

/** Tells of any row whether a finding is about it: a profile keeps only the first rows of each. */
final class FindingTest
{
    /** Findings about single values, and the mark those have. */
    public const MARKS = [
        'stray_spaces' => Mark::STRAY_SPACES,
        'mojibake' => Mark::MOJIBAKE,
        'control_characters' => Mark::CONTROL,
        'placeholder' => Mark::PLACEHOLDER,
        'scientific' => Mark::SCIENTIFIC,
        'two_digit_year' => Mark::TWO_DIGIT_YEAR,
        'sentinel_date' => Mark::SENTINEL_DATE,
        'impossible_date' => Mark::IMPOSSIBLE_DATE,
    ];

    /**
     * @param  int|null  $doubt  mark of the values that do not fit the type of the finding's column
     * @param  list<string>  $headers  of the take
     * @return (\Closure(list<string|null>): bool)|null null where a row by itself does not tell
     */
    public static function of(string $code, ?int $position, ?int $doubt, array $headers): ?\Closure
    {
        if ($code === 'ragged_rows') {
            return fn (array $cells) => count($cells) !== count($headers);
        }
        $mark = $code === 'mixed_types' ? $doubt : self::MARKS[$code] ?? null;
        if ($mark === null || $position === null) {
            return null;
        }

        return function (array $cells) use ($mark, $position, $headers): bool {
            /** @var list<string|null> $cells */
            $cell = $cells[$position] ?? '';
            if ($cell === '') {
                return false;
            }
            $marks = Mark::of($cell);

            return ($marks & $mark) !== 0 && ($marks & Mark::BLANK) === 0 && ! TableProfile::isHeader($cells, $headers);
        };
    }
}
