<?php

namespace Baggage\Core\Expressions\Functions;

use Baggage\Core\Expressions\Described;

final class Names
{
    /** Legal forms that do not tell organisations apart, without points. */
    private const LEGAL_FORMS = 'ltd|limited|plc|llp|llc|inc|incorporated|corp|corporation|co|company|gmbh|ag|kg|ohg|ug|ev|bv|nv|sa|sas|sarl|srl|spa|sl|ab|as|asa|aps|oy|oyj|pty|cic|cio';

    private const PARTICLES = ['de', 'da', 'di', 'du', 'del', 'della', 'der', 'den', 'van', 'von', 'of', 'the', 'and', 'la', 'le', 'och', 'og'];

    #[Described('person', 'text', 'A name written "SURNAME, First" turned round; capitals and blanks repaired.', "person('MCKAY, ANNE')", 'Anne McKay')]
    public static function person(?string $text): ?string
    {
        $text = Text::squeeze($text);
        if ($text !== null && preg_match('/^([^,]+),\s*([^,]+)$/u', $text, $m) === 1) {
            $text = "$m[2] $m[1]";
        }

        return Text::tidy($text);
    }

    #[Described('surname', 'text', 'The last word of a person\'s name, particles kept with it.', "surname('Jan van den Berg')", 'van den Berg')]
    public static function surname(?string $text): ?string
    {
        $words = explode(' ', (string) self::person($text));
        $at = count($words) - 1;
        while ($at > 1 && in_array(mb_strtolower($words[$at - 1]), self::PARTICLES, true)) {
            $at--;
        }

        return Text::trim(implode(' ', array_slice($words, $at)));
    }

    #[Described('org_key', 'text', 'What is left of an organisation\'s name to compare it by: no legal form, punctuation, accents, blanks or capitals.', "org_key('Sound Marine Co. Ltd.')", 'soundmarine')]
    public static function orgKey(?string $text): ?string
    {
        $plain = strtolower((string) Text::plain($text));
        $plain = str_replace(['&', '+'], ' and ', $plain);
        // "p.l.c." and "plc" are one form.
        $plain = (string) preg_replace('/(?<=\b\w)\.(?=\w\b)/', '', $plain);
        $plain = (string) preg_replace('/[^a-z0-9]+/', ' ', $plain);
        $words = array_filter(explode(' ', trim($plain)), fn ($w) => $w !== '' && $w !== 'the' && preg_match('/^(?:'.self::LEGAL_FORMS.')$/', $w) !== 1);
        $key = implode('', $words) ?: str_replace(' ', '', trim($plain));

        return $key === '' ? null : $key;
    }

    #[Described('person_key', 'text', 'What is left of a person\'s name to compare it by: words in order of the alphabet, no accents, points or capitals.', "person_key('Sund, Harald')", 'harald sund')]
    public static function personKey(?string $text): ?string
    {
        $words = preg_split('/[^a-z0-9]+/', strtolower((string) Text::plain($text)), -1, PREG_SPLIT_NO_EMPTY) ?: [];
        sort($words);

        return $words === [] ? null : implode(' ', $words);
    }

    public static function capitalised(string $text): string
    {
        $words = explode(' ', mb_strtolower($text));
        foreach ($words as $i => $word) {
            if ($i > 0 && in_array($word, self::PARTICLES, true)) {
                continue;
            }
            $words[$i] = (string) preg_replace_callback('/(^|[-\'’.(\/])(\p{L})/u', fn ($m) => $m[1].mb_strtoupper($m[2]), $word);
            if (preg_match('/^(Mc)(\p{Ll})(\p{L}{2,})$/u', $words[$i], $m) === 1) {
                $words[$i] = 'Mc'.mb_strtoupper($m[2]).$m[3];
            }
            $words[$i] = (string) preg_replace('/(?<=\p{L})\'S\b/u', "'s", $words[$i]);
        }

        return implode(' ', $words);
    }
}
