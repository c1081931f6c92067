<?php

namespace Baggage\Core\Mapping;

use Baggage\Core\Expressions\Functions\Likeness;
use Baggage\Core\Expressions\Functions\Text;

/** Suggests new values for old codes, each with the reason a person can judge. */
final class CodeSuggester
{
    private const ALIKE = 0.84;

    /** From so much on, and so far ahead of the next, it is ticked. */
    private const SURE = 0.9;

    private const AHEAD = 0.03;

    /**
     * @param  list<string>  $olds  old values without an entry, in the order of the legacy list
     * @param  list<string>  $news  values the target allows, in its order
     * @param  array<array-key, array{string, string}>  $earlier  old value → new value and the name of the crosswalk that says so
     * @param  bool  $byPlace  also by the places in both lists, which says least
     * @return array<array-key, array{new: string, reason: string, sure: bool}> by old value
     */
    public static function suggest(array $olds, array $news, array $earlier = [], bool $byPlace = false): array
    {
        $found = [];
        foreach ($olds as $i => $old) {
            $best = self::bySign($old, $news) ?? (self::byEarlier($old, $news, $earlier) ?? self::byLikeness($old, $news));
            if ($best === null && $byPlace && isset($news[$i])) {
                $best = ['new' => $news[$i], 'reason' => 'number '.($i + 1).' in both lists', 'sure' => false];
            }
            if ($best !== null) {
                $found[$old] = $best;
            }
        }

        return $found;
    }

    /**
     * @param  list<string>  $news
     * @return array{new: string, reason: string, sure: bool}|null
     */
    private static function bySign(string $old, array $news): ?array
    {
        foreach ($news as $new) {
            if (self::letters($old) !== '' && self::letters($old) === self::letters($new)) {
                return ['new' => $new, 'reason' => 'the same letters', 'sure' => true];
            }
        }

        return null;
    }

    /**
     * @param  list<string>  $news
     * @param  array<array-key, array{string, string}>  $earlier
     * @return array{new: string, reason: string, sure: bool}|null
     */
    private static function byEarlier(string $old, array $news, array $earlier): ?array
    {
        [$new, $where] = $earlier[$old] ?? [null, ''];

        return $new !== null && ($news === [] || in_array($new, $news, true))
            ? ['new' => $new, 'reason' => "as in $where", 'sure' => true]
            : null;
    }

    /**
     * @param  list<string>  $news
     * @return array{new: string, reason: string, sure: bool}|null
     */
    private static function byLikeness(string $old, array $news): ?array
    {
        $a = self::letters($old);
        $best = null;
        $most = $second = 0.0;
        foreach ($news as $new) {
            $b = self::letters($new);
            if (strlen($a) < 2 || $b === '') {
                continue;
            }
            $begins = str_starts_with($b, $a) || (strlen($b) > 1 && str_starts_with($a, $b));
            $alike = (float) Likeness::likeness($a, $b);
            $weight = $begins ? max($alike, 0.9) : $alike;
            if ($weight > $most) {
                $second = $most;
                $most = $weight;
                $best = [$new, $begins ? 'one begins with the other' : 'alike by '.number_format($alike * 100).' %'];
            } else {
                $second = max($second, $weight);
            }
        }

        // Where another is nearly as much alike it may be either.
        return $best === null || $most < self::ALIKE
            ? null
            : ['new' => $best[0], 'reason' => $best[1], 'sure' => $most >= self::SURE && $most - $second >= self::AHEAD];
    }

    private static function letters(string $text): string
    {
        return (string) preg_replace('/[^a-z0-9]+/', '', strtolower((string) Text::plain($text)));
    }
}
