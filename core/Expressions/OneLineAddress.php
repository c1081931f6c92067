<?php

namespace Baggage\Core\Expressions;

use Baggage\Core\Expressions\Functions\Text;

/** An address written in one line, its parts separated by commas or line breaks, taken apart as far as it tells. */
final readonly class OneLineAddress
{
    /**
     * Postcodes as national posts write them; the form after tidying. Values from memory, after the Universal Postal
     * Union's addressing pages.
     */
    public const POSTCODES = [
        'GB' => '/^([A-Z]{1,2}\d[A-Z\d]?) ?(\d[A-Z]{2})$/',
        'IE' => '/^([A-Z]\d[\dW]) ?([A-Z\d]{4})$/',
        'DE' => '/^(\d{5})$/',
        'FR' => '/^(\d{5})$/',
        'ES' => '/^(\d{5})$/',
        'IT' => '/^(\d{5})$/',
        'FI' => '/^(\d{5})$/',
        'SE' => '/^(\d{3}) ?(\d{2})$/',
        'NO' => '/^(\d{4})$/',
        'DK' => '/^(\d{4})$/',
        'AT' => '/^(\d{4})$/',
        'BE' => '/^(\d{4})$/',
        'CH' => '/^(\d{4})$/',
        'NL' => '/^(\d{4}) ?([A-Z]{2})$/',
        'PL' => '/^(\d{2}-\d{3})$/',
        'PT' => '/^(\d{4}-\d{3})$/',
        'US' => '/^(\d{5}(?:-\d{4})?)$/',
        'CA' => '/^([A-Z]\d[A-Z]) ?(\d[A-Z]\d)$/',
        'AU' => '/^(\d{4})$/',
    ];

    /** Countries whose people write the number behind the street. */
    private const NUMBER_BEHIND = ['DE', 'AT', 'CH', 'NL', 'BE', 'NO', 'SE', 'DK', 'FI', 'ES', 'IT', 'PL', 'PT'];

    private function __construct(
        public ?string $number,
        public ?string $street,
        public ?string $postcode,
        public ?string $town,
        public ?string $rest,
    ) {
    }

    public static function parse(?string $text, string $country): self
    {
        $parts = array_values(
            array_filter(
                array_map(fn ($p) => Text::squeeze($p), preg_split('/[,\r\n]+/', (string) $text) ?: []),
                fn ($p) => $p !== null,
            ),
        );
        if ($parts === []) {
            return new self(null, null, null, null, null);
        }
        $country = strtoupper($country);
        $postcode = $town = null;
        for ($i = count($parts) - 1; $i >= 0 && $postcode === null; $i--) {
            [$postcode, $beside] = self::postcodeIn($parts[$i], $country);
            if ($postcode !== null) {
                if ($beside === '') {
                    array_splice($parts, $i, 1);
                } else {
                    $town = $beside;
                    array_splice($parts, $i, 1);
                }
            }
        }
        $first = array_shift($parts);
        [$number, $street] = $first === null ? [null, null] : self::numbered($first, $country);
        $town ??= array_pop($parts);

        return new self($number, $street, $postcode, $town, $parts === [] ? null : implode(', ', $parts));
    }

    /** @return array{string|null, string} number and street */
    public static function numbered(string $line, string $country): array
    {
        $number = '\d+(?:\s?[-\/]\s?\d+)?\s?[A-Za-z]?';
        if (
            preg_match("/^($number)\\s+(\\p{L}.*)$/u", $line, $m) === 1
            && ! in_array($country, self::NUMBER_BEHIND, true)
        ) {
            return [$m[1], $m[2]];
        }
        if (preg_match("/^(\\D.*?)\\s+($number)$/u", $line, $m) === 1) {
            return [$m[2], $m[1]];
        }

        return preg_match("/^($number)\\s+(\\p{L}.*)$/u", $line, $m) === 1 ? [$m[1], $m[2]] : [null, $line];
    }

    /** @return array{string|null, string} postcode in its tidy form, and what stands beside it */
    private static function postcodeIn(string $part, string $country): array
    {
        $words = explode(' ', $part);
        foreach ([2, 1] as $take) {
            for ($at = 0; $at + $take <= count($words); $at++) {
                $code = self::postcode(implode(' ', array_slice($words, $at, $take)), $country);
                if ($code !== null) {
                    array_splice($words, $at, $take);

                    return [$code, trim(implode(' ', $words))];
                }
            }
        }

        return [null, $part];
    }

    public static function postcode(string $text, string $country): ?string
    {
        $pattern = self::POSTCODES[strtoupper($country)] ?? null;
        $text = strtoupper((string) preg_replace('/^(?:[A-Z]{1,2}-)(?=\d)/', '', trim($text)));

        return $pattern !== null && preg_match($pattern, $text, $m) === 1 ? implode(' ', array_slice($m, 1)) : null;
    }
}
