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

    #[
        Described(
            'pick',
            'value, old, new, …, otherwise',
            'The new value beside the old one that equals the value; otherwise the last argument, or none.',
            "pick('Y', 'Y', 'yes', 'N', 'no')",
            'yes',
        ),
    ]
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

    #[
        Described(
            'check',
            'condition, value, message',
            'The value when the condition holds; otherwise the row is rejected with the message.',
            "check(5 > 3, 'A-07', 'no berth')",
            'A-07',
        ),
    ]
    public static function check(mixed $condition, mixed $value, string $message): mixed
    {
        return Operators::truth($condition)
            ? $value
            : throw new RuleFailure('check_failed', $message, Operators::text($value));
    }

    #[
        Described(
            'must',
            'value, message',
            'The value; a blank one rejects the row with the message.',
            "must('A-07', 'The slip is missing')",
            'A-07',
        ),
    ]
    public static function must(mixed $value, string $message): mixed
    {
        return Operators::blank($value) ? throw new RuleFailure('missing', $message, null) : $value;
    }

    #[
        Described(
            'one_of',
            'value, allowed, …',
            'The value when it is one of those allowed; any other rejects the row.',
            "one_of('sail', 'sail', 'motor')",
            'sail',
        ),
    ]
    public static function oneOf(mixed $value, mixed ...$allowed): mixed
    {
        if (Operators::blank($value) || Operators::in($value, $allowed)) {
            return Operators::blank($value) ? null : $value;
        }
        throw new RuleFailure(
            'not_allowed',
            'Not one of '.mb_substr(implode(', ', array_map(Operators::text(...), $allowed)), 0, 200),
            Operators::text($value),
        );
    }

    #[
        Described(
            'yes_no',
            'value, yes, no',
            'Whether the value means yes: y, yes, j, ja, true, x, on and 1 do, n, no, nein, nei, false, '
                .'off and 0 do not; what is given for each may be stated.',
            "yes_no('J')",
            '1',
        ),
    ]
    public static function yesNo(mixed $value, mixed $yes = '1', mixed $no = '0'): mixed
    {
        if (Operators::blank($value)) {
            return null;
        }
        $text = strtolower(trim(Operators::text($value)));

        return match (true) {
            in_array($text, ['y', 'yes', 'j', 'ja', 't', 'true', 'x', 'on', '1', '-1'], true) => $yes,
            in_array($text, ['n', 'no', 'nein', 'nei', 'f', 'false', 'off', '0'], true) => $no,
            default => throw new RuleFailure('not_yes_or_no', 'Neither yes nor no', trim(Operators::text($value))),
        };
    }
}
