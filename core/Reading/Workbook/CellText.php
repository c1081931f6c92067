<?php

namespace Baggage\Core\Reading\Workbook;

/** Plain text out of a <si> or <is> element: runs of rich text joined, phonetic hints left out. */
final class CellText
{
    /** @param  string  $x  namespace prefix with its colon, or '' */
    public static function of(string $xml, string $x): string
    {
        if ($xml === '') {
            return '';
        }
        if (preg_match("~^\\s*<{$x}t(?:\\s[^>]*)?>([^<]*)</{$x}t>\\s*$~", $xml, $m) === 1) {
            return self::decode($m[1]);
        }
        $xml = (string) preg_replace("~<{$x}rPh\\b.*?</{$x}rPh>~s", '', $xml);
        preg_match_all("~<{$x}t(?:\\s[^>]*)?>([^<]*)</{$x}t>~", $xml, $runs);

        return self::decode(implode('', $runs[1]));
    }

    public static function decode(string $text): string
    {
        if (strpos($text, '&') !== false) {
            $text = html_entity_decode($text, ENT_QUOTES | ENT_XML1, 'UTF-8');
        }
        // Characters XML cannot hold are written _xHHHH_ (ECMA-376, part 1, 22.9.2.19).
        if (strpos($text, '_x') !== false) {
            $text = (string) preg_replace_callback(
                '/_x([0-9A-Fa-f]{4})_/',
                fn ($m) => mb_chr((int) hexdec($m[1]), 'UTF-8') ?: $m[0],
                $text,
            );
        }

        return str_replace(["\r\n", "\r"], "\n", $text);
    }
}
