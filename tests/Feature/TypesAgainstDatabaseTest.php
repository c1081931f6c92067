<?php

namespace Tests\Feature;

use App\Models\Target;
use App\Support\BrokenOff;
use App\Support\BulkRows;
use App\Support\WorkbookFile;
use App\Targets\SchemaReader;
use App\Targets\TargetLink;
use Baggage\Core\Targets\Describing\SchemaChanges;
use Baggage\Core\Targets\Describing\SheetDescription;
use Baggage\Core\Targets\Refusal;
use Baggage\Core\Targets\Schema;
use Baggage\Core\Targets\TableText;
use Illuminate\Support\Facades\DB;
use PhpOffice\PhpSpreadsheet\IOFactory;
use PHPUnit\Framework\Attributes\DataProvider;
use Tests\TestCase;

/** What our field types take, against what MariaDB itself takes and keeps in a column of that type. */
final class TypesAgainstDatabaseTest extends TestCase
{
    private function probe(): TargetLink
    {
        return new TargetLink(
            new Target([
                'name' => 't',
                'host' => '127.0.0.1',
                'port' => (string) getenv('DB_PORT'),
                'database' => (string) getenv('HARBOUR_OFFICE_DATABASE'),
                'username' => 'harbour',
                'password' => (string) getenv('HARBOUR_OFFICE_PASSWORD'),
            ]),
        );
    }

    /** @return iterable<array{string, list<string>}> */
    public static function types(): iterable
    {
        $numbers = [
            '0',
            '-0',
            '1',
            '-1',
            '7.0',
            '7.5',
            '127',
            '128',
            '255',
            '256',
            '-128',
            '-129',
            '32767',
            '32768',
            '65535',
            '65536',
            '2147483647',
            '2147483648',
            '-2147483648',
            '-2147483649',
            '4294967295',
            '4294967296',
            '9223372036854775807',
            '9223372036854775808',
            '18446744073709551615',
            '18446744073709551616',
            'abc',
            '1e3',
            '12abc',
            '0x1F',
            '+5',
            '00012',
        ];
        foreach (
            [
                'tinyint',
                'tinyint unsigned',
                'smallint',
                'smallint unsigned',
                'mediumint',
                'int',
                'int unsigned',
                'bigint',
                'bigint unsigned',
            ] as $type
        ) {
            yield $type => [$type, $numbers];
        }
        foreach (['decimal(5,2)', 'decimal(10,0)', 'decimal(18,6)', 'decimal(30,10)'] as $type) {
            yield $type => [
                $type,
                [
                    ...$numbers,
                    '999.99',
                    '999.995',
                    '1000',
                    '-999.99',
                    '0.001',
                    '0.10',
                    '.5',
                    '5.',
                    '123456789012345678.123456',
                ],
            ];
        }
        $dates = [
            '2003-02-28',
            '2003-02-29',
            '2004-02-29',
            '1900-02-29',
            '0000-00-00',
            '2003-00-10',
            '2003-13-01',
            '9999-12-31',
            '1000-01-01',
            '2003-2-8',
            '28/02/2003',
            'today',
            '2003-02-28 23:59:59',
            '2003-02-28 24:00:00',
            '2003-02-28T10:00',
            '20030228',
        ];
        yield 'date' => ['date', $dates];
        yield 'datetime' => ['datetime', $dates];
        yield 'varchar(5)' => [
            'varchar(5)',
            [
                '',
                'abcde',
                'abcdef',
                'Ærøsk',
                'Ærøskø',
                '日本語港湾',
                '日本語港湾x',
                "a\nb",
                '😀😀😀😀😀',
                '😀😀😀😀😀😀',
                'abc  ',
                '     x',
            ],
        ];
        yield 'enum' => ["enum('fixed','swinging')", ['fixed', 'swinging', 'other', 'FIXED']];
    }

    /**
     * Never may ours take a value that the database refuses or keeps as another; refusing what it would have bent is what ours is for.
     *
     * @param  list<string>  $values
     */
    #[DataProvider('types')]
    public function test_nothing_is_taken_that_the_database_would_refuse_or_change(string $type, array $values): void
    {
        $link = $this->probe();
        $pdo = $link->pdo();
        $pdo->exec(
            "CREATE OR REPLACE TABLE probe (id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, v $type NULL) "
                .'CHARACTER SET utf8mb4 ENGINE=InnoDB',
        );
        $field = (new SchemaReader)->read($link)->entities['probe']->fields['v'];
        $insert = $pdo->prepare('INSERT INTO probe (v) VALUES (?)');
        $taken = 0;
        foreach ($values as $value) {
            if ($value === '') {
                continue;
            }
            $ours = $field->type->accept($value);
            if ($ours instanceof Refusal) {
                continue;
            }
            $taken++;
            try {
                $insert->execute([$ours]);
            } catch (\PDOException $e) {
                self::fail("$type: we take \"$value\" as \"$ours\", and MariaDB says: {$e->getMessage()}");
            }
            $kept = $pdo->query('SELECT v FROM probe ORDER BY id DESC LIMIT 1')->fetchColumn();
            self::assertSame((string) $kept, $ours, "$type keeps \"$value\" otherwise");
        }
        self::assertGreaterThan(0, $taken);
        $pdo->exec('DROP TABLE probe');
    }

    /** Tables made of a description say the same when their schema is read again. */
    public function test_what_is_described_is_made_and_read_again(): void
    {
        mt_srand(31);
        for ($round = 0; $round < 12; $round++) {
            $entities = ['e_one', 'e_two', 'e_three'];
            $rows = array_merge(...array_map(fn (string $e) => $this->inventedEntity($e, $entities), $entities));
            $described = SheetDescription::read(array_combine(range(2, count($rows) + 1), $rows));
            $link = $this->probe();
            foreach (TableText::statements(array_values($described->entities), $described) as $statement) {
                $link->pdo()->exec($statement);
            }
            $read = new Schema(
                array_values(array_intersect_key((new SchemaReader)->read($link)->entities, array_flip($entities))),
            );
            $changes = array_filter(SchemaChanges::between($described, $read), fn ($c) => $c->field !== 'id');
            self::assertSame([], array_values($changes), "round $round");
            $link->pdo()->exec('SET FOREIGN_KEY_CHECKS = 0');
            array_map(fn ($e) => $link->pdo()->exec("DROP TABLE $e"), $entities);
        }
    }

    /**
     * @param  list<string>  $entities  it may refer to
     * @return list<array<string, string>> lines of a description
     */
    private function inventedEntity(string $entity, array $entities): array
    {
        $types = [
            ['text', '40'],
            ['text', '4000'],
            ['whole number', ''],
            ['decimal', '9,2'],
            ['decimal', '18,6'],
            ['date', ''],
            ['date and time', ''],
            ['yes or no', ''],
        ];
        $rows = [['Entity' => $entity, 'Field' => 'id', 'Type' => 'assigned', 'Unique' => 'key']];
        for ($i = mt_rand(1, 6); $i > 0; $i--) {
            [$type, $length] = $types[array_rand($types)];
            $rows[] = [
                'Entity' => $entity,
                'Field' => "f_$i",
                'Type' => $type,
                'Length' => $length,
                'Required' => mt_rand(0, 1) ? 'yes' : '',
                'Unique' => $length === '40' && mt_rand(0, 1) ? 'yes' : '',
            ];
        }
        $rows[] = [
            'Entity' => $entity,
            'Field' => 'kind',
            'Allowed values' => "fixed; it's (old); swinging",
            'Default' => mt_rand(0, 1) ? 'fixed' : '',
        ];
        $rows[] = ['Entity' => $entity, 'Field' => 'up', 'References' => $entities[array_rand($entities)]];

        return $rows;
    }

    /** Whatever stands in a cell goes through LOAD DATA and back as it was. */
    public function test_cells_survive_the_way_through_the_database(): void
    {
        DB::statement(
            'CREATE OR REPLACE TABLE probe (n INT PRIMARY KEY, v MEDIUMTEXT NULL) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin',
        );
        mt_srand(32);
        $pieces = [
            "\t",
            "\n",
            "\r\n",
            '\\',
            '\\N',
            '\\t',
            '"',
            "'",
            "\0",
            ' ',
            'Æ',
            '日本',
            '😀',
            "\u{FEFF}",
            'NULL',
            ',',
            ';',
            "\x1A",
            "\x1F",
            '\\\\',
        ];
        $values = [null, '', '\\', '\\N', "\\\n"];
        for ($i = 0; $i < 400; $i++) {
            $values[] = implode('', array_map(fn () => $pieces[array_rand($pieces)], range(1, mt_rand(1, 8))));
        }
        $lines = '';
        foreach ($values as $n => $value) {
            $lines .= BulkRows::line([$n, $value]);
        }
        BulkRows::load(DB::connection(), 'probe', '(n, v)', $lines, count($values));
        self::assertSame($values, DB::table('probe')->orderBy('n')->pluck('v')->all());
        DB::statement('DROP TABLE probe');
    }

    /** Workbooks that go out, cell by cell through phpspreadsheet: texts stay texts, also those that look like formulas. */
    public function test_a_workbook_that_goes_out_is_read_by_another_library_as_written(): void
    {
        $texts = [
            'plain',
            '=1+1',
            '+49 151',
            '-5',
            '@cmd',
            '007',
            '1E5',
            " blank \n line",
            '<b>&"\'',
            'Ærø 日本 😀',
            '_x0041_',
            "tab\there",
            '31/02/2003',
            'true',
            '#N/A',
        ];
        $path = sys_get_temp_dir().'/baggage-out.xlsx';
        $book = new WorkbookFile($path);
        $book->sheet(
            'Out & "in"',
            [
                array_map(fn ($t) => ['head', $t], ['A', 'B', 'C']),
                ...array_map(fn ($t, $i) => [$t, $i, ['wrapped', $t]], $texts, array_keys($texts)),
            ],
            widths: [10, 8, 40],
        );
        $book->save();
        $sheet = IOFactory::load($path)->getSheetByName('Out & "in"');
        self::assertNotNull($sheet);
        foreach ($texts as $i => $text) {
            $row = $i + 2;
            self::assertSame($text, (string) $sheet->getCell("A$row")->getValue(), 'A');
            self::assertSame($text, (string) $sheet->getCell("C$row")->getValue(), 'C');
            self::assertSame(
                's',
                $sheet->getCell("A$row")->getDataType(),
                "\"$text\" is a text, not a formula and not a number",
            );
            self::assertEquals($i, $sheet->getCell("B$row")->getValue());
        }
        self::assertTrue($sheet->getStyle('A1')->getFont()->getBold());
    }

    public function test_what_does_not_fit_is_refused_and_never_cut(): void
    {
        DB::statement('CREATE OR REPLACE TABLE probe (n TINYINT UNSIGNED NOT NULL, v VARCHAR(5) NOT NULL) ENGINE=InnoDB');
        $bad = [
            'too long' => [1, 'abcdef'],
            'too large' => [300, 'a'],
            'no number' => ['x', 'a'],
            'nothing where something is needed' => [null, 'a'],
        ];
        foreach ($bad as $what => $line) {
            try {
                BulkRows::load(DB::connection(), 'probe', '(n, v)', BulkRows::line([1, 'good']).BulkRows::line($line), 2);
                self::fail("$what was taken");
            } catch (BrokenOff $e) {
                self::assertMatchesRegularExpression('/does not fit into probe|of 2 rows/', $e->getMessage(), $what);
            }
        }
        DB::statement('DROP TABLE probe');
    }
}
