<?php

namespace Baggage\Core\Expressions\Functions;

use Baggage\Core\Crosswalks\Otherwise;
use Baggage\Core\Crosswalks\ParentKey;
use Baggage\Core\Expressions\Context;
use Baggage\Core\Expressions\Described;
use Baggage\Core\Expressions\Operators;
use Baggage\Core\Expressions\RuleFailure;
use Baggage\Core\Reading\Blank;

final class Keys
{
    #[
        Described(
            'code',
            'crosswalk, value',
            'The new value a code crosswalk has for an old one; a value it does not know rejects the row, '
                .'unless the crosswalk states otherwise.',
            "code('vessel types', 'YT')",
            'sail',
            true,
        ),
    ]
    public static function code(Context $x, string $crosswalk, string|int|null $value): ?string
    {
        $table = $x->crosswalk($crosswalk);
        $old = (string) $value;
        if ($table->rejects($old)) {
            throw new RuleFailure(
                'code_rejected',
                "The crosswalk \"$crosswalk\" says that rows with this code are rejected",
                trim($old),
            );
        }
        if ($table->knows($old)) {
            return $table->newValue($old);
        }
        if (Operators::blank($old) || $table->otherwise() !== Otherwise::Reject) {
            return Operators::blank($old) ? null : $table->otherwiseValue();
        }
        throw new RuleFailure('no_new_value', "Code has no new value in the crosswalk \"$crosswalk\"", trim($old));
    }

    /** @param  string|int|array<string|int|null>|null  $key */
    #[
        Described(
            'parent',
            'legacy key, key space',
            'The record that came from this legacy key, of the entity the field refers to. '
                .'A list for a composite key; the key space is that of the row\'s source unless stated.',
            "parent('00417')",
            '00417',
            true,
        ),
    ]
    public static function parent(Context $x, string|int|array|null $key, ?string $space = null): ?ParentKey
    {
        $parts = array_map(fn ($p) => $p === null ? null : (string) $p, is_array($key) ? array_values($key) : [$key]);

        return $x->parentKey($parts, $space);
    }

    #[Described(
        'parent_or',
        'parent, parent',
        'The first parent; the second where its key is blank, nowhere, or its record was left behind on purpose.',
        "parent_or(parent('00417'), parent('UNKNOWN'))",
        '00417, or UNKNOWN',
    )]
    public static function parentOr(?ParentKey $parent, ?ParentKey $else): ?ParentKey
    {
        return $parent === null || $else === null ? $parent ?? $else : $parent->or($else);
    }

    #[Described('record', 'target key', 'The record the target has under this key of its own, of the entity the field refers to.',
        "record('17')", 'record 17')]
    public static function record(string|int|null $key): ?ParentKey
    {
        return Blank::is($key === null ? null : (string) $key) ? null : ParentKey::record(trim((string) $key));
    }

    #[
        Described(
            'nothing_if',
            'text, value, …',
            'None when the text is one of the values, otherwise the text.',
            "nothing_if('00/00/00', '00/00/00', '99/99/99')",
            null,
        ),
    ]
    public static function nothingIf(string|int|null $text, string|int ...$values): string|int|null
    {
        return in_array(trim((string) $text), array_map('strval', $values), true) ? null : $text;
    }

    #[
        Described(
            'code_or',
            'crosswalk, value, otherwise',
            'As code(), but with a value for all old values the crosswalk does not know.',
            "code_or('vessel types', 'ZZ', 'other')",
            'other',
            true,
        ),
    ]
    public static function codeOr(
        Context $x,
        string $crosswalk,
        string|int|null $value,
        string|int|null $otherwise,
    ): string|int|null {
        $table = $x->crosswalk($crosswalk);

        return $table->knows((string) $value)
            ? $table->newValue((string) $value)
            : (Operators::blank($value)
                ? null
                : $otherwise);
    }

    #[
        Described(
            'parameter',
            'name',
            'A value that is asked for when a round begins, or its default.',
            "parameter('cutover_date')",
            '2026-12-31',
            true,
        ),
    ]
    public static function parameter(Context $x, string $name): ?string
    {
        return $x->parameter($name);
    }

    #[
        Described(
            'key_of',
            'text, …',
            'Texts joined into one key, trimmed, with bars between them; none when one of them is blank.',
            "key_of('INV', '007')",
            'INV|007',
        ),
    ]
    public static function keyOf(string|int|null ...$parts): ?string
    {
        $trimmed = array_map(fn ($p) => trim((string) $p), $parts);

        return in_array('', $trimmed, true) ? null : implode('|', $trimmed);
    }
}
