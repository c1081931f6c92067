<?php

namespace Baggage\Core\Expressions\Functions;

use Baggage\Core\Expressions\Described;
use Baggage\Core\Expressions\RuleFailure;
use libphonenumber\NumberParseException;
use libphonenumber\PhoneNumberFormat;
use libphonenumber\PhoneNumberUtil;

final class Identifiers
{
    #[Described('email', 'text', 'An e-mail address in small letters; anything else rejects the row.', "email(' Skarv@Orrin.Example ')", 'skarv@orrin.example')]
    public static function email(?string $text): ?string
    {
        $address = Text::lower($text);
        if ($address !== null && filter_var($address, FILTER_VALIDATE_EMAIL) === false) {
            throw new RuleFailure('not_an_email', 'E-mail is not an address', trim((string) $text));
        }

        return $address;
    }

    #[Described('phone', 'text, country', 'A telephone number in international form (ITU-T E.164), read as dialled in the country.', "phone('0151 496 0018', 'GB')", '+441514960018')]
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

    #[Described('iban', 'text', 'An account number whose check digits are right (ISO 13616), without blanks.', "iban('GB82 WEST 1234 5698 7654 32')", 'GB82WEST12345698765432')]
    public static function iban(?string $text): ?string
    {
        $iban = strtoupper((string) preg_replace('/\s+/', '', (string) $text));
        if ($iban === '') {
            return null;
        }
        if (preg_match('/^[A-Z]{2}\d{2}[A-Z0-9]{10,30}$/', $iban) === 1) {
            $digits = preg_replace_callback('/[A-Z]/', fn ($m) => (string) (ord($m[0]) - 55), substr($iban, 4).substr($iban, 0, 4));
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

    #[Described('luhn', 'text', 'A number whose last digit is right by the Luhn formula (ISO/IEC 7812-1), digits only.', "luhn('4992 7398 716')", '49927398716')]
    public static function luhn(?string $text): ?string
    {
        $digits = Text::digits($text);
        if ($digits === null) {
            return null;
        }
        $sum = 0;
        foreach (array_reverse(str_split($digits)) as $i => $digit) {
            $n = (int) $digit * ($i % 2 + 1);
            $sum += $n > 9 ? $n - 9 : $n;
        }
        if ($sum % 10 !== 0) {
            throw new RuleFailure('bad_check_digit', 'Number with a wrong check digit', trim((string) $text));
        }

        return $digits;
    }
}
