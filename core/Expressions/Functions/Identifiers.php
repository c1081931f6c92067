<?php

namespace Baggage\Core\Expressions\Functions;

use Baggage\Core\Expressions\Described;
use Baggage\Core\Expressions\RuleFailure;
use libphonenumber\NumberParseException;
use libphonenumber\PhoneNumberFormat;
use libphonenumber\PhoneNumberUtil;
use Symfony\Component\Intl\Countries;
use Symfony\Component\Intl\Currencies;

final class Identifiers
{
    #[
        Described(
            'email',
            'text',
            'An e-mail address in small letters; anything else rejects the row.',
            "email(' Skarv@Orrin.Example ')",
            'skarv@orrin.example',
        ),
    ]
    public static function email(?string $text): ?string
    {
        $address = Text::lower($text);
        if ($address !== null && filter_var($address, FILTER_VALIDATE_EMAIL) === false) {
            throw new RuleFailure('not_an_email', 'E-mail is not an address', trim((string) $text));
        }

        return $address;
    }

    #[
        Described(
            'phone',
            'text, country',
            'A telephone number in international form (ITU-T E.164), read as dialled in the country.',
            "phone('0151 496 0018', 'GB')",
            '+441514960018',
        ),
    ]
    public static function phone(?string $text, string $country): ?string
    {
        $raw = Text::trim($text);
        if ($raw === null) {
            return null;
        }
        $util = PhoneNumberUtil::getInstance();
        try {
            $number = $util->parse($raw, strtoupper($country));
            if ($util->isPossibleNumber($number)) {
                return $util->format($number, PhoneNumberFormat::E164);
            }
        } catch (NumberParseException) {
            // Falls through to the same answer as an impossible number.
        }
        throw new RuleFailure('not_a_phone', 'Not a telephone number', $raw);
    }

    #[
        Described(
            'iban',
            'text',
            'An account number whose check digits are right (ISO 13616), without blanks.',
            "iban('GB82 WEST 1234 5698 7654 32')",
            'GB82WEST12345698765432',
        ),
    ]
    public static function iban(?string $text): ?string
    {
        $iban = strtoupper((string) preg_replace('/\s+/', '', (string) $text));
        if ($iban === '') {
            return null;
        }
        if (preg_match('/^[A-Z]{2}\d{2}[A-Z0-9]{10,30}$/', $iban) === 1) {
            $digits = preg_replace_callback(
                '/[A-Z]/',
                fn ($m) => (string) (ord($m[0]) - 55),
                substr($iban, 4).substr($iban, 0, 4),
            );
            // ISO/IEC 7064, MOD 97-10, nine digits at a time.
            $rest = 0;
            foreach (str_split((string) $digits, 7) as $chunk) {
                $rest = (int) ($rest.$chunk) % 97;
            }
            if ($rest === 1) {
                return $iban;
            }
        }
        throw new RuleFailure('bad_check_digit', 'IBAN with a wrong check digit', trim((string) $text));
    }

    #[
        Described(
            'luhn',
            'text',
            'A number whose last digit is right by the Luhn formula (ISO/IEC 7812-1), digits only.',
            "luhn('4992 7398 716')",
            '49927398716',
        ),
    ]
    public static function luhn(?string $text): ?string
    {
        $digits = Text::digits($text);
        if ($digits === null) {
            return null;
        }
        $sum = 0;
        foreach (array_reverse(str_split($digits)) as $i => $digit) {
            $n = (int) $digit * (($i % 2) + 1);
            $sum += $n > 9 ? $n - 9 : $n;
        }
        if ($sum % 10 !== 0) {
            throw new RuleFailure('bad_check_digit', 'Number with a wrong check digit', trim((string) $text));
        }

        return $digits;
    }

    #[
        Described(
            'gtin',
            'text',
            'An article number of 8, 12, 13 or 14 digits whose check digit is right (GS1 General Specifications), digits only.',
            "gtin('6 291041 500213')",
            '6291041500213',
        ),
    ]
    public static function gtin(?string $text): ?string
    {
        $digits = Text::digits($text);
        if ($digits === null) {
            return null;
        }
        $sum = 0;
        foreach (array_reverse(str_split($digits)) as $i => $digit) {
            $sum += (int) $digit * ($i % 2 === 1 ? 3 : 1);
        }
        if (! in_array(strlen($digits), [8, 12, 13, 14], true) || $sum % 10 !== 0) {
            throw new RuleFailure('bad_check_digit', 'Article number with a wrong check digit', trim((string) $text));
        }

        return $digits;
    }

    #[
        Described(
            'isbn',
            'text',
            'A book number of ten or thirteen digits as one of thirteen; a wrong check digit rejects the row.',
            "isbn('0-306-40615-2')",
            '9780306406157',
        ),
    ]
    public static function isbn(?string $text): ?string
    {
        $isbn = strtoupper((string) preg_replace('/[\s-]+/', '', (string) $text));
        if ($isbn === '') {
            return null;
        }
        if (preg_match('/^\d{9}[\dX]$/', $isbn) === 1) {
            $sum = 0;
            foreach (str_split($isbn) as $i => $digit) {
                $sum += (10 - $i) * ($digit === 'X' ? 10 : (int) $digit);
            }
            if ($sum % 11 === 0) {
                // ISO 2108: the same nine digits behind 978, with the check digit of thirteen.
                $body = '978'.substr($isbn, 0, 9);
                $sum = 0;
                foreach (str_split($body) as $i => $digit) {
                    $sum += (int) $digit * ($i % 2 === 1 ? 3 : 1);
                }

                return $body.(10 - ($sum % 10)) % 10;
            }
        } elseif (preg_match('/^97[89]\d{10}$/', $isbn) === 1) {
            return self::gtin($isbn);
        }
        throw new RuleFailure('bad_check_digit', 'Book number with a wrong check digit', trim((string) $text));
    }

    #[
        Described(
            'bic',
            'text',
            'A bank\'s identifier of eight or eleven signs (ISO 9362), in capitals.',
            "bic('orrngb2l')",
            'ORRNGB2L',
        ),
    ]
    public static function bic(?string $text): ?string
    {
        $bic = strtoupper((string) preg_replace('/\s+/', '', (string) $text));
        if ($bic === '') {
            return null;
        }

        return preg_match('/^[A-Z0-9]{4}([A-Z]{2})[A-Z0-9]{2}(?:[A-Z0-9]{3})?$/', $bic, $m) === 1
            && Countries::exists($m[1])
            ? $bic
            : throw new RuleFailure(
                'not_a_bic',
                'Not a bank identifier of eight or eleven signs',
                trim((string) $text),
            );
    }

    #[
        Described(
            'country',
            'text',
            'The code of two letters (ISO 3166-1) of a country given by code, number or English name.',
            "country('Norway')",
            'NO',
        ),
    ]
    public static function country(?string $text): ?string
    {
        $raw = Text::squeeze($text);
        if ($raw === null) {
            return null;
        }
        $code = strtoupper($raw);
        $padded = str_pad($code, 3, '0', STR_PAD_LEFT);
        $found = match (true) {
            Countries::exists($code) => $code,
            Countries::alpha3CodeExists($code) => Countries::getAlpha2Code($code),
            ctype_digit($code) && Countries::numericCodeExists($padded) => Countries::getAlpha2FromNumeric($padded),
            default => (self::$countries ??= self::countries())[mb_strtolower($raw)] ?? null,
        };

        return $found ?? throw new RuleFailure('not_a_country', 'Not a country by code or English name', $raw);
    }

    #[
        Described(
            'currency',
            'text',
            'The code of three letters (ISO 4217) of a currency given by code or English name.',
            "currency('norwegian krone')",
            'NOK',
        ),
    ]
    public static function currency(?string $text): ?string
    {
        $raw = Text::squeeze($text);
        if ($raw === null) {
            return null;
        }
        if (Currencies::exists(strtoupper($raw))) {
            return strtoupper($raw);
        }
        $found = array_search(mb_strtolower($raw), array_map(mb_strtolower(...), Currencies::getNames('en')), true);

        return is_string($found)
            ? $found
            : throw new RuleFailure('not_a_currency', 'Not a currency by code or English name', $raw);
    }

    #[
        Described(
            'email_mended',
            'text',
            'An e-mail address after the usual slips are put right: blanks, "mailto:", a comma for a point, '
                .'a missing point before com, two at signs.',
            "email_mended('mailto: skarv@orrin,example;')",
            'skarv@orrin.example',
        ),
    ]
    public static function emailMended(?string $text): ?string
    {
        $address = preg_replace(
            ['/^\s*mailto:/i', '/\s+/', '/[;,.<>]+$/', '/^[<]+/', '/@{2,}/'],
            ['', '', '', '', '@'],
            (string) $text,
        );
        $at = strrpos((string) $address, '@');
        if ($address !== null && $at !== false) {
            $host = str_replace(',', '.', substr($address, $at + 1));
            $address = substr($address, 0, $at + 1)
                .preg_replace(['/\.{2,}/', '/(?<![.])(?<=\w{2})(com|net|org)$/i'], ['.', '.$1'], $host);
        }

        return self::email($address);
    }

    /** @var array<string, string>|null English name in small letters → code */
    private static ?array $countries = null;

    /** @return array<string, string> */
    private static function countries(): array
    {
        $names = [];
        foreach (Countries::getNames('en') as $code => $name) {
            $names[mb_strtolower($name)] = (string) $code;
            $names[mb_strtolower(str_replace(' & ', ' and ', $name))] = (string) $code;
        }

        return $names + [
            'uk' => 'GB',
            'great britain' => 'GB',
            'england' => 'GB',
            'scotland' => 'GB',
            'wales' => 'GB',
            'northern ireland' => 'GB',
            'usa' => 'US',
            'united states of america' => 'US',
            'holland' => 'NL',
            'the netherlands' => 'NL',
            'czech republic' => 'CZ',
            'russian federation' => 'RU',
            'republic of ireland' => 'IE',
            'eire' => 'IE',
        ];
    }
}
