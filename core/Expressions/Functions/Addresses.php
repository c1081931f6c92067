<?php

namespace Baggage\Core\Expressions\Functions;

use Baggage\Core\Expressions\Described;
use Baggage\Core\Expressions\OneLineAddress;
use Baggage\Core\Expressions\RuleFailure;

final class Addresses
{
    #[
        Described(
            'address',
            'text, part, country',
            'One part of an address in one line: number, street, postcode, town or rest.',
            "address('12a Pier Street, Inverlee, OS1 2AB', 'town', 'GB')",
            'Inverlee',
        ),
    ]
    public static function address(?string $text, string $part, string $country = 'GB'): ?string
    {
        $address = OneLineAddress::parse($text, $country);

        return match ($part) {
            'number' => $address->number,
            'street' => $address->street,
            'postcode' => $address->postcode,
            'town' => $address->town,
            'rest' => $address->rest,
            default => throw new RuleFailure(
                'unknown_part',
                'An address has number, street, postcode, town and rest',
                $part,
            ),
        };
    }

    #[
        Described(
            'house_number',
            'text, country',
            'The number of a street address, with its letter.',
            "house_number('Havnegata 7 B', 'NO')",
            '7 B',
        ),
    ]
    public static function houseNumber(?string $text, string $country = 'GB'): ?string
    {
        $line = Text::squeeze($text);

        return $line === null ? null : OneLineAddress::numbered($line, strtoupper($country))[0];
    }

    #[
        Described(
            'street',
            'text, country',
            'A street address without its number.',
            "street('Havnegata 7 B', 'NO')",
            'Havnegata',
        ),
    ]
    public static function street(?string $text, string $country = 'GB'): ?string
    {
        $line = Text::squeeze($text);

        return $line === null ? null : OneLineAddress::numbered($line, strtoupper($country))[1];
    }

    #[
        Described(
            'postcode',
            'text, country',
            'A postcode in the form of its country; one that has another form rejects the row.',
            "postcode('os12ab', 'GB')",
            'OS1 2AB',
        ),
    ]
    public static function postcode(?string $text, string $country): ?string
    {
        $raw = Text::squeeze($text);
        if ($raw === null) {
            return null;
        }
        if (! isset(OneLineAddress::POSTCODES[strtoupper($country)])) {
            return strtoupper($raw);
        }

        return OneLineAddress::postcode($raw, $country)
            ?? throw new RuleFailure('not_a_postcode', 'Not a postcode of '.strtoupper($country), $raw);
    }
}
