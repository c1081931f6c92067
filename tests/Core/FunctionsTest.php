<?php

namespace Tests\Core;

use Baggage\Core\Expressions\Catalogue;
use Baggage\Core\Expressions\CatalogueDocument;
use Baggage\Core\Expressions\Functions\Addresses;
use Baggage\Core\Expressions\Functions\Dates;
use Baggage\Core\Expressions\Functions\Identifiers;
use Baggage\Core\Expressions\Functions\Likeness;
use Baggage\Core\Expressions\Functions\Names;
use Baggage\Core\Expressions\Functions\Numbers;
use Baggage\Core\Expressions\Functions\Text;
use Baggage\Core\Expressions\Functions\Units;
use Baggage\Core\Expressions\Operators;
use Baggage\Core\Expressions\RuleFailure;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** The catalogue's functions against standards, published tables and other programs. */
final class FunctionsTest extends TestCase
{
    private function fails(\Closure $call): ?string
    {
        try {
            $call();
        } catch (RuleFailure $e) {
            return $e->reason;
        }

        return null;
    }

    /** @param  list<mixed>  $input */
    private function python(string $script, array $input): mixed
    {
        exec(
            '/usr/bin/python3 -c '.escapeshellarg("import sys, json\ninput = json.loads(sys.argv[1])\n$script").' '
                .escapeshellarg((string) json_encode($input)).' 2>&1',
            $out,
            $code,
        );
        self::assertSame(0, $code, implode("\n", $out));

        return json_decode((string) end($out), true);
    }

    /** Debian's python3-jellyfish is the reference. */
    public function test_the_page_of_functions_is_the_catalogue(): void
    {
        $page = (string) file_get_contents(__DIR__.'/../../docs/functions.md');
        self::assertSame(CatalogueDocument::markdown(), $page, 'Write it anew: php artisan baggage:functions > docs/functions.md');
        self::assertCount(count(Catalogue::entries()), CatalogueDocument::data());
    }

    public function test_likeness_agrees_with_another_library(): void
    {
        $pairs = [
            ['MARTHA', 'MARHTA'],
            ['DWAYNE', 'DUANE'],
            ['DIXON', 'DICKSONX'],
            ['Skerry Boatyard', 'Skerry Boat Yard'],
            ['Holm', 'Holmsay'],
            ['abc', 'xyz'],
            ['', 'a'],
            ['kitten', 'sitting'],
            ['Tarn and Holm Marine', 'Holm and Tarn Marine'],
            ['same', 'same'],
        ];
        $reference = $this->python(
            'import jellyfish
jw = getattr(jellyfish, "jaro_winkler_similarity", None) or jellyfish.jaro_winkler
print(json.dumps([[jellyfish.levenshtein_distance(a.lower(), b.lower()), round(jw(a.lower(), b.lower()), 3)] for a, b in input]))',
            $pairs,
        );
        foreach ($pairs as $i => [$a, $b]) {
            self::assertSame($reference[$i][0], Likeness::distance($a, $b), "$a $b");
            self::assertEqualsWithDelta($reference[$i][1], (float) Likeness::likeness($a, $b), 0.0011, "$a $b");
        }
    }

    /** US National Archives, "Soundex System": the examples of its page. */
    public function test_soundex(): void
    {
        foreach (
            [
                'Washington' => 'W252',
                'Lee' => 'L000',
                'Gutierrez' => 'G362',
                'Pfister' => 'P236',
                'Jackson' => 'J250',
                'Tymczak' => 'T522',
                'VanDeusen' => 'V532',
                'Ashcraft' => 'A261',
            ] as $name => $code
        ) {
            self::assertSame($code, Likeness::soundex($name));
        }
    }

    /** Debian's python3-stdnum is the reference for check digits: right numbers, and the same with a digit changed. */
    public function test_check_digits_agree_with_another_library(): void
    {
        $numbers = [
            'GB82 WEST 1234 5698 7654 32',
            'DE89370400440532013000',
            'NO9386011117947',
            'FR1420041010050500013M02606',
            'GB82 WEST 1234 5698 7654 33',
            'NO9386011117946',
        ];
        $isbns = [
            '0-306-40615-2',
            '978-0-306-40615-7',
            '99921-58-10-7',
            '0-8044-2957-X',
            '0-306-40615-3',
            '9780306406158',
        ];
        $eans = ['73513537', '4006381333931', '629104150021 3', '4006381333932', '036000291452'];
        $luhns = ['4992 7398 716', '79927398713', '79927398710', '4539578763621486'];
        $valid = fn (
            string $module,
        ) => "from stdnum import $module\nprint(json.dumps([$module.is_valid(n.replace(' ', '')) for n in input]))";
        foreach (
            [
                ['iban', $numbers, Identifiers::iban(...)],
                ['isbn', $isbns, Identifiers::isbn(...)],
                ['ean', $eans, Identifiers::gtin(...)],
                ['luhn', $luhns, Identifiers::luhn(...)],
            ] as [$module, $input, $ours]
        ) {
            foreach ($this->python($valid($module), $input) as $i => $right) {
                self::assertSame(
                    $right ? null : 'bad_check_digit',
                    $this->fails(fn () => $ours($input[$i])),
                    "$module {$input[$i]}",
                );
            }
        }
        self::assertSame(
            $this->python("from stdnum import isbn\nprint(json.dumps([isbn.to_isbn13(n) for n in input]))", [
                '0306406152',
                '080442957X',
            ]),
            [Identifiers::isbn('0306406152'), Identifiers::isbn('080442957X')],
        );
    }

    /** Debian's iso-codes: every country by its two letters, three letters and number; every current currency. */
    public function test_countries_and_currencies_agree_with_iso_codes(): void
    {
        $countries = json_decode((string) file_get_contents('/usr/share/iso-codes/json/iso_3166-1.json'), true)[
            '3166-1'
        ];
        self::assertGreaterThan(240, count($countries));
        foreach ($countries as $c) {
            self::assertSame(
                [$c['alpha_2'], $c['alpha_2'], $c['alpha_2']],
                [
                    Identifiers::country($c['alpha_2']),
                    Identifiers::country(strtolower($c['alpha_3'])),
                    Identifiers::country($c['numeric']),
                ],
            );
        }
        $named = 0;
        foreach ($countries as $c) {
            $named
                += $this->fails(fn () => Identifiers::country($c['name'])) === null
                && Identifiers::country($c['name']) === $c['alpha_2']
                    ? 1
                    : 0;
        }
        self::assertGreaterThan(190, $named);
        $this->otherNamesAndCurrencies();
    }

    private function otherNamesAndCurrencies(): void
    {
        foreach (
            json_decode((string) file_get_contents('/usr/share/iso-codes/json/iso_4217.json'), true)['4217'] as $c
        ) {
            if (
                ! in_array($c['alpha_3'][0], ['X'], true)
                && ! in_array(
                    $c['alpha_3'],
                    ['VED', 'SLE', 'ZWG', 'CHE', 'CHW', 'BOV', 'CLF', 'COU', 'MXV', 'USN', 'UYI', 'UYW'],
                    true,
                )
            ) {
                self::assertSame($c['alpha_3'], Identifiers::currency(strtolower($c['alpha_3'])));
            }
        }
        self::assertSame(
            ['GB', 'NL', 'not_a_country'],
            [
                Identifiers::country('Scotland'),
                Identifiers::country('holland'),
                $this->fails(fn () => Identifiers::country('Atlantis')),
            ],
        );
    }

    /** @return iterable<array{string, array{?string, ?string, ?string, ?string}}> */
    public static function names(): iterable
    {
        // common practice, no source
        yield ['Dr. Jan van den Berg, Jr.', ['Dr', 'Jan', 'van den Berg', 'Jr']];
        yield ['VAN DEN BERG, JAN', [null, 'Jan', 'van den Berg', null]];
        yield ['Mrs Anne Marie O\'Shea', ['Mrs', 'Anne Marie', 'O\'Shea', null]];
        yield ['MCKAY, Mr. ANNE', ['Mr', 'ANNE', 'MCKAY', null]];
        yield ['Prof. Dr. Greta Holm PhD', ['Prof Dr', 'Greta', 'Holm', 'PhD']];
        yield ['Cher', [null, null, 'Cher', null]];
        yield ['Mr Sund', ['Mr', null, 'Sund', null]];
        yield ['Ludwig III', [null, null, 'Ludwig', 'III']];
        yield ['', [null, null, null, null]];
    }

    /** @param  array{?string, ?string, ?string, ?string}  $parts */
    #[DataProvider('names')]
    public function test_full_names(string $name, array $parts): void
    {
        self::assertSame(
            $parts,
            array_map(fn ($p) => Names::namePart($name, $p), ['title', 'given', 'surname', 'suffix']),
        );
    }

    public function test_organisations(): void
    {
        // common practice, no source
        foreach (
            [
                'Skerry Boatyard Co. Ltd.' => ['Skerry Boatyard', 'Co Ltd'],
                'Holm GmbH & Co. KG' => ['Holm', 'GmbH & Co KG'],
                'Tarn & Holm Marine' => ['Tarn & Holm Marine', null],
                'Nordlys Rederi A/S' => ['Nordlys Rederi', 'A/S'],
                'The Company Ltd' => ['The', 'Company Ltd'],
                'Voile S.A.R.L.' => ['Voile', 'SARL'],
                'Barca S.p.A.' => ['Barca', 'SpA'],
            ] as $name => $parts
        ) {
            self::assertSame($parts, [Names::orgName($name), Names::legalForm($name)], $name);
        }
        self::assertSame(Names::orgKey('TARN & HOLM MARINE, LTD.'), Names::orgKey('Tarn and Holm Marine Limited'));
    }

    public function test_addresses(): void
    {
        $parts = fn (string $text, string $country) => array_map(fn ($p) => Addresses::address($text, $p, $country), [
            'number',
            'street',
            'postcode',
            'town',
            'rest',
        ]);
        self::assertSame(
            ['12a', 'Pier Street', 'OS1 2AB', 'Inverlee', null],
            $parts('12a Pier Street, Inverlee, os1 2ab', 'GB'),
        );
        self::assertSame(['7 B', 'Havnegata', '0150', 'Oslo', null], $parts("Havnegata 7 B\n0150 Oslo", 'NO'));
        self::assertSame(
            ['5', 'Am Hafen', '20457', 'Hamburg', 'Hinterhaus'],
            $parts('Am Hafen 5, Hinterhaus, D-20457 Hamburg', 'DE'),
        );
        self::assertSame([null, 'Harbour House', null, 'Orrin', null], $parts('Harbour House, Orrin', 'GB'));
        self::assertSame('not_a_postcode', $this->fails(fn () => Addresses::postcode('1234 567', 'GB')));
    }

    public function test_amounts_with_either_sign(): void
    {
        foreach (
            [
                '1.234,50-' => '-1234.50',
                '1,234.50' => '1234.50',
                '1234,5' => '1234.5',
                '0,125' => '0.125',
                '1.234.567' => '1234567',
                '(12,50)' => '-12.50',
                '£ 3.20' => '3.20',
                '12' => '12',
            ] as $text => $amount
        ) {
            self::assertSame($amount, Numbers::amount((string) $text), (string) $text);
        }
        self::assertSame(
            ['ambiguous_amount', 'not_a_number'],
            [$this->fails(fn () => Numbers::amount('1,234')), $this->fails(fn () => Numbers::amount('1.2,3.4'))],
        );
    }

    public function test_dates(): void
    {
        foreach (
            [
                ['04/07/28', 1925, '1928-07-04'],
                ['04/07/24', 1925, '2024-07-04'],
                ['04/07/25', 1925, '1925-07-04'],
                ['01/01/00', 1950, '2000-01-01'],
                ['01/01/99', 2000, '2099-01-01'],
            ] as [$text, $from, $date]
        ) {
            self::assertSame($date, Dates::dateFrom($text, $from, 'd/m/y'));
        }
        // Microsoft's documentation: 60 is the 29 February 1900 that never was, 61 the 1 March.
        self::assertSame(
            ['not_a_date', '1900-03-01', '1904-01-02'],
            [$this->fails(fn () => Dates::serialDate('60')), Dates::serialDate('61'), Dates::serialDate('1', 1904)],
        );
        // Python's datetime is the reference for the calendar.
        $days = [['2000-02-28', 2], ['1900-02-28', 1], ['1999-12-31', 366], ['2004-03-01', -1], ['1582-10-15', 1000]];
        self::assertSame(
            $this->python(
                "from datetime import date, timedelta\nprint(json.dumps([str(date.fromisoformat(d) + "
                    .'timedelta(days=n)) for d, n in input]))',
                $days,
            ),
            array_map(fn ($d) => Dates::addDays($d[0], $d[1]), $days),
        );
        self::assertSame(
            ['2003-02-28', '2004-02-29', '2002-11-30'],
            [Dates::addMonths('2003-01-31', 1), Dates::addMonths('2004-01-31', 1), Dates::addMonths('2003-01-30', -2)],
        );
        self::assertSame('not_a_date', $this->fails(fn () => Dates::monthEnd('31/01/2003')));
    }

    /** NIST Special Publication 811, appendix B.8; the nautical mile and the knot of the International Hydrographic Conference, 1929. */
    public function test_units(): void
    {
        foreach (
            [
                ['1', 'ft', 'm', '0.3048'],
                ['1', 'mi', 'km', '1.609344'],
                ['1', 'nmi', 'm', '1852'],
                ['1', 'lb', 'kg', '0.45359237'],
                ['1', 'gal', 'l', '4.54609'],
                ['1', 'us gal', 'l', '3.785411784'],
                ['1', 'acre', 'm2', '4046.8564224'],
                ['36', 'km/h', 'm/s', '10'],
                ['1', 'kn', 'km/h', '1.852'],
                ['1', 'hp', 'kw', '0.745699871582'],
                ['2', 'long ton', 'kg', '2032.0938176'],
            ] as [$n, $from, $to, $gives]
        ) {
            self::assertEqualsWithDelta((float) $gives, (float) Units::convert($n, $from, $to), 1e-9, "$from $to");
        }
        self::assertSame(
            ['100', '-40', 'unknown_unit'],
            [Units::celsius('212'), Units::celsius(-40), $this->fails(fn () => Units::convert('1', 'ft', 'kg'))],
        );
    }

    public function test_patterns_cannot_run_code_or_without_end(): void
    {
        self::assertSame(
            ['bad_pattern', 'bad_pattern', 'bad_pattern'],
            [
                $this->fails(fn () => Text::found('x', '/x/e')),
                $this->fails(fn () => Text::found('x', 'x')),
                $this->fails(fn () => Text::found(str_repeat('a', 40).'!', '/^(a+)+$/')),
            ],
        );
    }

    /** libphonenumber's own example numbers of every region, as dialled there and from abroad, against its own E.164 form (ITU-T E.164). */
    public function test_telephone_numbers_of_every_region(): void
    {
        $library = \libphonenumber\PhoneNumberUtil::getInstance();
        $tried = 0;
        foreach ($library->getSupportedRegions() as $region) {
            $number = $library->getExampleNumber($region);
            if ($number === null) {
                continue;
            }
            $expected = $library->format($number, \libphonenumber\PhoneNumberFormat::E164);
            self::assertSame(
                $expected,
                Identifiers::phone($library->format($number, \libphonenumber\PhoneNumberFormat::NATIONAL), $region),
                $region,
            );
            self::assertSame(
                $expected,
                Identifiers::phone($library->format($number, \libphonenumber\PhoneNumberFormat::INTERNATIONAL), 'GB'),
                $region,
            );
            $tried++;
        }
        self::assertGreaterThan(230, $tried);
    }

    /** ICU User Guide, "General Transforms": the Greek example, there with its accents; value from memory. */
    public function test_transliteration(): void
    {
        self::assertSame('Alphabetikos Katalogos', Text::plain('Αλφαβητικός Κατάλογος'));
        self::assertSame(
            ['Strasse', 'Lodz', 'AErlig', 'thorn'],
            array_map(Text::plain(...), ['Straße', 'Łódź', 'Ærlig', 'þorn']),
        );
    }

    /** Rules over hostile cells: none may take the worker's memory or time with it. */
    public function test_no_rule_eats_the_memory(): void
    {
        self::assertSame('ababababaab7', Text::pad('ab7', 12, 'ab'));
        $long = str_repeat('a', 900_000);
        $before = memory_get_usage();
        memory_reset_peak_usage();
        foreach (
            [
                fn () => Text::replace($long, 'a', $long),
                fn () => Text::replacePattern($long, '/a/', $long),
                fn () => Text::replacePattern($long, '/(a+)/', str_repeat('$1', 400)),
                fn () => Operators::join($long, $long),
                fn () => Text::join(',', $long, $long),
            ] as $i => $rule
        ) {
            self::assertSame('text_too_long', $this->fails($rule), (string) $i);
        }
        self::assertSame(10_000, mb_strlen((string) Text::pad('1', 10_000, $long)));
        foreach (['1E999999999', '-1e+100000', str_repeat('9', 2_000)] as $number) {
            self::assertSame('not_a_number', $this->fails(fn () => Operators::decimal($number)));
        }
        self::assertSame('1500', (string) Operators::decimal('1.5E3'));
        self::assertLessThan(40e6, memory_get_peak_usage() - $before);
        self::assertSame('<07><07>$', Text::replacePattern('A07', '/[A-Z](\d+)/', '<$1><${1}>$'));
        // Catastrophic backtracking ends at PCRE's own limit.
        self::assertSame(
            'bad_pattern',
            $this->fails(fn () => Text::replacePattern(str_repeat('a', 5_000).'!', '/^(a|aa|a?)+$/', '')),
        );
    }

    public function test_slips_in_addresses_for_e_mail_are_mended(): void
    {
        foreach (
            [
                'mailto:Skarv@orrin.example' => 'skarv@orrin.example',
                ' skarv @ orrin . example;' => 'skarv@orrin.example',
                'skarv@@orrin.example' => 'skarv@orrin.example',
                'skarv@orrin,example' => 'skarv@orrin.example',
                'skarv@orrincom' => 'skarv@orrin.com',
                '<skarv@orrin..example>' => 'skarv@orrin.example',
            ] as $slip => $mended
        ) {
            self::assertSame($mended, Identifiers::emailMended($slip));
        }
        self::assertSame('not_an_email', $this->fails(fn () => Identifiers::emailMended('skarv at orrin')));
    }
}
