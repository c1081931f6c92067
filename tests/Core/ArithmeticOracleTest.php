<?php

namespace Tests\Core;

use Baggage\Core\Expressions\Functions\Dates;
use Baggage\Core\Expressions\Functions\Numbers;
use Baggage\Core\Expressions\Operators;
use Baggage\Core\Expressions\RuleFailure;
use PHPUnit\Framework\TestCase;

/** Numbers and dates in rules against bcmath, PHP's own calendar and Python's decimal. */
final class ArithmeticOracleTest extends TestCase
{
    private static function number(int $whole, int $decimals): string
    {
        $digits = '';
        for ($i = mt_rand(1, $whole); $i > 0; $i--) {
            $digits .= mt_rand(0, 9);
        }
        $digits = ltrim($digits, '0') ?: '0';
        $places = mt_rand(0, $decimals);
        for ($i = 0; $i < $places; $i++) {
            $digits .= ($i === 0 ? '.' : '').mt_rand(0, 9);
        }

        return (mt_rand(0, 3) === 0 && trim($digits, '0.') !== '' ? '-' : '').$digits;
    }

    public function test_sums_differences_and_products_agree_with_bcmath(): void
    {
        mt_srand(11);
        for ($i = 0; $i < 2_000; $i++) {
            [$a, $b] = [self::number(25, 8), self::number(25, 8)];
            foreach (['+' => 'bcadd', '-' => 'bcsub', '*' => 'bcmul'] as $operator => $reference) {
                $expected = $reference($a, $b, 20);
                self::assertSame(
                    0,
                    bccomp($expected, (string) Operators::arithmetic($operator, $a, $b), 20),
                    "$a $operator $b",
                );
            }
            self::assertSame(bccomp($a, $b, 20), Operators::compare($a, $b), "$a ? $b");
        }
    }

    public function test_division_comes_out_even_or_is_rounded_at_twenty_digits(): void
    {
        mt_srand(12);
        for ($i = 0; $i < 500; $i++) {
            [$a, $b] = [self::number(12, 4), self::number(8, 3)];
            if (bccomp($b, '0', 10) === 0) {
                continue;
            }
            $difference = bcsub((string) Operators::arithmetic('/', $a, $b), bcdiv($a, $b, 40), 40);
            self::assertSame(-1, bccomp(ltrim($difference, '-'), '0.000000000000000000006', 40), "$a / $b");
        }
        self::assertSame('0.5', Operators::arithmetic('/', '1', '2'));
        self::assertSame(
            '33333333333333333333.33333333333333333333',
            Operators::arithmetic('/', '100000000000000000000', '3'),
        );
    }

    /** Python's decimal module, ROUND_HALF_UP. */
    public function test_rounding_agrees_with_pythons_decimal(): void
    {
        mt_srand(13);
        $asked = [];
        for ($i = 0; $i < 400; $i++) {
            $asked[] = [self::number(12, 6), mt_rand(0, 5)];
        }
        $program = 'import json, sys, decimal as d; '
                .'print(json.dumps([format(d.Decimal(n).quantize(d.Decimal(1).scaleb(-p), '
                .'rounding=d.ROUND_HALF_UP), "f") for n, p in json.load(sys.stdin)]))';
        $python = proc_open(['/usr/bin/python3', '-c', $program], [['pipe', 'r'], ['pipe', 'w']], $pipes);
        self::assertIsResource($python);
        fwrite($pipes[0], (string) json_encode($asked));
        fclose($pipes[0]);
        $expected = json_decode((string) stream_get_contents($pipes[1]), true);
        proc_close($python);
        foreach ($asked as $i => [$number, $places]) {
            self::assertSame(
                0,
                bccomp($expected[$i], (string) Numbers::round($number, $places), 10),
                "round($number, $places)",
            );
        }
    }

    public function test_dates_agree_with_phps_calendar(): void
    {
        mt_srand(14);
        $formats = ['d/m/Y', 'Y-m-d', 'd.m.Y', 'm/d/Y', 'Ymd', 'dmY', 'd-M-Y'];
        for ($i = 0; $i < 1_500; $i++) {
            $day = new \DateTimeImmutable(
                sprintf('%04d-%02d-%02d', mt_rand(1583, 2999), mt_rand(1, 12), mt_rand(1, 28)),
            );
            $format = $formats[$i % count($formats)];
            self::assertSame(
                $day->format('Y-m-d'),
                Dates::date($day->format($format), $format),
                $day->format($format)." as $format",
            );
            $n = mt_rand(-4_000, 4_000);
            self::assertSame($day->modify("$n days")->format('Y-m-d'), Dates::addDays($day->format('Y-m-d'), $n));
            $other = $day->modify("$n days");
            self::assertSame((string) $n, (string) Dates::daysBetween($day->format('Y-m-d'), $other->format('Y-m-d')));
            self::assertSame($day->format('Y-m-t'), Dates::monthEnd($day->format('Y-m-d')));
        }
    }

    public function test_no_day_that_does_not_exist_is_taken(): void
    {
        $refused = 0;
        for ($year = 1896; $year <= 1908; $year++) {
            for ($month = 1; $month <= 12; $month++) {
                for ($day = 28; $day <= 32; $day++) {
                    $text = sprintf('%02d/%02d/%04d', $day, $month, $year);
                    try {
                        Dates::date($text, 'd/m/Y');
                        self::assertTrue(checkdate($month, $day, $year), $text);
                    } catch (RuleFailure) {
                        self::assertFalse(checkdate($month, $day, $year), $text);
                        $refused++;
                    }
                }
            }
        }
        self::assertGreaterThan(200, $refused);
    }

    public function test_amounts_as_people_write_them_come_back(): void
    {
        mt_srand(15);
        for ($i = 0; $i < 500; $i++) {
            $cents = mt_rand(0, 99_999_999);
            $plain = bcdiv((string) $cents, '100', 2);
            $minus = $cents !== 0 && $i % 3 === 0;
            $expected = ($minus ? '-' : '').$plain;
            $continental = number_format($cents / 100, 2, ',', '.').($minus ? '-' : '');
            $english = ($minus ? '-' : '').number_format($cents / 100, 2);
            self::assertSame(0, bccomp($expected, (string) Numbers::decimal($continental, ','), 2), $continental);
            self::assertSame(0, bccomp($expected, (string) Numbers::decimal($english, '.'), 2), $english);
        }
    }
}
