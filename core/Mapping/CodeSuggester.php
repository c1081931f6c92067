<?php

namespace Baggage\Core\Mapping;

use Baggage\Core\Expressions\Functions\Likeness;
use Baggage\Core\Expressions\Functions\Text;

/** Suggests new values for old codes, each with the reason a person can judge. */
final class CodeSuggester
{
    private const ALIKE = 0.84;

    /**
     * @param  list<string>  $olds  old values without an entry, in the order of the legacy list
     * @param  list<string>  $news  values the target allows, in its order
     * @param  array<array-key, array{string, string}>  $earlier  old value → new value and the name of the crosswalk that says so
     * @return array<array-key, array{new: string, reason: string}> by old value
     */
    public static function suggest(array $olds, array $news, array $earlier = []): array
    {
        $found = [];
        foreach ($olds as $i => $old) {
            $best = self::bySign($old, $news) ?? (self::byEarlier($old, $news, $earlier) ?? self::byLikeness($old, $news));
            // Lists of the same length that belong together are often in the same order; the weakest of reasons.
            if ($best === null && count($olds) === count($news) && count($news) > 1) {
                $best = ['new' => $news[$i], 'reason' => 'number '.($i + 1).' in both lists'];
            }
            if ($best !== null) {
                $found[$old] = $best;
            }
        }

        return $found;
    }

    /**
     * @param  list<string>  $news
     * @return array{new: string, reason: string}|null
     */
    private static function bySign(string $old, array $news): ?array
    {
        foreach ($news as $new) {
            if (self::letters($old) !== '' && self::letters($old) === self::letters($new)) {
                return ['new' => $new, 'reason' => 'the same letters'];
            }
        }

        return null;
    }

    /**
     * @param  list<string>  $news
     * @param  array<array-key, array{string, string}>  $earlier
     * @return array{new: string, reason: string}|null
     */
    private static function byEarlier(string $old, array $news, array $earlier): ?array
    {
        [$new, $where] = $earlier[$old] ?? [null, ''];

        return $new !== null && ($news === [] || in_array($new, $news, true))
            ? ['new' => $new, 'reason' => "as in $where"]
            : null;
    }

    /**
     * @param  list<string>  $news
     * @return array{new: string, reason: string}|null
     */
    private static function byLikeness(string $old, array $news): ?array
    {
        $a = self::letters($old);
        $best = null;
        $most = 0.0;
        foreach ($news as $new) {
            $b = self::letters($new);
            if (strlen($a) < 2 || $b === '') {
                continue;
            }
            $begins = str_starts_with($b, $a) || (strlen($b) > 1 && str_starts_with($a, $b));
            $alike = (float) Likeness::likeness($a, $b);
            $weight = $begins ? max($alike, 0.9) : $alike;
            if ($weight > $most) {
                [$best, $most] = [
                    [
                        'new' => $new,
                        'reason' => $begins
                            ? 'one begins with the other'
                            : 'alike by '.number_format($alike * 100).' %',
                    ],
                    $weight,
                ];
            }
        }

        return $most >= self::ALIKE ? $best : null;
    }

    private static function letters(string $text): string
    {
        return (string) preg_replace('/[^a-z0-9]+/', '', strtolower((string) Text::plain($text)));
    }
}
