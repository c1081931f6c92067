<?php

namespace App\People;

/** Codes of six figures that change every 30 seconds. RFC 6238 over RFC 4226 with HMAC-SHA-1; secrets as text by RFC 4648, section 6. */
final class Totp
{
    public const SECONDS = 30;

    private const DIGITS = 6;

    /** RFC 4226, section 4, R6 wants 128 bits at least and recommends 160. */
    private const BYTES = 20;

    private const LETTERS = 'ABCDEFGHIJKLMNOPQRSTUVWXYZ234567';

    /** @return string base32, 32 characters */
    public static function secret(): string
    {
        return self::base32(random_bytes(self::BYTES));
    }

    public static function step(int $time): int
    {
        return intdiv($time, self::SECONDS);
    }

    /** RFC 4226, section 5.3: dynamic truncation of the HMAC of a counter. */
    public static function code(string $bytes, int $step): string
    {
        $mac = hash_hmac('sha1', pack('J', $step), $bytes, true);
        $at = ord($mac[19]) & 0x0F;
        $number = unpack('N', substr($mac, $at, 4))[1] & 0x7FFFFFFF;

        return str_pad((string) ($number % 10 ** self::DIGITS), self::DIGITS, '0', STR_PAD_LEFT);
    }

    /**
     * The step a code belongs to: the present one, or the one before or after it (RFC 6238, section 5.2).
     *
     * @param  string  $secret  base32
     * @return int|null null where it belongs to none of them
     */
    public static function stepOf(string $secret, string $code, int $time): ?int
    {
        $bytes = self::bytes($secret);
        $found = null;
        for ($step = self::step($time) - 1; $step <= self::step($time) + 1; $step++) {
            if (hash_equals(self::code($bytes, $step), $code)) {
                $found = $step;
            }
        }

        return $found;
    }

    /** What an authenticator reads from the picture: a URI of the scheme "otpauth" (Key Uri Format, common practice; value from memory). */
    public static function uri(string $secret, string $account, string $issuer): string
    {
        return 'otpauth://totp/'.rawurlencode($issuer).':'.rawurlencode($account)
            .'?'.http_build_query(['secret' => $secret, 'issuer' => $issuer], '', '&', PHP_QUERY_RFC3986);
    }

    public static function base32(string $bytes): string
    {
        $bits = implode('', array_map(fn ($byte) => sprintf('%08b', ord($byte)), $bytes === '' ? [] : str_split($bytes)));
        $text = '';
        foreach ($bits === '' ? [] : str_split($bits, 5) as $five) {
            $text .= self::LETTERS[(int) bindec(str_pad($five, 5, '0'))];
        }

        return $text;
    }

    public static function bytes(string $base32): string
    {
        $bits = '';
        foreach ($base32 === '' ? [] : str_split($base32) as $letter) {
            $bits .= sprintf('%05b', (int) strpos(self::LETTERS, $letter));
        }
        $bytes = '';
        foreach ($bits === '' ? [] : str_split($bits, 8) as $eight) {
            $bytes .= strlen($eight) === 8 ? chr((int) bindec($eight)) : '';
        }

        return $bytes;
    }
}
