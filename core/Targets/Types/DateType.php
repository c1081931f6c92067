<?php

namespace Baggage\Core\Targets\Types;

use Baggage\Core\Targets\FieldType;
use Baggage\Core\Targets\Refusal;

/** A calendar date, or a date with a time, in ISO 8601 form. */
final readonly class DateType implements FieldType
{
    public function __construct(public bool $time = false)
    {
    }

    public function label(): string
    {
        return $this->time ? 'date and time' : 'date';
    }

    public function accept(string|int|float|bool $value): string|Refusal
    {
        $text = (string) $value;
        if (preg_match('/^(\d{4})-(\d{2})-(\d{2})(?:[T ](\d{2}):(\d{2})(?::(\d{2}))?)?$/', $text, $m) !== 1
            || ! checkdate((int) $m[2], (int) $m[3], (int) $m[1])) {
            return new Refusal('not_a_date', 'Not a date in the form 2003-02-28');
        }
        if (! $this->time) {
            return isset($m[4]) && $m[4].($m[5] ?? '').($m[6] ?? '00') !== '000000'
                ? new Refusal('not_a_date', 'The field keeps a date without a time, and this has one')
                : substr($text, 0, 10);
        }
        if ((int) ($m[4] ?? 0) > 23 || (int) ($m[5] ?? 0) > 59 || (int) ($m[6] ?? 0) > 59) {
            return new Refusal('not_a_date', 'Not a time of day');
        }

        return substr($text, 0, 10).' '.($m[4] ?? '00').':'.($m[5] ?? '00').':'.($m[6] ?? '00');
    }

    public function toArray(): array
    {
        return ['kind' => $this->time ? 'datetime' : 'date'];
    }
}
