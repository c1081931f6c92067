<?php

namespace Tests\Feature;

use App\Models\Load;
use App\Models\Migration;
use App\Models\Round;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Symfony\Component\Process\Process;
use Tests\TestCase;

/** Headless files, and the client's own file with what became of each row. */
final class AnnotatedTest extends TestCase
{
    private string $folder;

    private Migration $migration;

    private Round $round;

    protected function setUp(): void
    {
        parent::setUp();
        [$this->migration, $this->round] = $this->loadedDemo($this->folder = self::smallDemo());
    }

    /** @param  array<string, mixed>  $of */
    private function ran(string $command, array $of): int
    {
        return Artisan::call("baggage:$command", ['plan' => "$this->folder/plan.yaml"] + $of);
    }

    /** @return array<int, \stdClass> by row */
    private function outcomes(string $load): array
    {
        return $this->lines()->where('load_id', Load::query()->where('name', $load)->value('id'))->get()->keyBy('row_no')->all();
    }

    public function test_text_keeps_every_byte_of_its_own(): void
    {
        $take = Load::query()->where('name', 'Vessels')->firstOrFail()->extract->take ?? self::fail();
        $own = (string) file_get_contents($take->file);
        self::assertSame(0, $this->ran('annotate', ['--extract' => 'BB/craft', '--out' => "$this->folder/copy.txt"]), Artisan::output());
        $copy = (string) file_get_contents("$this->folder/copy.txt");
        [$ownLines, $lines] = [explode("\n", $own), explode("\n", $copy)];
        self::assertCount(count($ownLines), $lines);
        $outcomes = $this->outcomes('Vessels');
        $words = ['waived' => 'left behind', 'excluded' => 'left out', 'pending' => 'not yet loaded'];
        $seen = 0;
        foreach ($lines as $i => $line) {
            $was = rtrim($ownLines[$i], "\r");
            self::assertSame($was, substr($line, 0, strlen($was)));
            self::assertSame(str_ends_with($ownLines[$i], "\r"), str_ends_with($line, "\r"));
            $added = substr(rtrim($line, "\r"), strlen($was));
            $row = DB::table('staged_rows')->where('take_id', $take->id)->where('line', $i + 1)->value('row_no');
            if ($row === null) {
                continue;
            }
            $seen++;
            $cells = str_getcsv(substr($added, 1), $added[0], '"', '');
            $is = $outcomes[(int) $row];
            self::assertSame([$words[$is->outcome] ?? $is->outcome, (string) $is->target_key], array_slice($cells, 0, 2), "row $row");
            self::assertSame($is->outcome === 'loaded', $cells[2] === '');
        }
        self::assertSame(count($outcomes), $seen);
    }

    /** Part by part, as openpyxl and the archive itself say; the client's formats, widths and other sheets are as they were. */
    public function test_a_workbook_keeps_every_part_of_its_own(): void
    {
        $path = "$this->folder/own.xlsx";
        (new Process(['/usr/bin/python3', '-c', <<<'PY'
            import sys, openpyxl
            from openpyxl.styles import Font, PatternFill
            from openpyxl.comments import Comment
            book = openpyxl.Workbook()
            notes, sheet = book.active, book.create_sheet('Customers')
            notes.title, notes['A1'] = 'Notes', '=1+1'
            sheet.append(['List of customers'])
            sheet.append([])
            sheet.append(['no', 'name', 'kind', 'total'])
            for cell in sheet[3]: cell.font, cell.fill = Font(bold=True), PatternFill('solid', fgColor='FFDDEEFF')
            for n in range(1, 8): sheet.append([f'00{n}', f'Ann & {n}', 'person' if n % 2 else 'ghost', f'=A{n}*2'])
            sheet['B5'].comment = Comment('ask her', 'Tom')
            sheet.column_dimensions['B'].width = 33
            sheet.auto_filter.ref = 'A3:D10'
            sheet.conditional_formatting.add('A4:A10', openpyxl.formatting.rule.CellIsRule(operator='equal', formula=['"001"']))
            book.save(sys.argv[1])
            PY, $path]))->mustRun();
        $plan = $this->smallPlan("no,name,kind\n", "{kind: kind, name: name, country: \"'GB'\"}", 'party');
        copy($path, dirname($plan).'/own.xlsx');
        $reader = 'file: own.xlsx, reader: {kind: workbook, sheet: Customers, skip: 2}';
        file_put_contents($plan, str_replace('file: file.csv', $reader, (string) file_get_contents($plan)));
        $this->folder = dirname($plan);
        $this->load($this->demoMigration($this->folder), 'r');
        $of = ['--round' => 'r', '--extract' => 'S/file', '--out' => $to = "$this->folder/copy.xlsx"];
        self::assertSame(0, $this->ran('annotate', $of), Artisan::output());
        $this->sameParts($path, $to, 'xl/worksheets/sheet2.xml');
        $read = (new Process(['/usr/bin/python3', '-c', <<<'PY'
            import json, sys, openpyxl
            book = openpyxl.load_workbook(sys.argv[1])
            sheet = book['Customers']
            print(json.dumps([[[c.value for c in row] for row in sheet.iter_rows(min_row=3)], book['Notes']['A1'].value,
                sheet['B5'].comment.text, sheet.column_dimensions['B'].width, sheet.auto_filter.ref, sheet['E3'].font.b, sheet.dimensions]))
            PY, $to]))->mustRun()->getOutput();
        [$rows, $notes, $comment, $width, $filter, $isBold, $range] = json_decode($read, true);
        self::assertSame(['=1+1', 'ask her', 33.0, 'A3:D10', true, 'A1:H10'], [$notes, $comment, $width, $filter, $isBold, $range]);
        self::assertSame(['no', 'name', 'kind', 'total', 'Outcome', 'New key', 'Message', 'Pass'], $rows[0]);
        foreach (array_slice($rows, 1) as $i => $row) {
            $isGood = ($i + 1) % 2 === 1;
            self::assertSame(['00'.($i + 1), 'Ann & '.($i + 1), $isGood ? 'person' : 'ghost', '=A'.($i + 1).'*2'], array_slice($row, 0, 4));
            self::assertSame($isGood ? 'loaded' : 'rejected', $row[4]);
            self::assertSame([$isGood, ! $isGood, '1'], [(string) $row[5] !== '', (string) $row[6] !== '', $row[7]]);
        }
    }

    /** All parts but one are there byte for byte, and of that one everything but the added cells. */
    private function sameParts(string $from, string $to, string $changed): void
    {
        [$own, $copy] = [new \ZipArchive, new \ZipArchive];
        self::assertTrue($own->open($from) === true && $copy->open($to) === true);
        self::assertSame($own->numFiles, $copy->numFiles);
        for ($i = 0; $i < $own->numFiles; $i++) {
            $name = (string) $own->getNameIndex($i);
            [$was, $is] = [(string) $own->getFromName($name), (string) $copy->getFromName($name)];
            if ($name === $changed) {
                $is = (string) preg_replace('~<c r="[E-H]\d+"[^>]*><is><t xml:space="preserve">[^<]*</t></is></c>~', '', $is);
                $is = str_replace(':H10"', ':D10"', $is);
            }
            self::assertSame($was, $is, $name);
        }
    }

    public function test_rejects_go_out_and_answers_come_in_without_a_screen(): void
    {
        $out = "$this->folder/out.csv";
        self::assertSame(2, $this->ran('rejects', ['--out' => "$this->folder/out.pdf"]));
        self::assertSame(2, $this->ran('rejects', ['--out' => $out]), 'several loads have different columns');
        $json = "$this->folder/told.json";
        self::assertSame(0, $this->ran('rejects', ['--out' => $out, '--load' => 'Vessels', '--json' => $json]), Artisan::output());
        $told = json_decode((string) file_get_contents($json), true);
        $rejected = array_filter($this->outcomes('Vessels'), fn ($o) => $o->outcome === 'rejected');
        self::assertSame(count($rejected), $told['rows']);
        $text = str_replace('31/02/2003', '28/02/2003', (string) file_get_contents($out), $n);
        file_put_contents("$this->folder/back.csv", $text);
        $of = ['file' => "$this->folder/back.csv", '--from' => 'Ines Moor', '--json' => $json];
        self::assertSame(0, $this->ran('answers', $of), Artisan::output());
        $told = json_decode((string) file_get_contents($json), true);
        // The value stands in the cell and beside it: the one beside is no cell of theirs.
        self::assertSame([intdiv($n, 2), []], [$told['found']['change'], $told['taken_in']]);
        self::assertSame(0, $this->ran('answers', $of + ['--accept' => true]), Artisan::output());
        $told = json_decode((string) file_get_contents($json), true);
        self::assertSame(intdiv($n, 2).' cells corrected as answered.', $told['taken_in'][0]['told'] ?? '');
        $this->load($this->migration);
        $left = array_filter($this->outcomes('Vessels'), fn ($o) => $o->outcome === 'rejected');
        self::assertSame(count($rejected) - intdiv($n, 2), count($left));
        self::assertSame(2, $this->ran('answers', ['file' => "$this->folder/nothing.csv"]));
        $of = ['--extract' => 'BB/craft', '--out' => '/nonexistent/copy.txt', '--json' => $json];
        self::assertSame(2, $this->ran('annotate', $of));
        $said = json_decode((string) file_get_contents($json), true)['errors'][0]['message'];
        self::assertSame('The copy cannot be written to /nonexistent/copy.txt.', $said);
    }
}
