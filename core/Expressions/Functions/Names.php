<?php

namespace Baggage\Core\Expressions\Functions;

use Baggage\Core\Expressions\Described;
use Baggage\Core\Expressions\FullName;
use Baggage\Core\Expressions\RuleFailure;

final class Names
{
    /** Legal forms that do not tell organisations apart, without points. */
    private const LEGAL_FORMS = 'ltd|limited|plc|llp|llc|inc|incorporated|corp|corporation|co|company'
        .'|gmbh|mbh|ag|kg|kgaa|ohg|ug|gbr|ev|eg|se'
        .'|bv|nv|vof|sa|sas|sarl|srl|spa|snc|sl|slu|lda|ltda|ab|hb|kb|as|asa|ans|da|ks|aps|is'
        .'|oy|oyj|ky|ou|sia|uab|pty|kft|zrt|doo|dd|sro|cic|cio|lp';

    public const PARTICLES = [
        'de',
        'da',
        'di',
        'du',
        'del',
        'della',
        'der',
        'den',
        'van',
        'von',
        'of',
        'the',
        'and',
        'la',
        'le',
        'och',
        'og',
    ];

    #[
        Described(
            'person',
            'text',
            'A name written "SURNAME, First" turned round; capitals and blanks repaired.',
            "person('MCKAY, ANNE')",
            'Anne McKay',
        ),
    ]
    public static function person(?string $text): ?string
    {
        $text = Text::squeeze($text);
        if ($text !== null && preg_match('/^([^,]+),\s*([^,]+)$/u', $text, $m) === 1) {
            $text = "$m[2] $m[1]";
        }

        return Text::tidy($text);
    }

    #[
        Described(
            'surname',
            'text',
            'The last word of a person\'s name, particles kept with it.',
            "surname('Jan van den Berg')",
            'van den Berg',
        ),
    ]
    public static function surname(?string $text): ?string
    {
        return FullName::parse($text)->surname;
    }

    #[
        Described(
            'org_key',
            'text',
            'What is left of an organisation\'s name to compare it by: no legal form, punctuation, accents, blanks or capitals.',
            "org_key('Sound Marine Co. Ltd.')",
            'soundmarine',
        ),
    ]
    public static function orgKey(?string $text): ?string
    {
        $plain = strtolower((string) Text::plain($text));
        $plain = str_replace(['&', '+'], ' and ', $plain);
        // "p.l.c." and "plc" are one form.
        $plain = (string) preg_replace('/(?<=\b\w)\.(?=\w\b)/', '', $plain);
        $plain = (string) preg_replace('/[^a-z0-9]+/', ' ', $plain);
        $words = array_filter(
            explode(' ', trim($plain)),
            fn ($w) => $w !== '' && $w !== 'the' && preg_match('/^(?:'.self::LEGAL_FORMS.')$/', $w) !== 1,
        );
        $key = implode('', $words) ?: str_replace(' ', '', trim($plain));

        return $key === '' ? null : $key;
    }

    #[
        Described(
            'person_key',
            'text',
            'What is left of a person\'s name to compare it by: words in order of the alphabet, no accents, points or capitals.',
            "person_key('Sund, Harald')",
            'harald sund',
        ),
    ]
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
            $words[$i] = (string) preg_replace_callback(
                '/(^|[-\'’.(\/])(\p{L})/u',
                fn ($m) => $m[1].mb_strtoupper($m[2]),
                $word,
            );
            if (preg_match('/^(Mc)(\p{Ll})(\p{L}{2,})$/u', $words[$i], $m) === 1) {
                $words[$i] = 'Mc'.mb_strtoupper($m[2]).$m[3];
            }
            $words[$i] = (string) preg_replace('/(?<=\p{L})\'S\b/u', "'s", $words[$i]);
        }

        return implode(' ', $words);
    }

    #[
        Described(
            'given_names',
            'text',
            'The names before the surname, without title.',
            "given_names('Dr. Anne Marie McKay')",
            'Anne Marie',
        ),
    ]
    public static function givenNames(?string $text): ?string
    {
        return FullName::parse($text)->given;
    }

    #[
        Described(
            'name_part',
            'text, part',
            'One part of a person\'s full name, written either way round: title, given, surname or suffix.',
            "name_part('van den Berg, Dr. Jan, Jr.', 'title')",
            'Dr',
        ),
    ]
    public static function namePart(?string $text, string $part): ?string
    {
        $name = FullName::parse($text);

        return match ($part) {
            'title' => $name->title,
            'given' => $name->given,
            'surname' => $name->surname,
            'suffix' => $name->suffix,
            default => throw new RuleFailure(
                'unknown_part',
                'A full name has title, given, surname and suffix',
                $part,
            ),
        };
    }

    #[
        Described(
            'initials',
            'text',
            'The first letters of a person\'s names, particles left out.',
            "initials('Jan Willem van den Berg')",
            'JWB',
        ),
    ]
    public static function initials(?string $text): ?string
    {
        $name = FullName::parse($text);
        $words = array_filter(
            preg_split('/[\s-]+/u', trim("$name->given $name->surname"), -1, PREG_SPLIT_NO_EMPTY) ?: [],
            fn ($w) => ! in_array(mb_strtolower($w), self::PARTICLES, true),
        );

        return $words === [] ? null : implode('', array_map(fn ($w) => mb_strtoupper(mb_substr($w, 0, 1)), $words));
    }

    #[
        Described(
            'org_name',
            'text',
            'An organisation\'s name without its legal form at the end.',
            "org_name('Skerry Boatyard Co. Ltd.')",
            'Skerry Boatyard',
        ),
    ]
    public static function orgName(?string $text): ?string
    {
        return self::apart($text)[0];
    }

    #[
        Described(
            'legal_form',
            'text',
            'The legal form at the end of an organisation\'s name, without points.',
            "legal_form('Holm & Tarn GmbH & Co. KG')",
            'GmbH & Co KG',
        ),
    ]
    public static function legalForm(?string $text): ?string
    {
        return self::apart($text)[1];
    }

    /** @return array{string|null, string|null} name and legal form */
    private static function apart(?string $text): array
    {
        $words = preg_split('/[\s,]+/u', (string) Text::squeeze($text), -1, PREG_SPLIT_NO_EMPTY) ?: [];
        $form = [];
        while (count($words) > 1) {
            $word = $words[count($words) - 1];
            $plain = strtolower(str_replace(['.', '(', ')'], '', (string) Text::plain($word)));
            // "Ltd &" is no form, but an "&" between two forms belongs to them.
            if (
                preg_match('/^(?:'.self::LEGAL_FORMS.')$/', str_replace('/', '', $plain)) !== 1
                && ! ($plain === '&' && $form !== [])
            ) {
                break;
            }
            array_unshift($form, rtrim(str_replace(['.', '(', ')'], '', $word)));
            array_pop($words);
        }
        if ($form !== [] && $form[0] === '&') {
            $words[] = array_shift($form);
        }

        return [$words === [] ? null : implode(' ', $words), $form === [] ? null : implode(' ', $form)];
    }
}
