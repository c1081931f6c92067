<?php

namespace Baggage\Core\Profiling;

/** What a value is told by when keys are compared: xxh3 of its text without blanks at the ends, of several columns of all texts. */
final class KeyHash
{
    /**
     * @param  list<string|null>  $cells
     * @param  list<int>  $positions
     * @return string|null sixteen hexadecimal digits; null when one of them is blank
     */
    public static function of(array $cells, array $positions): ?string
    {
        if (count($positions) === 1) {
            $part = trim((string) ($cells[$positions[0]] ?? ''));

            return $part === '' ? null : hash('xxh3', $part);
        }
        $parts = [];
        foreach ($positions as $at) {
            $part = trim((string) ($cells[$at] ?? ''));
            if ($part === '') {
                return null;
            }
            $parts[] = $part;
        }

        return hash('xxh3', implode("\x1F", $parts));
    }
}
