<?php

namespace Baggage\Core\Reading\Workbook;

/** One number format code (ECMA-376, part 1, 18.8.31): whether it shows dates, and the text a person sees. */
final class NumberFormat
{
    /** Formats every workbook has without stating them (ECMA-376, part 1, 18.8.30). */
    private const BUILT_IN = [
        0 => 'General',
        1 => '0',
        2 => '0.00',
        3 => '#,##0',
        4 => '#,##0.00',
        9 => '0%',
        10 => '0.00%',
        11 => '0.00E+00',
        12 => '# ?/?',
        13 => '# ??/??',
        14 => 'mm-dd-yy',
        15 => 'd-mmm-yy',
        16 => 'd-mmm',
        17 => 'mmm-yy',
        18 => 'h:mm AM/PM',
        19 => 'h:mm:ss AM/PM',
        20 => 'h:mm',
        21 => 'h:mm:ss',
        22 => 'm/d/yy h:mm',
        37 => '#,##0 ;(#,##0)',
        38 => '#,##0 ;[Red](#,##0)',
        39 => '#,##0.00;(#,##0.00)',
        40 => '#,##0.00;[Red](#,##0.00)',
        45 => 'mm:ss',
        46 => '[h]:mm:ss',
        47 => 'mmss.0',
        48 => '##0.0E+0',
        49 => '@',
    ];

    private const MONTHS = [
        'January',
        'February',
        'March',
        'April',
        'May',
        'June',
        'July',
        'August',
        'September',
        'October',
        'November',
        'December',
    ];

    private const DAYS = ['Sunday', 'Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday'];

    /** @param  list<list<array{string, string}>>  $sections  each a list of [kind, text] */
    private function __construct(
        public readonly string $code,
        private readonly array $sections,
        public readonly bool $isDate,
    ) {
    }

    public static function of(string $code): self
    {
        $sections = array_map(self::tokens(...), self::split($code));
        $date = array_filter(
            $sections[0] ?? [],
            fn ($t) => in_array($t[0], ['y', 'm', 'd', 'h', 's', 'elapsed'], true),
        );

        return new self($code, $sections, $date !== []);
    }

    public static function builtIn(int $id): self
    {
        return self::of(self::BUILT_IN[$id] ?? 'General');
    }

    /** The number as text with at most 15 significant digits, no exponent. */
    public static function plain(string $stored): string
    {
        if (preg_match('/^-?\d{1,15}$/', $stored) === 1) {
            return $stored;
        }
        if (! is_numeric($stored)) {
            return $stored;
        }
        $text = sprintf('%.14e', (float) $stored);
        if (preg_match('/^(-?)(\d)\.(\d+)e([+-]\d+)$/', $text, $m) !== 1) {
            return $stored;
        }
        $digits = rtrim($m[2].$m[3], '0');
        $exponent = (int) $m[4];
        if ($digits === '') {
            return '0';
        }
        if (abs($exponent) > 60) {
            return $stored;
        }
        $number = match (true) {
            $exponent < 0 => '0.'.str_repeat('0', -$exponent - 1).$digits,
            strlen($digits) <= $exponent + 1 => str_pad($digits, $exponent + 1, '0'),
            default => substr($digits, 0, $exponent + 1).'.'.substr($digits, $exponent + 1),
        };

        return $m[1].$number;
    }

    public function show(string $stored, bool $since1904 = false): string
    {
        if (! is_numeric($stored) || strcasecmp($this->code, 'General') === 0 || $this->code === '@') {
            return self::plain($stored);
        }
        $value = (float) $stored;
        if ($this->isDate) {
            $date = SerialDate::of($value, $since1904);

            return $date === null ? self::plain($stored) : $this->date($this->sections[0], $date, $value);
        }
        $count = count($this->sections);
        $at = match (true) {
            $value < 0 && $count > 1 => 1,
            $value == 0 && $count > 2 => 2,
            default => 0,
        };
        $section = $this->sections[$at];
        if (array_filter($section, fn ($t) => $t[0] === 'fraction' || $t[0] === 'condition') !== []) {
            return self::plain($stored);
        }

        return $this->number($section, $at === 1 ? abs($value) : $value);
    }

    /** @return list<string> */
    private static function split(string $code): array
    {
        preg_match_all('/(?:"[^"]*"|\\\\.|\[[^\]]*\]|[^;"\\\\\[])*+(?:;|$)/us', $code, $m);

        return array_values(
            array_filter(
                array_map(fn ($s) => rtrim($s, ';'), $m[0]),
                fn ($s, $i) => $s !== '' || $i === 0,
                ARRAY_FILTER_USE_BOTH,
            ),
        );
    }

    /** @return list<array{string, string}> */
    private static function tokens(string $section): array
    {
        preg_match_all(
            '~"([^"]*)"|\\\\(.)|_(.)|\*.|\[([^\]]*)\]|AM/PM|A/P|General|y+|m+|d+|h+|s+(?:\.0+)?'
                .'|E[+-]0+|[0#?][0#?,]*(?:\.[0#?]*,*)?|\.[0#?]+,*|%|@|/|.~uis',
            $section,
            $m,
            PREG_SET_ORDER,
        );
        $tokens = [];
        foreach ($m as $t) {
            $token = ($t[4] ?? '') === '' ? self::token($t) : self::bracketed($t[4]);
            if ($token !== null) {
                $tokens[] = $token;
            }
        }

        return self::byNeighbours($tokens);
    }

    /**
     * @param  array<int, string>  $t  the whole, text in quotes, an escaped character, one whose width is left blank
     * @return array{string, string}
     */
    private static function token(array $t): array
    {
        $text = $t[0];
        $first = strtolower($text[0]);

        return match (true) {
            isset($t[1]) && $t[1] !== '' => ['text', $t[1]],
            $text === '""' => ['text', ''],
            isset($t[2]) && $t[2] !== '' => ['text', $t[2]],
            isset($t[3]) && $t[3] !== '' => ['text', ' '],
            $first === '*' && strlen($text) > 1 => ['text', ''],
            strcasecmp($text, 'AM/PM') === 0, strcasecmp($text, 'A/P') === 0 => ['half', $text],
            strcasecmp($text, 'General') === 0 => ['general', ''],
            in_array($first, ['y', 'm', 'd', 'h', 's'], true) => [$first, strtolower($text)],
            preg_match('/^E[+-]0+$/i', $text) === 1 => ['exponent', $text],
            preg_match('/^[0#?.]/', $text) === 1 && $text !== '.' => ['digits', $text],
            $text === '%' => ['percent', '%'],
            default => ['text', $text],
        };
    }

    /** @return array{string, string}|null null for a colour and what else is not shown */
    private static function bracketed(string $text): ?array
    {
        return match (true) {
            preg_match('/^(h+|m+|s+)$/i', $text) === 1 => ['elapsed', strtolower($text)],
            preg_match('/^\$([^-]*)/', $text, $c) === 1 => ['text', $c[1]],
            preg_match('/^[<>=]/', $text) === 1 => ['condition', $text],
            default => null,
        };
    }

    /**
     * @param  list<array{string, string}>  $tokens
     * @return list<array{string, string}>
     */
    private static function byNeighbours(array $tokens): array
    {
        // A bar between two digit groups makes a fraction; elsewhere it is text.
        foreach ($tokens as $i => [$kind, $text]) {
            if ($text === '/' && ($tokens[$i - 1][0] ?? '') === 'digits' && ($tokens[$i + 1][0] ?? '') === 'digits') {
                $tokens[$i] = ['fraction', '/'];
            }
            // "m" after hours or before seconds means minutes.
            if ($kind === 'm' && strlen($text) <= 2) {
                for ($before = $i - 1; $before >= 0 && $tokens[$before][0] === 'text'; $before--);
                for ($after = $i + 1; $after < count($tokens) && $tokens[$after][0] === 'text'; $after++);
                if (in_array($tokens[$before][0] ?? '', ['h', 'elapsed'], true) || ($tokens[$after][0] ?? '') === 's') {
                    $tokens[$i] = ['minute', $text];
                }
            }
        }

        return $tokens;
    }

    /** @param  list<array{string, string}>  $tokens */
    private function date(array $tokens, SerialDate $d, float $value): string
    {
        $half = array_filter($tokens, fn ($t) => $t[0] === 'half') !== [];
        $hour = intdiv($d->seconds, 3600);
        $shown = $half ? ($hour % 12 === 0 ? 12 : $hour % 12) : $hour;
        $minute = intdiv($d->seconds, 60) % 60;
        $out = '';
        foreach ($tokens as [$kind, $text]) {
            $long = strlen($text);
            $out .= match ($kind) {
                'y' => $long <= 2 ? sprintf('%02d', $d->year % 100) : (string) $d->year,
                'm' => self::named($long, $d->month, self::MONTHS[$d->month - 1]),
                'd' => self::named(min($long, 4), $d->day, self::DAYS[$d->weekday]),
                'h' => self::padded($long > 1, $shown),
                'minute' => self::padded($long > 1, $minute),
                's' => self::padded(str_starts_with($text, 'ss'), $d->seconds % 60),
                'half' => $hour < 12
                    ? substr($text, 0, strpos($text, '/') ?: 1)
                    : substr($text, (strpos($text, '/') ?: 0) + 1),
                // Time elapsed is the number itself, wherever the calendar begins.
                'elapsed' => str_pad(
                    (string) intdiv((int) round($value * 86_400), ['h' => 3600, 'm' => 60, 's' => 1][$text[0]]),
                    $long,
                    '0',
                    STR_PAD_LEFT,
                ),
                'general' => self::plain((string) $value),
                default => $text,
            };
        }

        return $out;
    }

    private static function padded(bool $two, int $number): string
    {
        return $two ? sprintf('%02d', $number) : (string) $number;
    }

    /** A month or a day by its number, in two digits, by three letters, by its name or by its first letter. */
    private static function named(int $long, int $number, string $name): string
    {
        return match ($long) {
            1 => (string) $number,
            2 => sprintf('%02d', $number),
            3 => substr($name, 0, 3),
            5 => $name[0],
            default => $name,
        };
    }

    /** @param  list<array{string, string}>  $tokens */
    private function number(array $tokens, float $value): string
    {
        $digits = $exponent = null;
        foreach ($tokens as [$kind, $text]) {
            $digits ??= $kind === 'digits' ? $text : null;
            $exponent ??= $kind === 'exponent' ? $text : null;
            $value *= $kind === 'percent' ? 100 : 1;
        }
        $shown = $digits === null ? '' : $this->digits($digits, $exponent, abs($value));
        // What is shown as nothing but zeros has no sign.
        $negative = $value < 0 && ($digits === null || preg_match('/[1-9]/', $shown) === 1);
        $out = '';
        $placed = false;
        foreach ($tokens as [$kind, $text]) {
            if ($kind === 'digits') {
                $out .= $placed ? '' : $shown;
                $placed = true;
            } elseif ($kind === 'general') {
                $out .= self::plain((string) json_encode(abs($value)));
                $placed = true;
            } elseif ($kind !== 'exponent') {
                $out .= $text;
            }
        }

        return ($negative ? '-' : '').$out;
    }

    /** The digits of a number that is not negative, as a pattern such as #,##0.00 wants them. */
    private function digits(string $pattern, ?string $exponent, float $value): string
    {
        $parts = explode('.', $pattern, 2);
        [$whole, $fraction] = [$parts[0], $parts[1] ?? null];
        // Commas at the end stand for thousands left out.
        $value /= 1000 ** (strlen($pattern) - strlen(rtrim($pattern, ',')));
        $fraction = $fraction === null ? null : rtrim($fraction, ',');
        $whole = rtrim($whole, ',');
        $power = $exponent === null || $value <= 0 ? 0 : self::power($whole, $value);
        $value /= 10 ** $power;
        $places = strlen((string) preg_replace('/[^0#?]/', '', (string) $fraction));
        // 15 significant digits are what the number holds; more would show the binary tail.
        $rounded = round((float) self::plain((string) json_encode($value)), $places);
        [$w, $f] = array_pad(explode('.', number_format($rounded, $places, '.', '')), 2, '');
        $w = str_pad(ltrim($w, '0'), substr_count($whole, '0'), '0', STR_PAD_LEFT);
        if (str_contains($whole, ',')) {
            $w = ltrim((string) preg_replace('/\B(?=(\d{3})+$)/', ',', $w), ',');
        }
        $shown = $w.($fraction === null ? '' : '.'.self::trimmed($f, $fraction));
        if ($exponent === null) {
            return $shown;
        }
        $sign = $power < 0 ? '-' : ($exponent[1] === '+' ? '+' : '');

        return $shown.strtoupper($exponent[0]).$sign.str_pad((string) abs($power), strlen($exponent) - 2, '0', STR_PAD_LEFT);
    }

    /** The power of ten left out, in steps of as many digits as stand before the point. */
    private static function power(string $whole, float $value): int
    {
        $power = (int) floor(log10($value));
        $step = max(1, strlen((string) preg_replace('/[^0#?]/', '', $whole)));

        return $step > 1 ? (int) (floor($power / $step) * $step) : $power;
    }

    /** Zeros at the end go where the pattern has no 0. */
    private static function trimmed(string $digits, string $pattern): string
    {
        for ($i = strlen($pattern) - 1; $i >= 0 && $digits !== '' && $pattern[$i] !== '0' && $digits[-1] === '0'; $i--) {
            $digits = substr($digits, 0, -1);
        }

        return $digits;
    }
}
