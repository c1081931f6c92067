<?php

namespace Tests\Core;

use Baggage\Core\Feeds\Formats;
use Baggage\Core\Reading\DelimitedFormat;
use Baggage\Core\Reading\DelimitedReader;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** Random delimited texts, written and read by Python's csv module, which is the reference for what every cell is. */
final class CsvOracleTest extends TestCase
{
    private const WRITE = <<<'PYTHON'
    import csv, io, json, random, sys
    random.seed(int(sys.argv[1]))
    pieces = ['a', 'Æ', '日本', ' ', '"', ',', ';', '\t', '\n', '\r\n', '', 'x y', '0', "'", '|', '\\', '#']
    cases = []
    for n in range(120):
        delimiter = random.choice([',', ';', '|', '\t'])
        width = random.randint(1, 6)
        rows = [[''.join(random.choices(pieces, k=random.randint(0, 4))) for _ in range(width)] for _ in range(random.randint(1, 8))]
        rows = [r for r in rows if width > 1 or r[0] != ''] or [['a'] * width]
        out = io.StringIO(newline='')
        quoting = random.choice([csv.QUOTE_MINIMAL, csv.QUOTE_ALL, csv.QUOTE_NONNUMERIC])
        csv.writer(out, delimiter=delimiter, quoting=quoting, lineterminator=random.choice(['\n', '\r\n'])).writerows(rows)
        text = out.getvalue()
        back = [r for r in csv.reader(io.StringIO(text, newline=''), delimiter=delimiter)]
        cases.append({'delimiter': 'tab' if delimiter == '\t' else delimiter, 'width': width, 'text': text, 'rows': back})
    print(json.dumps(cases))
    PYTHON;

    /** @return iterable<array{int}> */
    public static function seeds(): iterable
    {
        foreach ([1, 2, 3, 4, 5] as $seed) {
            yield "seed $seed" => [$seed];
        }
    }

    #[DataProvider('seeds')]
    public function test_every_cell_is_what_another_reader_reads(int $seed): void
    {
        exec('/usr/bin/python3 -c '.escapeshellarg(self::WRITE).' '.$seed, $out, $code);
        self::assertSame(0, $code);
        $cases = json_decode(implode("\n", $out), true, 512, JSON_THROW_ON_ERROR);
        self::assertCount(120, $cases);
        foreach ($cases as $n => $case) {
            foreach ([1, 3, 1 << 16] as $chunk) {
                self::assertSame(
                    $case['rows'],
                    $this->read($case, $chunk),
                    "case $n, chunks of $chunk bytes: ".json_encode($case['text']),
                );
            }
        }
    }

    /**
     * @param  array{delimiter: string, text: string}  $case
     * @return list<list<string|null>>
     */
    private function read(array $case, int $chunk): array
    {
        $settings = Formats::settings(['delimiter' => $case['delimiter'], 'header' => false]);
        self::assertInstanceOf(DelimitedFormat::class, $settings->format);
        $table = (new DelimitedReader($settings->format, $settings->layout))->table(str_split($case['text'], $chunk));
        $table->columns();
        $rows = [];
        foreach ($table->rows() as $row) {
            $rows[] = $row->cells;
        }

        return $rows;
    }
}
