<?php

namespace Tests\Support;

use App\Support\WorkbookFile;
use Illuminate\Support\Str;
use PDO;
use PhpOffice\PhpSpreadsheet\Spreadsheet;
use PhpOffice\PhpSpreadsheet\Writer\Xls;
use ZipArchive;

/** Good files of every kind that is read, and what becomes of them when bytes are changed; the same for the same number, always. */
final class Mutants
{
    public const KINDS = ['csv', 'fixed', 'json', 'lines', 'xml', 'dbf', 'xlsx', 'xls', 'ods', 'sqlite', 'zip', 'plan', 'rule'];

    /** Numbers that lengths and counts in files turn into trouble. */
    private const NUMBERS = [
        "\0\0\0\0",
        "\xFF\xFF\xFF\xFF",
        "\x7F\xFF\xFF\xFF",
        "\xFF\xFF\xFF\x7F",
        "\x80\0\0\0",
        "\0\0\0\x80",
        "\1\0\0\0",
    ];

    public static function good(string $kind): string
    {
        $born = fn (int $i) => sprintf('%02d.%02d.19%02d', 1 + $i % 28, 1 + $i % 12, $i % 100);
        $rows = array_map(fn (int $i) => ["$i", "Name \u{E6}\u{F8}\u{E5} $i", $born($i), "$i,50"], range(1, 60));

        return match ($kind) {
            'csv' => "no;name;born;amount\r\n".implode('', array_map(fn ($r) => "$r[0];\"$r[1]\";$r[2];\"$r[3]\"\r\n", $rows)),
            'fixed' => implode("\n", array_map(fn ($r) => Str::padRight($r[0], 6).Str::padRight($r[1], 20).$r[2], $rows)),
            'json' => json_encode(['of' => ['rows' => array_map(fn ($r) => ['no' => $r[0], 'name' => $r[1], 'in' => [['a' => 1]]], $rows)]],
                JSON_THROW_ON_ERROR),
            'lines' => implode("\n", array_map(fn ($r) => json_encode(['no' => $r[0], 'name' => $r[1]], JSON_THROW_ON_ERROR), $rows)),
            'xml' => "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<all>".implode('', array_map(
                fn ($r) => "<one no=\"$r[0]\"><name><![CDATA[$r[1]]]></name><born>$r[2]</born><!-- x --></one>\n",
                $rows,
            )).'</all>',
            'dbf' => self::dbf($rows),
            'sqlite' => self::sqlite($rows),
            'zip' => self::zip(['a.csv' => self::good('csv'), 'b/c.json' => self::good('json'), 'd.xml' => self::good('xml')]),
            'xlsx' => self::xlsx($rows),
            'xls' => self::xls($rows),
            'ods' => self::ods($rows),
            'plan' => (string) file_get_contents(dirname(__DIR__, 2).'/demo/plan.yaml'),
            default => "pick(upper(trim(no)), 'A', date(born, 'd.m.y'), 'B', name ~ ' ' ~ left(name, 3)) ~ (amount > 3 ? 'x' : 'y')",
        };
    }

    /** One to four changes: bits, numbers, cuts, doublings, swaps, deletions, foreign bytes. */
    public static function of(string $good, int $seed): string
    {
        $random = new \Random\Randomizer(new \Random\Engine\Mt19937($seed));
        $is = $good;
        for ($n = $random->getInt(1, 4); $n > 0; $n--) {
            $end = max(1, strlen($is) - 1);
            $at = $random->getInt(0, $end);
            $length = $random->getInt(1, min(200, $end));
            $is = match ($random->getInt(0, 7)) {
                0 => substr_replace($is, chr(ord($is[$at] ?? "\0") ^ (1 << $random->getInt(0, 7))), $at, 1),
                1 => substr_replace($is, self::NUMBERS[$random->getInt(0, count(self::NUMBERS) - 1)], $at, 4),
                2 => substr($is, 0, $at),
                3 => substr_replace($is, substr($is, $at, $length), $at, 0),
                4 => substr_replace($is, '', $at, $length),
                5 => substr_replace($is, $random->getBytes($length), $at, $length),
                6 => substr_replace($is, str_repeat($is[$at] ?? ' ', 5000), $at, 0),
                default => substr($is, $at).substr($is, 0, $at),
            };
        }

        return $is;
    }

    /** @param  list<list<string>>  $rows */
    private static function dbf(array $rows): string
    {
        $fields = [['NO', 'N', 6], ['NAME', 'C', 20], ['BORN', 'C', 10]];
        $head = pack('C4VvvA20', 3, 126, 11, 27, count($rows), 32 + 32 * 3 + 1, 1 + 6 + 20 + 10, str_repeat("\0", 20));
        foreach ($fields as [$name, $type, $width]) {
            $head .= str_pad($name, 11, "\0").$type.pack('V', 0).chr($width)."\0".str_repeat("\0", 14);
        }
        $cells = fn (array $r) => ' '.str_pad($r[0], 6, ' ', STR_PAD_LEFT).substr(str_pad($r[1], 20), 0, 20).$r[2];

        return $head."\r".implode('', array_map($cells, $rows))."\x1A";
    }

    /** @param  list<list<string>>  $rows */
    private static function sqlite(array $rows): string
    {
        $path = tempnam(sys_get_temp_dir(), 'mutant') ?: '';
        $pdo = new PDO("sqlite:$path");
        $pdo->exec('CREATE TABLE people (no INTEGER PRIMARY KEY, name TEXT, born TEXT); CREATE INDEX by_name ON people (name)');
        $pdo->exec('CREATE VIEW named AS SELECT name FROM people');
        foreach ($rows as $row) {
            $pdo->prepare('INSERT INTO people VALUES (?, ?, ?)')->execute(array_slice($row, 0, 3));
        }
        unset($pdo);

        return self::taken($path);
    }

    /** @param  list<list<string>>  $rows */
    private static function xlsx(array $rows): string
    {
        $path = tempnam(sys_get_temp_dir(), 'mutant') ?: '';
        $book = new WorkbookFile($path);
        $book->sheet('People', array_map(fn (array $row) => array_map(fn (string $cell) => ['plain', $cell], $row), $rows));
        $book->save();

        return self::taken($path);
    }

    /** @param  list<list<string>>  $rows */
    private static function xls(array $rows): string
    {
        $book = new Spreadsheet;
        $book->getActiveSheet()->fromArray($rows);
        $path = tempnam(sys_get_temp_dir(), 'mutant') ?: '';
        (new Xls($book))->save($path);

        return self::taken($path);
    }

    /** @param  list<list<string>>  $rows */
    private static function ods(array $rows): string
    {
        $cell = fn (string $text) => "<table:table-cell office:value-type=\"string\"><text:p>$text</text:p></table:table-cell>";
        $line = fn (array $row) => '<table:table-row>'.implode('', array_map($cell, $row)).'</table:table-row>';
        $space = fn (string $n) => "xmlns:$n=\"urn:oasis:names:tc:opendocument:xmlns:$n:1.0\"";
        $names = implode(' ', array_map($space, ['office', 'table', 'text']));

        return self::zip([
            'mimetype' => 'application/vnd.oasis.opendocument.spreadsheet',
            'content.xml' => "<office:document-content $names><office:body><office:spreadsheet><table:table table:name=\"People\">"
                .implode('', array_map($line, $rows)).'</table:table></office:spreadsheet></office:body></office:document-content>',
            'META-INF/manifest.xml' => '<manifest/>',
        ]);
    }

    /** @param  array<string, string>  $files */
    private static function zip(array $files): string
    {
        $path = tempnam(sys_get_temp_dir(), 'mutant') ?: '';
        $zip = new ZipArchive;
        $zip->open($path, ZipArchive::OVERWRITE);
        array_walk($files, fn (string $bytes, string $name) => $zip->addFromString($name, $bytes));
        $zip->close();

        return self::taken($path);
    }

    private static function taken(string $path): string
    {
        $bytes = (string) file_get_contents($path);
        unlink($path);

        return $bytes;
    }
}
