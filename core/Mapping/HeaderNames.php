<?php

namespace Baggage\Core\Mapping;

/** One rule by which all headers of an extract are written as names, so that none is written differently by hand. */
enum HeaderNames: string
{
    case Underscores = 'underscores';
    case Capitals = 'capitals';
    case Camel = 'camel';
    case Pascal = 'pascal';
    case Hyphens = 'hyphens';
    case Joined = 'joined';

    public function label(): string
    {
        return match ($this) {
            self::Underscores => 'small letters, words joined by _',
            self::Capitals => 'capitals, words joined by _',
            self::Camel => 'words run together, each but the first with a capital',
            self::Pascal => 'words run together, each with a capital',
            self::Hyphens => 'small letters, words joined by -',
            self::Joined => 'small letters, run together',
        };
    }

    /** "Größte Länge (m)" becomes groesste_laenge_m, GROESSTE_LAENGE_M, groessteLaengeM … */
    public function of(string $header): string
    {
        // A capital after a small letter begins a word as a blank does.
        $apart = (string) preg_replace('/(?<=\p{Ll})(?=\p{Lu})/u', ' ', $header);
        $plain = preg_match('/[\x80-\xFF]/', $apart) === 1 ? self::plain($apart) : $apart;
        preg_match_all('/[A-Za-z0-9]+/', $plain, $m);
        $words = array_map(strtolower(...), $m[0]);

        return match ($this) {
            self::Underscores => implode('_', $words),
            self::Capitals => strtoupper(implode('_', $words)),
            self::Hyphens => implode('-', $words),
            self::Joined => implode('', $words),
            self::Pascal => implode('', array_map(ucfirst(...), $words)),
            self::Camel => lcfirst(implode('', array_map(ucfirst(...), $words))),
        };
    }

    private static function plain(string $text): string
    {
        /** @var \Transliterator|null $to made once: making it takes longer than a thousand headers */
        static $to = null;
        $to ??= \Transliterator::create('de-ASCII; Any-Latin; Latin-ASCII');

        return (string) $to?->transliterate($text);
    }
}
