<?php

namespace Baggage\Core\Mapping;

use Baggage\Core\Expressions\Functions\Text;
use Baggage\Core\Reading\Column;

/** The values of a column against the list a field allows. */
final class ListEvidence
{
    /**
     * @param  list<string>  $allowed
     * @param  list<string>  $values  different ones of the column, blanks around them taken off
     * @param  string  $crosswalk  name of one that would give those that are not allowed as they are
     */
    public static function of(Column $column, array $allowed, array $values, string $crosswalk): ?Evidence
    {
        $n = count($values);
        if ($n === 0) {
            return null;
        }
        $same = count(array_intersect($values, $allowed));
        if ($same === $n) {
            $why = $n === 1 ? 'its one value is allowed' : "all $n values of it are allowed";

            return new Evidence("trim($column->name)", $why, $n === 1 ? 0.3 : 0.7);
        }
        $alike = count(array_intersect(array_map(self::plain(...), $values), array_map(self::plain(...), $allowed)));

        return $alike < 2 || $alike * 2 < $n ? null : new Evidence(
            'code(\''.addcslashes($crosswalk, "'\\")."', $column->name)",
            "$alike of its $n values are allowed, or but for capitals and signs; a code crosswalk gives the others",
            0.35 + 0.3 * $alike / $n,
        );
    }

    private static function plain(string $value): string
    {
        return (string) preg_replace('/[^a-z0-9]+/', '', strtolower((string) Text::plain($value)));
    }
}
