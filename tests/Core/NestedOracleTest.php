<?php

namespace Tests\Core;

use App\Reading\TableOpener;
use Baggage\Core\Feeds\Formats;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** Random JSON, XML, fixed-width and dBase files, written by Python's own libraries or read by them as the reference. */
final class NestedOracleTest extends TestCase
{
    /** @return iterable<array{int}> */
    public static function seeds(): iterable
    {
        foreach (range(1, 6) as $seed) {
            yield "seed $seed" => [$seed];
        }
    }

    /**
     * @param  array<string, mixed>  $settings
     * @return array{headers: list<string>, rows: list<list<string|null>>}
     */
    private function read(string $path, array $settings): array
    {
        $table = (new TableOpener)->open(Formats::settings($settings), $path);
        $headers = array_map(fn ($c) => $c->header, $table->columns()->all);
        $rows = [];
        foreach ($table->rows() as $row) {
            $rows[] = $row->cells;
        }
        self::assertSame(count($rows), $table->sourceRows(), 'the independent count');

        return ['headers' => $headers, 'rows' => $rows];
    }

    /** @return mixed what the program prints as JSON */
    private function python(string $program, string ...$arguments): mixed
    {
        exec(
            '/usr/bin/python3 -c '.escapeshellarg($program).' '
                .implode(' ', array_map(escapeshellarg(...), $arguments)),
            $out,
            $code,
        );
        self::assertSame(0, $code, implode("\n", $out));

        return json_decode(implode("\n", $out), true, 512, JSON_THROW_ON_ERROR);
    }

    /** Python writes the document and, from its own objects, the flat rows it has to become. */
    #[DataProvider('seeds')]
    public function test_json_records_flattened(int $seed): void
    {
        $path = sys_get_temp_dir()."/baggage-oracle-$seed.json";
        $program = <<<'PYTHON'
        import json, random, sys
        seed, path = int(sys.argv[1]), sys.argv[2]
        random.seed(seed)
        texts = ['', 'a', 'Æ "q" \\ /', 'line\nbreak', '日本', '\t', '{"x":[1]}', ']', '😀', ' ']

        def scalar():
            return random.choice([None, True, False, random.choice(texts), random.randint(-10**6, 10**6)])

        def record(depth=0):
            out = {}
            for name in random.sample(['no', 'name', 'a b', 'ü', 'x.y', 'flag'], random.randint(1, 5)):
                deeper = depth == 0 and random.random() < 0.25 and '.' not in name
                few = random.sample(['p', 'q', 'r'], random.randint(1, 3)) if deeper else []
                out[name] = {k: scalar() for k in few} if deeper else scalar()
            return out

        records = [record() for _ in range(random.randint(1, 40))]

        # A name that is an object in one record and a value in another cannot be told apart by a flat table: keep one kind.
        kinds = {}
        for r in records:
            for name in list(r):
                kind = isinstance(r[name], dict)
                if kinds.setdefault(name, kind) != kind:
                    del r[name]
        records = [r for r in records if r] or [{'no': 1}]

        def text(v):
            return None if v is None else ('true' if v is True else 'false' if v is False else str(v))

        flat = []
        for r in records:
            row = {}
            for name, value in r.items():
                if isinstance(value, dict):
                    for k, v in value.items():
                        row[name + '.' + k] = text(v)
                else:
                    row[name] = text(value)
            flat.append(row)
        ascii = random.random() < 0.5
        indent = random.choice([None, 1, 4])
        with open(path, 'w', encoding='utf-8') as f:
            json.dump({'meta': {'n': [1, {'data': 'not here'}]}, 'data': {'rows': records}}, f, ensure_ascii=ascii, indent=indent)
        print(json.dumps(flat))
        PYTHON;
        $expected = $this->python($program, (string) $seed, $path);
        $read = $this->read($path, ['kind' => 'json', 'records' => 'data.rows']);
        self::assertCount(count($expected), $read['rows']);
        foreach ($expected as $i => $row) {
            $given = array_combine($read['headers'], $read['rows'][$i]);
            self::assertSame([], array_diff(array_keys($row), $read['headers']), "row $i: every column is there");
            foreach ($given as $header => $cell) {
                self::assertSame($row[$header] ?? null, $cell, "row $i, $header");
            }
        }
        // The same records as lines are the same rows.
        $lines = sys_get_temp_dir()."/baggage-oracle-$seed.jsonl";
        $this->python(
            'import json, sys; d = json.load(open(sys.argv[1])); open(sys.argv[2], '
                .'"w").write("".join(json.dumps(r) + "\n" for r in d["data"]["rows"])); print("1")',
            $path,
            $lines,
        );
        self::assertSame($read, $this->read($lines, ['kind' => 'json', 'lines' => true]));
    }

    /** Python's ElementTree reads the same file. */
    #[DataProvider('seeds')]
    public function test_xml_records(int $seed): void
    {
        $path = sys_get_temp_dir()."/baggage-oracle-$seed.xml";
        $program = <<<'PYTHON'
        import json, random, sys
        import xml.etree.ElementTree as E
        random.seed(int(sys.argv[1]))
        texts = ['a', 'Æ & <b>', '日本', '"quoted"', "it's", '12,50', 'two words', '😀']
        root = E.Element('export')
        jobs = E.SubElement(root, 'jobs')
        for n in range(random.randint(1, 30)):
            job = E.SubElement(jobs, 'job', {'no': str(n)} | ({'kind': random.choice(texts)} if random.random() < 0.5 else {}))
            for name in random.sample(['who', 'what', 'when'], random.randint(1, 3)):
                E.SubElement(job, name).text = random.choice(texts)
            if random.random() < 0.4:
                place = E.SubElement(job, 'place')
                E.SubElement(place, 'town').text = random.choice(texts)
        E.ElementTree(root).write(sys.argv[2], encoding=random.choice(['utf-8', 'utf-16']), xml_declaration=True)
        flat = []
        for job in E.parse(sys.argv[2]).getroot().find('jobs'):
            row = {'@' + k: v for k, v in job.attrib.items()}
            for child in job:
                if len(child):
                    row.update({child.tag + '.' + c.tag: c.text for c in child})
                else:
                    row[child.tag] = child.text
            flat.append(row)
        print(json.dumps(flat))
        PYTHON;
        $expected = $this->python($program, (string) $seed, $path);
        $read = $this->read($path, ['kind' => 'xml', 'records' => 'export/jobs/job']);
        self::assertCount(count($expected), $read['rows']);
        foreach ($expected as $i => $row) {
            foreach (array_combine($read['headers'], $read['rows'][$i]) as $header => $cell) {
                self::assertSame($row[$header] ?? null, $cell, "row $i, $header");
            }
        }
    }

    /** Columns of fixed width are slices of characters, whatever bytes they take. */
    #[DataProvider('seeds')]
    public function test_fixed_width(int $seed): void
    {
        mt_srand($seed);
        $widths = array_map(fn () => mt_rand(1, 12), range(1, mt_rand(1, 7)));
        $letters = ['a', 'Ø', '日', '7', '-', 'ß', '.', 'Q'];
        $layout = $expected = [];
        $at = 1;
        foreach ($widths as $i => $width) {
            $layout[] = "C$i $at-".($at + $width - 1);
            $at += $width;
        }
        $text = '';
        for ($row = 0, $n = mt_rand(1, 50); $row < $n; $row++) {
            $cells = [];
            foreach ($widths as $width) {
                $cell = '';
                for ($k = mt_rand(0, $width); $k > 0; $k--) {
                    $cell .= $letters[array_rand($letters)];
                }
                $cells[] = $cell;
                $text .= $cell.str_repeat(' ', $width - mb_strlen($cell));
            }
            if (trim(implode('', $cells)) === '') {
                // A blank line is no row; put something there.
                $cells[0] = 'a';
                $text = substr($text, 0, -array_sum($widths)).'a'.str_repeat(' ', array_sum($widths) - 1);
            }
            $expected[] = $cells;
            $text .= $seed % 2 ? "\r\n" : "\n";
        }
        $this->readAsWritten($seed, $layout, $expected, $text);
    }

    private function readAsWritten(int $seed, array $layout, array $expected, string $text): void
    {
        $path = sys_get_temp_dir()."/baggage-oracle-$seed.txt";
        file_put_contents($path, $text);
        $read = $this->read($path, ['kind' => 'fixed_width', 'header' => false, 'layout' => implode(', ', $layout)]);
        self::assertSame($expected, $read['rows']);
        $kept = $this->read($path, [
            'kind' => 'fixed_width',
            'header' => false,
            'keep_blanks' => true,
            'layout' => implode(', ', $layout),
        ]);
        self::assertSame($expected, array_map(fn ($r) => array_map(fn ($c) => rtrim((string) $c), $r), $kept['rows']));
    }

    /** Debian's python3-dbfread reads the same bytes, deleted records left out. */
    #[DataProvider('seeds')]
    public function test_dbase(int $seed): void
    {
        mt_srand($seed);
        $fields = [
            ['NO', 'N', 6, 0],
            ['NAME', 'C', 14, 0],
            ['SUM', 'N', 10, 2],
            ['BORN', 'D', 8, 0],
            ['OK', 'L', 1, 0],
        ];
        $records = '';
        $n = mt_rand(1, 60);
        for ($i = 1; $i <= $n; $i++) {
            $name = ['Ann', "Bj\x9Brn", '', 'Zo', 'A longer name'][mt_rand(0, 4)];
            $records .= (mt_rand(0, 9) === 0 ? '*' : ' ').sprintf('%6d', $i).str_pad($name, 14)
                .(mt_rand(0, 4) === 0 ? str_repeat(' ', 10) : sprintf('%10.2f', mt_rand(-99_999, 9_999_999) / 100))
                .(mt_rand(0, 4) === 0
                    ? '        '
                    : sprintf('%04d%02d%02d', mt_rand(1900, 2020), mt_rand(1, 12), mt_rand(1, 28)))
                .['T', 'F', '?', 'y', ' '][mt_rand(0, 4)];
        }
        $length = 1 + array_sum(array_column($fields, 2));
        $head = "\x03".pack('C3', 104, 11, 24).pack('Vvv', $n, 32 + 32 * count($fields) + 1, $length)
            .str_repeat("\0", 17)."\x02\0\0";
        foreach ($fields as [$name, $type, $size, $decimals]) {
            $head .= str_pad($name, 11, "\0").$type."\0\0\0\0".chr($size).chr($decimals).str_repeat("\0", 14);
        }
        $path = sys_get_temp_dir()."/baggage-oracle-$seed.dbf";
        file_put_contents($path, $head."\x0D".$records."\x1A");
        $program = <<<'PYTHON'
        import dbfread, json, sys
        def text(v):
            if v is None or v == '':
                return None
            return 'T' if v is True else 'F' if v is False else ('%.2f' % v if isinstance(v, float) else str(v))
        print(json.dumps([[text(v) for v in r.values()] for r in dbfread.DBF(sys.argv[1], encoding='cp850')]))
        PYTHON;
        $expected = $this->python($program, $path);
        $rows = $expected === [] ? [] : $this->read($path, ['kind' => 'dbase', 'encoding' => 'CP850'])['rows'];
        $plain = fn (?string $cell) => $cell === null || $cell === ''
            ? null
            : match ($cell) {
                'Y', 'y' => 'T',
                'N', 'n' => 'F',
                default => $cell,
            };
        self::assertSame($expected, array_map(fn ($r) => array_map($plain, $r), $rows));
    }
}
