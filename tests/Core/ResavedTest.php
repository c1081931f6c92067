<?php

namespace Tests\Core;

use Baggage\Core\Writing\Guarded;
use Baggage\Core\Writing\Resaved;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** What programs that keep tables do to texts on their own (common practice, no source), and what a person did. */
final class ResavedTest extends TestCase
{
    /** @return array<string, array{string, string}> */
    public static function made(): array
    {
        return [
            'leading zeros' => ['00417', '417'],
            'plus sign' => ['+441632960001', '441632960001'],
            'long number' => ['12345678901234567', '1.23456789012346E+16'],
            'long number, written out' => ['12345678901234567', '12345678901234600'],
            'exponent in a code' => ['12E3', '12000'],
            'comma before decimals' => ['1,50', '1.5'],
            'thousands' => ['1.234,50', '1234.5'],
            'thousands with commas' => ['1,234.50', '1234.5'],
            'trailing zeros' => ['2.10', '2.1'],
            'percent' => ['12,5 %', '0.125'],
            'money' => ['€ 12.00', '12'],
            'day' => ['01/02/2003', '2003-02-01'],
            'day, month first' => ['02/01/2003', '2003-02-01'],
            'serial number of a day' => ['01/02/2003', '37653'],
            'two digits of a year' => ['1.2.03', '2003-02-01'],
            'month by name' => ['1 Feb 2003', '2003-02-01'],
            'a range that looks like a day' => ['1-2', '2026-02-01'],
            'a name that looks like a day' => ['1-Mar', '2026-03-01'],
            'day and time' => ['2003-02-01 08:30', '2003-02-01 08:30:00'],
            'time' => ['8:30', '08:30:00'],
            'serial number of a time' => ['8:30', '0.354166666666667'],
            'the day as another program shows it' => ['2003-02-01', '01/02/2003'],
            'word for true' => ['true', '1'],
            'letters an encoding has not' => ['Łódź, Ø', '?ód?, Ø'],
        ];
    }

    #[DataProvider('made')]
    public function test_a_program_made_it(string $was, string $is): void
    {
        self::assertFalse(Resaved::isSame($was, $is));
        self::assertTrue(Resaved::isMadeOf($was, $is));
    }

    /** @return array<string, array{string, string}> */
    public static function changed(): array
    {
        return [
            'another number' => ['00417', '418'],
            'another day' => ['01/02/2003', '2003-02-03'],
            'day and month exchanged' => ['01/02/2003', '02/01/2003'],
            'emptied' => ['00417', ''],
            'filled' => ['', '0'],
            'a day that is none' => ['31/02/2003', '2003-03-03'],
            'a word' => ['no', '0'],
            'another time' => ['8:30', '0.5'],
            'capitals' => ['sail', 'Sail'],
            'a question' => ['sail', 'sail?'],
            'a digit more' => ['12345678901234567', '1.3345678901234E+16'],
        ];
    }

    #[DataProvider('changed')]
    public function test_a_person_changed_it(string $was, string $is): void
    {
        self::assertFalse(Resaved::isSame($was, $is));
        self::assertFalse(Resaved::isMadeOf($was, $is));
    }

    public function test_what_files_cannot_say_otherwise_is_the_same(): void
    {
        foreach ([[null, ''], ["a\r\nb", "a\nb"], ['=1+1', "'=1+1"], [str_repeat('é', 40_000), str_repeat('é', 32_767)]] as [$was, $is]) {
            self::assertTrue(Resaved::isSame($was, $is), (string) $is);
        }
        self::assertSame(["'=1", "'-a", '-1', "'@x", 'a=1', ''], array_map(Guarded::text(...), ['=1', '-a', '-1', '@x', 'a=1', '']));
    }

    /** Read back as RFC 4180 has it, every line says what its cells say. */
    public function test_a_line_of_cells(): void
    {
        self::assertSame('a,,b', Guarded::line(['a', null, 'b']));
        self::assertSame('"a b","c,d",""', Guarded::line(['a b', 'c,d', '']));
        self::assertSame("'=1,\"c,d\",-1", Guarded::line(['=1', 'c,d', '-1']));
        self::assertSame('"say ""so""",x', Guarded::line(['say "so"', 'x']));
        mt_srand(18);
        $bits = ['a', ',', '"', '=', '-', '7', "\t", "\r\n", "\n", ' ', "\0", '@', 'é', '', '\\'];
        for ($n = 0; $n < 2_000; $n++) {
            $cells = [];
            for ($i = mt_rand(1, 5); $i > 0; $i--) {
                $cells[] = $bits[mt_rand(0, 14)].$bits[mt_rand(0, 14)].$bits[mt_rand(0, 14)];
            }
            $read = str_getcsv(Guarded::line($cells), ',', '"', '');
            self::assertSame(array_map(Guarded::text(...), $cells), $read, json_encode($cells) ?: '');
        }
    }
}
