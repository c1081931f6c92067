<?php

namespace App\Support;

use Normalizer;

/** An e-mail address as accounts are told apart by it: normalised, and then byte by byte. */
final class Address
{
    /** NFC (Unicode Standard Annex 15), small letters, without white space around it. */
    public static function normal(string $typed): string
    {
        $tidy = (string) preg_replace('/^\s+|\s+$/u', '', mb_scrub($typed));

        return mb_strtolower(Normalizer::normalize($tidy, Normalizer::FORM_C) ?: $tidy);
    }

    /** Whether an account may have it: one sign @, nothing that cannot be seen, and no blank. */
    public static function isFit(string $typed): bool
    {
        return mb_check_encoding($typed, 'UTF-8')
            && preg_match('/^[^\s@]+@[^\s@]+$/u', $typed) === 1
            && preg_match('/[\p{C}\p{Z}\x{034F}\x{115F}\x{1160}\x{17B4}\x{17B5}\x{3164}\x{FFA0}]/u', $typed) === 0
            && strlen($typed) <= 254;
    }
}
