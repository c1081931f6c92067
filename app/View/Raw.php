<?php

namespace App\View;

/** A legacy value with visible marks for what the eye misses. */
final class Raw
{
    /** @return string escaped HTML */
    public static function html(string $value): string
    {
        $cut = mb_strlen($value) > 400;
        $text = e($cut ? mb_substr($value, 0, 400) : $value);
        $marked = fn (string $sign) => "<span class=\"mark\">$sign</span>";
        $text = (string) preg_replace_callback('/^ +| +$/u', fn ($m) => $marked(str_repeat('·', strlen($m[0]))), $text);
        $text = str_replace(
            ["\t", "\u{00A0}", "\r", "\n"],
            [$marked('→'), $marked('⍽'), $marked('␍'), $marked('␤')."\n"],
            $text,
        );

        // What has no shape of its own is named by its code.
        $text = (string) preg_replace_callback(
            '/[\x{00}-\x{08}\x{0B}\x{0C}\x{0E}-\x{1F}\x{7F}-\x{9F}\x{AD}\x{200B}-\x{200F}\x{2028}-\x{202E}\x{2060}\x{FEFF}]/u',
            fn ($m) => $marked(sprintf('U+%04X', mb_ord($m[0]))),
            $text,
        );

        return $text.($cut ? $marked('… '.number_format(mb_strlen($value)).' characters') : '');
    }
}
