<?php

namespace Tests\Core;

use Baggage\Core\Expressions\Functions\Text;
use Baggage\Core\Reading\Workbook\SerialDate;
use PHPUnit\Framework\TestCase;

/** Text functions over random texts in several scripts against Python's own string methods; serial dates against Python's calendar. */
final class TextOracleTest extends TestCase
{
    private const ANSWER = <<<'PYTHON'
    import json, re, sys

    def none(text):
        text = None if text is None else text.strip(' \t\n\r\0\x0b')
        return text if text else None

    def part(text, separator, n):
        parts = text.split(separator)
        at = len(parts) + n if n < 0 else n - 1
        return none(parts[at]) if 0 <= at < len(parts) else None

    def before(text, separator):
        return none(text.split(separator, 1)[0])

    def after(text, separator):
        return none(text.split(separator, 1)[1]) if separator in text else None

    functions = {
        'left': lambda t, n: t[:n] if n > 0 else None,
        'right': lambda t, n: t[-n:] if n > 0 else None,
        'middle': lambda t, start, n: t[max(0, start - 1):][:max(0, n)],
        'replace': lambda t, old, new: t.replace(old, new),
        'part': part,
        'before': before,
        'after': after,
        'length': lambda t: len(t),
        'squeeze': lambda t: none(re.sub(r'\s+', ' ', t)),
        'digits': lambda t: re.sub(r'[^0-9]+', '', t) or None,
    }
    print(json.dumps([functions[name](*arguments) for name, *arguments in json.load(sys.stdin)]))
    PYTHON;

    private const PIECES = [
        'a',
        'B',
        '7',
        ' ',
        '  ',
        '/',
        '-',
        'æ',
        'Ø',
        '日本',
        '😀',
        'ß',
        'שלום',
        '|',
        ',',
        '.',
        'Quay',
    ];

    private static function text(): string
    {
        $text = '';
        for ($i = mt_rand(1, 9); $i > 0; $i--) {
            $text .= self::PIECES[array_rand(self::PIECES)];
        }

        return $text;
    }

    /**
     * @param  list<list<mixed>>  $asked
     * @return list<mixed>
     */
    private function python(string $program, array $asked): array
    {
        $process = proc_open(['/usr/bin/python3', '-c', $program], [['pipe', 'r'], ['pipe', 'w']], $pipes);
        self::assertIsResource($process);
        fwrite($pipes[0], (string) json_encode($asked));
        fclose($pipes[0]);
        $answer = json_decode((string) stream_get_contents($pipes[1]), true);
        self::assertSame(0, proc_close($process));

        return $answer;
    }

    public function test_functions_agree_with_pythons_strings(): void
    {
        mt_srand(41);
        srand(41);
        $asked = [];
        for ($i = 0; $i < 400; $i++) {
            $separator = ['/', '-', '|', ' ', 'æ'][$i % 5];
            $asked[] = ['left', self::text(), mt_rand(0, 12)];
            $asked[] = ['right', self::text(), mt_rand(0, 12)];
            $asked[] = ['middle', self::text(), mt_rand(-2, 9), mt_rand(0, 6)];
            $asked[] = ['replace', self::text(), ['/', 'a', '日本', '  '][$i % 4], self::text()];
            $asked[] = ['part', self::text(), $separator, mt_rand(-4, 4)];
            $asked[] = ['before', self::text(), $separator];
            $asked[] = ['after', self::text(), $separator];
            $asked[] = ['length', self::text()];
            $asked[] = ['squeeze', self::text()];
            $asked[] = ['digits', self::text()];
        }
        foreach ($this->python(self::ANSWER, $asked) as $i => $expected) {
            [$name, $arguments] = [$asked[$i][0], array_slice($asked[$i], 1)];
            $given = Text::{$name}(...$arguments);
            // A text of blanks and one of none are the same to a rule.
            $plain = fn (mixed $v) => $v === null || (is_string($v) && trim($v) === '') ? '' : $v;
            self::assertSame($plain($expected), $plain($given), json_encode($asked[$i], JSON_UNESCAPED_UNICODE) ?: '');
        }
    }

    /** Python: date(1899, 12, 30) plus the serial number is right from March 1900 on, as spreadsheet manuals advise. */
    public function test_every_serial_date_from_1900_to_2199(): void
    {
        $program = 'import json, sys, datetime as d; base = d.date(1899, 12, 30); print(json.dumps([(base + '
                .'d.timedelta(days=n)).isoformat() for n in range(61, 109575)]))';
        $expected = $this->python($program, []);
        foreach ($expected as $i => $date) {
            $ours = SerialDate::of($i + 61, false);
            if ($date !== $ours?->iso()) {
                self::fail($i + 61 .' is '.$date.', not '.$ours?->iso());
            }
        }
        self::assertSame('2199-12-31', end($expected));
        // The two systems are 1,462 days apart (Microsoft, "Differences between the 1900 and the 1904 date system").
        self::assertSame(SerialDate::of(39_448, false)?->iso(), SerialDate::of(39_448 - 1_462, true)?->iso());
    }

    public function test_times_of_day_to_the_second(): void
    {
        mt_srand(42);
        for ($i = 0; $i < 2_000; $i++) {
            $second = mt_rand(0, 86_399);
            $serial = 40_179 + $second / 86_400;
            $expected = $second === 0 ? '2010-01-01' : '2010-01-01 '.gmdate('H:i:s', $second);
            self::assertSame($expected, SerialDate::of($serial, false)?->iso(), (string) $serial);
        }
    }

    public function test_a_shortened_text_is_the_beginning_of_the_text(): void
    {
        mt_srand(43);
        srand(43);
        for ($i = 0; $i < 1_000; $i++) {
            $text = self::text().' '.self::text();
            $n = mt_rand(1, 20);
            $short = Text::shorten($text, $n);
            self::assertLessThanOrEqual($n, mb_strlen((string) $short));
            self::assertStringStartsWith((string) $short, trim($text));
        }
    }

    public function test_what_is_padded_keeps_its_end(): void
    {
        mt_srand(44);
        srand(44);
        for ($i = 0; $i < 1_000; $i++) {
            $text = self::text();
            $n = mt_rand(0, 20);
            if (trim($text) === '') {
                continue;
            }
            $padded = (string) Text::pad($text, $n, ['0', 'ab', '日'][$i % 3]);
            self::assertStringEndsWith(trim($text), $padded);
            self::assertSame(max(mb_strlen(trim($text)), $n), mb_strlen($padded), "pad('$text', $n)");
        }
    }

    public function test_mended_text_is_what_it_was_before_it_was_misread(): void
    {
        foreach (['Bjørn Kjær', 'Größe', 'Façade', 'naïve', 'Zoë', 'Señor', 'Łódź'] as $text) {
            $misread = iconv('WINDOWS-1252', 'UTF-8//IGNORE', $text);
            if ($misread === false || iconv('UTF-8', 'WINDOWS-1252', $misread) !== $text) {
                continue;
            }
            self::assertSame($text, Text::mend($misread), $misread);
            self::assertSame($text, Text::mend($text), 'what is right stays');
        }
    }
}
