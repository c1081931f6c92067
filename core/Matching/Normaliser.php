<?php

namespace Baggage\Core\Matching;

use Baggage\Core\Expressions\Functions\Names;
use Baggage\Core\Expressions\Functions\Text;

/** How a field's value is written before it is compared with another record's. */
enum Normaliser: string
{
    case Exact = 'exact';
    case Letters = 'letters';
    case Organisation = 'organisation';
    case Person = 'person';
    case Digits = 'digits';
    case Email = 'email';

    public function label(): string
    {
        return match ($this) {
            self::Exact => 'exactly',
            self::Letters => 'letters and digits only, no accents or capitals',
            self::Organisation => 'as an organisation, without its legal form',
            self::Person => 'as a person, in any order of names',
            self::Digits => 'digits only',
            self::Email => 'as an e-mail address',
        };
    }

    public function key(?string $value): ?string
    {
        if ($value === null || trim($value) === '') {
            return null;
        }

        return match ($this) {
            self::Exact => $value,
            self::Letters => preg_replace('/[^a-z0-9]+/', '', strtolower((string) Text::plain($value))) ?: null,
            self::Organisation => Names::orgKey($value),
            self::Person => Names::personKey($value),
            self::Digits => Text::digits($value),
            self::Email => Text::lower($value),
        };
    }
}
