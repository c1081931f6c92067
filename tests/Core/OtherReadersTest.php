<?php

namespace Tests\Core;

use App\Reading\TableOpener;
use Baggage\Core\Feeds\Formats;
use Baggage\Core\Reading\Blank;
use Baggage\Core\Reading\Decoder;
use Baggage\Core\Reading\DelimitedFormat;
use Baggage\Core\Reading\DelimitedReader;
use Baggage\Core\Reading\Encoding;
use Baggage\Core\Reading\Layout;
use Baggage\Core\Reading\Nested\JsonScanner;
use Baggage\Core\Reading\Query\QueryFormat;
use Baggage\Core\Reading\ReadingError;
use Baggage\Core\Reading\Recognition;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** Fixed width, JSON, XML, dBase, layouts and encodings. */
final class OtherReadersTest extends TestCase
{
    /**
     * @param  array<string, mixed>  $settings
     * @return array{list<string>, list<list<string|null>>}
     */
    private function table(string $bytes, array $settings): array
    {
        $path = tempnam(sys_get_temp_dir(), 'reader');
        file_put_contents($path, $bytes);
        $table = (new TableOpener)->open(Formats::settings($settings), $path);
        $headers = array_map(fn ($c) => $c->header, $table->columns()->all);
        $rows = array_map(fn ($r) => $r->cells, iterator_to_array($table->rows(), false));
        self::assertSame(count($rows), $table->sourceRows(), 'the independent count');
        unlink($path);

        return [$headers, $rows];
    }

    /** @param  array<string, mixed>  $settings */
    private function refusal(string $bytes, array $settings): string
    {
        try {
            $this->table($bytes, $settings);
        } catch (ReadingError $e) {
            return $e->getMessage();
        }

        return 'read';
    }

    public function test_fixed_width_counts_characters_and_drops_nothing(): void
    {
        $layout = ['kind' => 'fixed_width', 'layout' => "NO 1-4\nNAME 5-12, ON 13-18", 'header' => false];
        self::assertSame(
            [
                ['NO', 'NAME', 'ON'],
                [['0001', 'Bjørn', '010203'], ['0002', 'Zoë', ''], ['0003', 'Ann', '040506', 'more']],
            ],
            $this->table("0001Bjørn   010203\n0002Zoë\n\n0003Ann     040506more\n", $layout),
        );
        self::assertSame(
            [['NO', 'NAME'], [['0001', 'Ann'], ['0002', 'Zoe']]],
            $this->table("NO  NAME\n0001Ann\n0002Zoe\n", ['kind' => 'fixed_width', 'layout' => 'NO 1-4, NAME 5-8']),
        );
        self::assertSame(
            ['A 1-3', 'B 4-5'],
            explode(
                "\n",
                Formats::settings(['kind' => 'fixed_width', 'layout' => "A 3\nB 2"])->format->toArray()['layout'],
            ),
        );
        foreach (['A' => 'is no column', "A 1-4\nB 3-6" => 'begins before', '' => 'needs a layout'] as $bad => $says) {
            try {
                Formats::settings(['kind' => 'fixed_width', 'layout' => $bad]);
                self::fail($bad);
            } catch (\InvalidArgumentException $e) {
                self::assertStringContainsString($says, $e->getMessage());
            }
        }
    }

    /** Unicode's White_Space characters (PropList.txt of the Unicode Character Database, 25 of them); value from memory. */
    public function test_a_cell_of_any_white_space_is_blank(): void
    {
        $spaces = [
            0x09, 0x0A, 0x0B, 0x0C, 0x0D, 0x20, 0x85, 0xA0, 0x1680, 0x2000, 0x2001, 0x2002, 0x2003, 0x2004, 0x2005, 0x2006, 0x2007, 0x2008,
            0x2009, 0x200A, 0x2028, 0x2029, 0x202F, 0x205F, 0x3000,
        ];
        foreach ($spaces as $code) {
            self::assertTrue(Blank::is(mb_chr($code)), dechex($code));
            self::assertTrue(Blank::is(' '.mb_chr($code).' '), dechex($code));
            self::assertFalse(Blank::is(mb_chr($code).'x'), dechex($code));
        }
        self::assertTrue(Blank::is(null) && Blank::is('') && Blank::is(implode('', array_map(mb_chr(...), $spaces))));
        foreach (['0', '-', '.', "\xA0", "\u{2060}", 'ø'] as $text) {
            self::assertFalse(Blank::is($text), bin2hex($text));
        }
    }

    public function test_json_keeps_every_digit_and_flattens(): void
    {
        $json = '{"meta":{"n":2},"data":{"jobs":[{"no":1,"sum":12.50,"big":12345678901234567890,"e":1.0E+2,"neg":-0.10,'
                .'"who":{"name":"Bj\u00f8rn \"B\" 1.50","tel":null},"ok":true,"tags":["a",2.50]},'."\n"
            .'{"no":"02","extra":"x","tags":[]}]}}';
        [$headers, $rows] = $this->table($json, ['kind' => 'json', 'records' => 'data.jobs']);
        self::assertSame(['no', 'sum', 'big', 'e', 'neg', 'who.name', 'who.tel', 'ok', 'tags', 'extra'], $headers);
        self::assertSame(
            [
                [
                    '1',
                    '12.50',
                    '12345678901234567890',
                    '100',
                    '-0.10',
                    'Bjørn "B" 1.50',
                    null,
                    'true',
                    '["a","2.50"]',
                    null,
                ],
                ['02', null, null, null, null, null, null, null, null, 'x'],
            ],
            $rows,
        );
        self::assertSame(
            [['parent.no', 'position', 'value'], [['1', '1', 'a'], ['1', '2', '2.50']]],
            $this->table($json, ['kind' => 'json', 'records' => 'data.jobs', 'list' => 'tags', 'carry' => ['no']]),
        );
        self::assertSame(
            [['a', 'b'], [['1', null], ['x', '2']]],
            $this->table("{\"a\":1}\n\n{\"a\":\"x\",\"b\":2}", ['kind' => 'json', 'lines' => true]),
        );
    }

    /** RFC 8259: what is JSON text and what is not, at any border between chunks. */
    public function test_json_texts_at_any_chunk_border(): void
    {
        $text
            = '{ "x" : [1, {"a" : "b]}\\\\" } ] , "list": [ {"k":"\\"[{"}, {} , {"k": [ [ ] , {"z":"\\u005D"} ] } ] , "t": true }';
        for ($size = 1; $size < 12; $size++) {
            self::assertSame(
                ['{"k":"\\"[{"}', '{}', '{"k": [ [ ] , {"z":"\\u005D"} ] }'],
                iterator_to_array(JsonScanner::of(str_split($text, $size))->records(['list']), false),
            );
            self::assertSame(['list'], JsonScanner::of(str_split($text, $size))->lists());
        }
        foreach (
            [
                '{"list":[{"a":1},]}' => 'a value was expected',
                '{"list":[{"a":1}' => 'cut off',
                '{"list":[{"a":1}]} x' => 'after the end',
                '{"list":[{"a" 1}]}' => 'is not JSON',
                '{"other":[]}' => 'has no "list"',
                '{"list":[{"a":1} {"b":2}]}' => 'a comma',
                "{\"list\":[{\"a\":\"\xC3\x28\"}]}" => 'not UTF-8',
                '{"list":[{"a":01}]}' => 'is not JSON',
                "{'list':[]}" => 'a key in quotes',
                '{"list":[{"a":NaN}]}' => 'is not JSON',
            ] as $bad => $says
        ) {
            self::assertStringContainsString(
                $says,
                $this->refusal($bad, ['kind' => 'json', 'records' => 'list']),
                $bad,
            );
        }
    }

    /**
     * The cases of json.org's JSON_checker (as Python's own test suite carries them), each in a record; 1 and 18 are
     * valid JSON by RFC 8259.
     */
    public function test_json_checker_cases(): void
    {
        $bad = [
            2 => '["Unclosed array"',
            '{unquoted_key: "keys must be quoted"}',
            '["extra comma",]',
            '["double extra comma",,]',
            '[   , "<-- missing value"]',
            '["Comma after the close"],',
            '["Extra close"]]',
            '{"Extra comma": true,}',
            '{"Extra value after close": true} "misplaced quoted value"',
            '{"Illegal expression": 1 + 2}',
            '{"Illegal invocation": alert()}',
            '{"Numbers cannot have leading zeroes": 013}',
            '{"Numbers cannot be hex": 0x14}',
            '["Illegal backslash escape: \\x15"]',
            '[\\naked]',
            '["Illegal backslash escape: \\017"]',
            19 => '{"Missing colon" null}',
            '{"Double colon":: null}',
            '{"Comma instead of colon", null}',
            '["Colon instead of comma": false]',
            '["Bad value", truth]',
            "['single quote']",
            "[\"\ttab\tcharacter\tin\tstring\t\"]",
            '["tab\\   character\\   in\\  string\\  "]',
            "[\"line\nbreak\"]",
            "[\"line\\\nbreak\"]",
            '[0e]',
            '[0e+]',
            '[0e+-1]',
            '{"Comma instead if closing brace": true,',
            '["mismatch"}',
            "[\"A\x1FZ control characters in string\"]",
        ];
        foreach ($bad as $n => $document) {
            self::assertNotSame('', $this->refusal('[{"v": '.$document.'}]', ['kind' => 'json']), "fail$n.json");
        }
        $good = [
            '"A JSON payload should be an object or array, not a string."' => 'A JSON payload should be an object or array, not a string.',
            '[[[[[[[[[[[[[[[[[[[["Too deep"]]]]]]]]]]]]]]]]]]]]' => '[[[[[[[[[[[[[[[[[[[["Too deep"]]]]]]]]]]]]]]]]]]]]',
            // From pass1.json; powers of ten are written out, but for those of three digits.
            '0.123456789e-12' => '0.000000000000123456789',
            '1.234567890E+34' => '12345678900000000000000000000000000',
            '23456789012E66' => '23456789012'.str_repeat('0', 66),
            '1E400' => '1E400',
            '"/ & \\/"' => '/ & /',
            '"\\u0123\\u4567\\u89AB\\uCDEF\\uabcd\\uef4A"' => "\u{0123}\u{4567}\u{89AB}\u{CDEF}\u{abcd}\u{ef4A}",
            '"`1~!@#$%^&*()_+-={\':[,]}|;.</>?"' => "`1~!@#$%^&*()_+-={':[,]}|;.</>?",
            '"&#34; \\u0022 %22 0x22 034 &#x22;"' => '&#34; " %22 0x22 034 &#x22;',
        ];
        foreach ($good as $document => $cell) {
            self::assertSame(
                [['v'], [[$cell]]],
                $this->table('[{"v": '.$document.'}]', ['kind' => 'json']),
                $document,
            );
        }
    }

    public function test_xml_records_with_attributes_and_lists(): void
    {
        $xml = '<?xml version="1.0" encoding="ISO-8859-1"?><export><!-- c --><jobs><job no="1"><who>Bj'."\xF8"
            .'rn &amp; co</who><part q="2">anode</part><part>belt</part></job><job '
                .'no="2"><who><![CDATA[<x>]]></who><part>shackle</part><empty/></job></jobs></export>';
        [$headers, $rows] = $this->table($xml, ['kind' => 'xml', 'records' => 'export/jobs/job']);
        self::assertSame(['@no', 'who', 'part', 'empty'], $headers);
        self::assertSame(
            [['1', 'Bjørn & co', '[{"@q":"2","#text":"anode"},"belt"]', null], ['2', '<x>', '["shackle"]', null]],
            $rows,
        );
        self::assertSame(
            [
                ['parent.@no', 'position', '@q', '#text', 'value'],
                [['1', '1', '2', 'anode', null], ['1', '2', null, null, 'belt'], ['2', '1', null, null, 'shackle']],
            ],
            $this->table($xml, ['kind' => 'xml', 'records' => 'export/jobs/job', 'list' => 'part', 'carry' => '@no']),
        );
        $job = ['kind' => 'xml', 'records' => 'r/j'];
        self::assertStringContainsString(
            'declares entities',
            $this->refusal('<!DOCTYPE r [<!ENTITY e SYSTEM "file:///etc/passwd">]><r><j>&e;</j></r>', $job),
        );
        self::assertStringContainsString('well-formed', $this->refusal('<r><j>1</j><j>', $job));
        self::assertStringContainsString('no element "r/j"', $this->refusal('<r><k>1</k></r>', $job));
        self::assertStringContainsString(
            'nested more than 64',
            $this->refusal('<r><j>'.str_repeat('<a>', 80).str_repeat('</a>', 80).'</j></r>', $job),
        );
    }

    /** @param  list<array{string, string, int}>  $fields name, type, length */
    private static function dbf(array $fields, array $records, int $language = 0x02, ?int $stated = null): string
    {
        $length = 1 + array_sum(array_column($fields, 2));
        $head = pack(
            'C4VvvC16CC2',
            0x03,
            104,
            11,
            24,
            $stated ?? count($records),
            32 + 32 * count($fields) + 1,
            $length,
            ...array_fill(0, 16, 0),
            ...[0, $language, 0],
        );
        $head = substr($head, 0, 29).chr($language)."\0\0";
        foreach ($fields as [$name, $type, $size]) {
            $head .= str_pad($name, 11, "\0").$type."\0\0\0\0".chr($size)."\0".str_repeat("\0", 14);
        }

        return $head."\x0D".implode('', $records)."\x1A";
    }

    public function test_dbase_agrees_with_another_reader(): void
    {
        $fields = [['NAME', 'C', 10], ['SUM', 'N', 8], ['ON', 'D', 8], ['OK', 'L', 1]];
        $records = [
            " Bj\x9Brn        12.5019980501T",
            '*'.sprintf('%-10s%8s%8s%s', 'gone', '1', '', 'F'),
            ' '.sprintf('%-10s%8s%8s%s', 'Ann', '0', '', '?'),
        ];
        $bytes = self::dbf($fields, $records);
        [$headers, $rows] = $this->table($bytes, ['kind' => 'dbase']);
        self::assertSame(['NAME', 'SUM', 'ON', 'OK'], $headers);
        self::assertSame([['Bjørn', '12.50', '1998-05-01', 'T'], ['Ann', '0', null, null]], $rows);
        // Debian's python3-dbfread is the reference.
        $path = sys_get_temp_dir().'/baggage.dbf';
        file_put_contents($path, $bytes);
        exec(
            '/usr/bin/python3 -c '
                .escapeshellarg(
                    'import dbfread,json,sys; print(json.dumps([[str(v) if v is not None else None for v in '
                        .'r.values()] for r in dbfread.DBF(sys.argv[1])]))',
                )
                .' '.escapeshellarg($path),
            $out,
            $code,
        );
        self::assertSame(0, $code);
        self::assertSame(
            [['Bjørn', '12.5', '1998-05-01', 'True'], ['Ann', '0', null, null]],
            json_decode(implode('', $out), true),
        );
        self::assertStringContainsString(
            'record 4 of 9 is incomplete',
            $this->refusal(substr(self::dbf($fields, $records, 2, 9), 0, -1).' cut', ['kind' => 'dbase']),
        );
        self::assertStringContainsString(
            'contradicts itself',
            $this->refusal(substr_replace($bytes, pack('v', 99), 10, 2), ['kind' => 'dbase']),
        );
    }

    public function test_a_layout_cuts_the_table_out_and_counts_what_it_leaves(): void
    {
        $text = "Berths 2004;;;\n;;;\n# note\nX;NO;NAME;Z\nx;1;a;z\nx;2;b;z\n# more\nx;3;c;z\nx;4;d;z\nTotal;10;;\n";
        $read = function (array $layout) use ($text) {
            $table = (new DelimitedReader(new DelimitedFormat(';'), Layout::fromArray($layout)))->table([$text]);
            $rows = array_map(fn ($r) => $r->cells, iterator_to_array($table->rows(), false));

            return [
                array_map(fn ($c) => $c->header, $table->columns()->all),
                $rows,
                $table->sourceRows(),
                array_map(fn ($r) => $r->code, $table->remarks()),
            ];
        };
        self::assertSame(
            [['NO', 'NAME'], [['1', 'a'], ['2', 'b'], ['3', 'c'], ['4', 'd']], 4, ['foot', 'comments']],
            $read(['skip' => 2, 'comment' => '#', 'columns' => 'B-C', 'foot' => 1]),
        );
        self::assertSame(
            [['NO'], [['2'], ['3']], 2, ['left_out', 'comments']],
            $read(['skip' => 2, 'comment' => '#', 'columns' => '2-2', 'foot' => 1, 'first_row' => 2, 'rows' => 2]),
        );
        self::assertSame(
            ['B-C', 'AB-'],
            [
                Layout::fromArray(['columns' => '2:3'])->toArray()['columns'],
                Layout::fromArray(['columns' => 'AB-'])->toArray()['columns'],
            ],
        );
        $quoted = new DelimitedReader(new DelimitedFormat(backslash: true));
        self::assertSame(
            [['a "b" \\', 'c,d']],
            array_map(fn ($r) => $r->cells, iterator_to_array($quoted->rows(['"a \\"b\\" \\\\","c,d"'."\n"]), false)),
        );
    }

    /** @return iterable<string, array{Encoding}> */
    public static function singleByte(): iterable
    {
        foreach (Encoding::cases() as $encoding) {
            if (! in_array($encoding, [Encoding::Utf8, Encoding::Mixed, Encoding::Utf16LE, Encoding::Utf16BE], true)) {
                yield $encoding->value => [$encoding];
            }
        }
    }

    /** The tables of glibc's iconv program are the reference. */
    #[DataProvider('singleByte')]
    public function test_code_pages_agree_with_iconv(Encoding $encoding): void
    {
        $known = 0;
        foreach (range(0x20, 0xFF) as $byte) {
            $reference = @iconv($encoding->value, 'UTF-8', chr($byte));
            try {
                $ours = implode('', iterator_to_array((new Decoder($encoding))->decode([chr($byte)]), false));
            } catch (ReadingError) {
                $ours = false;
            }
            if ($reference !== false) {
                self::assertSame($reference, $ours, sprintf('%02X', $byte));
                $known++;
            }
        }
        self::assertGreaterThan(180, $known);
    }

    public function test_lines_in_another_encoding_are_read_and_named(): void
    {
        $decoder = new Decoder(Encoding::Mixed);
        $bytes = "Bjørn\nBj\xF8rn\nplain\nZo\xEB";
        for ($size = 1; $size < 9; $size++) {
            $decoder = new Decoder(Encoding::Mixed);
            self::assertSame(
                "Bjørn\nBjørn\nplain\nZoë",
                implode('', iterator_to_array($decoder->decode(str_split($bytes, $size)), false)),
            );
            self::assertSame([2, 4], $decoder->switched->rows);
        }
        self::assertSame(
            'UTF-8 or Windows-1252',
            Recognition::of(
                "a,b\n".str_repeat("Bjørn,1\n", 9)."Bj\xF8rn,2\n",
                true,
            )[0]->settings->format->toArray()['encoding'],
        );
    }

    public function test_files_are_recognised(): void
    {
        $of = fn (string $bytes) => array_map(
            fn (Recognition $r) => trim($r->part.' '.$r->settings->describe()),
            Recognition::of($bytes, true),
        );
        self::assertSame(['UTF-8, semicolon'], $of("Ref;Name\n1;a\n2;b\n"));
        self::assertSame(
            ['JSON lines JSON lines', 'JSON lines, list p JSON lines, list p'],
            $of("{\"a\":1,\"p\":[{\"q\":1}]}\n{\"a\":2}\n"),
        );
        self::assertSame(['data.rows JSON, data.rows'], $of('{"n":1,"data":{"rows":[{"a":1},{"a":2}]}}'));
        self::assertSame(['r/j XML, r/j'], $of('<r><j a="1"/><j a="2"/></r>'));
        self::assertSame(['UTF-8, fixed width'], $of("0001  Bjorn   1998\n0002  Ann     1999\n0003  Zoe     2001\n"));
        self::assertSame(['dBase'], $of(self::dbf([['NAME', 'C', 3]], [' abc'])));
        $this->expectExceptionMessage('This is a web page');
        Recognition::of('<!DOCTYPE html><html><body>Log in</body></html>', true);
    }

    public function test_settings_come_back_as_they_were(): void
    {
        foreach (
            [
                ['delimiter' => ';', 'encoding' => 'CP850', 'skip' => 2, 'pad_short' => true],
                ['kind' => 'json', 'lines' => true, 'list' => 'p', 'carry' => ['no']],
                ['kind' => 'workbook', 'sheet' => 'S', 'cells' => 'seen', 'columns' => 'B-F', 'foot' => 1],
                [
                    'kind' => 'database',
                    'connection' => 'live',
                    'table' => 't',
                    'only' => ['a', 'b'],
                    'where' => [['column' => 'a', 'test' => 'at least', 'value' => ':since']],
                    'parameters' => ['since' => ['highest' => 'a', 'first' => '0']],
                ],
                ['kind' => 'xml', 'member' => 'in/x.xml', 'records' => 'r/j'],
                ['kind' => 'dbase', 'encoding' => 'CP437', 'deleted' => true],
                ['kind' => 'fixed_width', 'layout' => 'A 1-3', 'header' => false],
            ] as $settings
        ) {
            self::assertEquals($settings, Formats::settings($settings)->toArray());
        }
        foreach (
            [
                ['kind' => 'magic'],
                ['delimiter' => 'ab'],
                ['columns' => 'F-B'],
                ['kind' => 'database'],
                ['kind' => 'workbook', 'cells' => 'guessed'],
            ] as $bad
        ) {
            try {
                Formats::settings($bad);
                self::fail((string) json_encode($bad));
            } catch (\InvalidArgumentException $e) {
                self::assertNotSame('', $e->getMessage());
            }
        }
    }

    public function test_only_a_select_is_let_through(): void
    {
        foreach (
            ['SELECT a FROM t', "select 'delete; drop' from t;", "WITH x AS (SELECT 1) SELECT * FROM x -- drop\n"] as $good
        ) {
            self::assertSame(rtrim($good), trim((new QueryFormat('', '', [], [], $good))->sql));
        }
        foreach (
            [
                'DELETE FROM t',
                'SELECT 1; DROP TABLE t',
                'SELECT * FROM t INTO OUTFILE "/x"',
                'WITH x AS (DELETE FROM t RETURNING *) SELECT * FROM x',
                'PRAGMA writable_schema',
                'SELECT 1 WHERE a > :since',
            ] as $bad
        ) {
            try {
                new QueryFormat('', '', [], [], $bad);
                self::fail($bad);
            } catch (\InvalidArgumentException $e) {
                self::assertMatchesRegularExpression('/SELECT|parameter/', $e->getMessage());
            }
        }
    }
}
