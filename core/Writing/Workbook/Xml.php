<?php

namespace Baggage\Core\Writing\Workbook;

/** Text as the parts of a workbook hold it (ECMA-376, part 1; 22.9.2.19 for what XML cannot hold). */
final class Xml
{
    /** Characters a cell holds (ECMA-376 does not say; as programs that open such files have it, value from memory). */
    public const MOST = 32_767;

    public static function text(string $text): string
    {
        $text = htmlspecialchars($text, ENT_XML1 | ENT_QUOTES | ENT_SUBSTITUTE, 'UTF-8');
        // What looks like an escape is no escape.
        if (str_contains($text, '_x')) {
            $text = (string) preg_replace('/_(?=x[0-9A-Fa-f]{4}_)/', '_x005F_', $text);
        }

        return (string) preg_replace_callback(
            '/[\x00-\x08\x0B\x0C\x0D\x0E-\x1F]|\x{FFFE}|\x{FFFF}/u',
            fn ($m) => sprintf('_x%04X_', mb_ord($m[0], 'UTF-8')),
            $text,
        );
    }
}
