<?php

namespace Baggage\Core\Expressions;

use Baggage\Core\Expressions\Functions\Names;
use Baggage\Core\Expressions\Functions\Text;

/** A person's name taken apart: "Dr. Jan van den Berg, Jr." or "van den Berg, Jan". */
final readonly class FullName
{
    private const TITLES = [
        'mr' => 'Mr',
        'mrs' => 'Mrs',
        'ms' => 'Ms',
        'miss' => 'Miss',
        'mx' => 'Mx',
        'dr' => 'Dr',
        'prof' => 'Prof',
        'professor' => 'Prof',
        'sir' => 'Sir',
        'dame' => 'Dame',
        'lord' => 'Lord',
        'lady' => 'Lady',
        'rev' => 'Rev',
        'revd' => 'Rev',
        'capt' => 'Capt',
        'captain' => 'Capt',
        'herr' => 'Herr',
        'frau' => 'Frau',
        'hr' => 'Herr',
        'fru' => 'Fru',
    ];

    private const SUFFIXES = [
        'jr' => 'Jr',
        'jnr' => 'Jr',
        'junior' => 'Jr',
        'sr' => 'Sr',
        'snr' => 'Sr',
        'senior' => 'Sr',
        'ii' => 'II',
        'iii' => 'III',
        'iv' => 'IV',
        'esq' => 'Esq',
        'phd' => 'PhD',
        'md' => 'MD',
        'obe' => 'OBE',
        'mbe' => 'MBE',
        'cbe' => 'CBE',
        'dipl-ing' => 'Dipl-Ing',
    ];

    private function __construct(
        public ?string $title,
        public ?string $given,
        public ?string $surname,
        public ?string $suffix,
    ) {
    }

    public static function parse(?string $text): self
    {
        $written = Text::squeeze($text);
        $text = Text::tidy($text);
        if ($text === null) {
            return new self(null, null, null, null);
        }
        $parts = array_map(trim(...), explode(',', $text));
        $suffixes = self::suffixes($parts);
        $turned = count($parts) > 1;
        $surname = $turned ? (string) array_shift($parts) : '';
        $first = strtok($surname, ' ');
        if ($written !== $text && $first !== false && in_array(mb_strtolower($first), Names::PARTICLES, true)) {
            // Written in capitals throughout, so nothing says that the particle has one.
            $surname = mb_strtolower($first).mb_substr($surname, mb_strlen($first));
        }
        $words = preg_split('/\s+/', implode(' ', $parts), -1, PREG_SPLIT_NO_EMPTY) ?: [];
        $titles = [];
        while (count($words) > 1 && ($title = self::TITLES[self::plain($words[0])] ?? null) !== null) {
            $titles[] = $title;
            array_shift($words);
        }
        $suffixes = [...self::suffixes($words), ...$suffixes];
        if (! $turned) {
            $at = count($words) - 1;
            while ($at > 1 && in_array(mb_strtolower($words[$at - 1]), Names::PARTICLES, true)) {
                $at--;
            }
            $at = count($titles) > 0 && count($words) === 1 ? 0 : max(0, $at);
            $surname = implode(' ', array_splice($words, $at));
        }

        return new self(
            self::filled($titles),
            self::filled($words),
            $surname === '' ? null : $surname,
            self::filled($suffixes),
        );
    }

    /**
     * Takes the suffixes off the end; the first part is never one.
     *
     * @param  list<string>  $parts
     * @return list<string>
     */
    private static function suffixes(array &$parts): array
    {
        $suffixes = [];
        while (count($parts) > 1 && ($suffix = self::suffix($parts[count($parts) - 1])) !== null) {
            array_unshift($suffixes, $suffix);
            array_pop($parts);
        }

        return $suffixes;
    }

    /** @param  list<string>  $words */
    private static function filled(array $words): ?string
    {
        return $words === [] ? null : implode(' ', $words);
    }

    private static function suffix(string|false $word): ?string
    {
        return $word === false ? null : self::SUFFIXES[self::plain($word)] ?? null;
    }

    private static function plain(string $word): string
    {
        return str_replace('.', '', mb_strtolower($word));
    }
}
