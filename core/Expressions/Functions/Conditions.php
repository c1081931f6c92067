<?php

namespace Baggage\Core\Expressions\Functions;

use Baggage\Core\Expressions\Described;
use Baggage\Core\Expressions\Operators;
use Baggage\Core\Expressions\RuleFailure;

final class Conditions
{
    #[Described('blank', 'text', 'Whether nothing or only blanks stand there.', "blank('  ')", '1')]
    public static function blank(mixed $value): bool
    {
        return Operators::blank($value);
    }

    #[Described('first', 'value, …', 'The first value that is not blank.', "first('', ' ', 'Inverlee')", 'Inverlee')]
    public static function first(mixed ...$values): mixed
    {
        foreach ($values as $value) {
            if (! Operators::blank($value)) {
                return $value;
            }
        }

        return null;
    }

    #[Described('pick', 'value, old, new, …, otherwise', 'The new value beside the old one that equals the value; otherwise the last argument, or none.', "pick('Y', 'Y', 'yes', 'N', 'no')", 'yes')]
    public static function pick(mixed $value, mixed ...$pairs): mixed
    {
        $count = count($pairs);
        for ($i = 0; $i + 1 < $count; $i += 2) {
            if (Operators::equal($value, $pairs[$i])) {
                return $pairs[$i + 1];
            }
        }

        return $count % 2 === 1 ? $pairs[$count - 1] : null;
    }

    #[Described('check', 'condition, value, message', 'The value when the condition holds; otherwise the row is rejected with the message.', "check(5 > 3, 'A-07', 'no berth')", 'A-07')]
    public static function check(mixed $condition, mixed $value, string $message): mixed
    {
        return Operators::truth($condition) ? $value : throw new RuleFailure('check_failed', $message, Operators::text($value));
    }
}
