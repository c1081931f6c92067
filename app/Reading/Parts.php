<?php

namespace App\Reading;

use App\Reading\Database\DatabaseLink;
use Baggage\Core\Reading\HeaderGuess;
use Baggage\Core\Reading\Layout;
use Baggage\Core\Reading\Limits;
use Baggage\Core\Reading\Query\QueryFormat;
use Baggage\Core\Reading\ReaderSettings;
use Baggage\Core\Reading\ReadingError;
use Baggage\Core\Reading\Recognition;
use Baggage\Core\Reading\Workbook\Workbook;
use Baggage\Core\Reading\Workbook\WorkbookFormat;

/** Looks into a file of any kind that is read and says which tables it holds: sheets, tables, lists, files of an archive. */
final class Parts
{
    private const SAMPLE = 1 << 18;

    /** What a view does is up to whoever made the file. */
    public const VIEW = 'A view of the file: it is run only when it is chosen by itself.';

    /**
     * @param  string  $name  of the file, for the names of its tables
     * @return non-empty-list<Part>
     *
     * @throws ReadingError
     */
    public static function of(string $path, string $name): array
    {
        if (! is_file($path) || filesize($path) === 0) {
            throw ReadingError::empty();
        }
        $base = pathinfo($name, PATHINFO_FILENAME) ?: $name;
        $sample = (string) file_get_contents($path, false, null, 0, self::SAMPLE);
        $parts = match (true) {
            str_starts_with($sample, "PK\x03\x04") => self::zipped($path, $base),
            str_starts_with($sample, "PK\x05\x06") => throw ReadingError::broken('The zip archive is empty.'),
            str_starts_with($sample, "\xD0\xCF\x11\xE0") => self::sheets(SpreadsheetTable::sheets($path), null),
            str_starts_with($sample, 'SQLite format 3') => self::tables($path, null),
            default => self::recognised($sample, strlen($sample) < self::SAMPLE, $base, null),
        };

        $parts = self::sized($parts, $path);
        $most = Limits::now()->tables;
        if (count($parts) > $most) {
            $left = number_format(count($parts) - $most);
            $why = number_format(count($parts))." tables are in the file, and $most"
                ." can be taken at once. Send these $left by themselves.";
            $parts = [...array_slice($parts, 0, $most), new Part("$left more", null, [], $why)];
        }

        return $parts ?: throw ReadingError::broken('There is no table in this file.');
    }

    /**
     * Tables that lie in one file or member share its bytes.
     *
     * @param  list<Part>  $parts
     * @return list<Part>
     */
    private static function sized(array $parts, string $path): array
    {
        $of = fn (Part $part) => $part->settings->member ?? '';
        $many = array_count_values(array_map($of, $parts));
        $sizes = [];
        foreach (array_keys($many) as $member) {
            $sizes[$member] = intdiv(Unpacked::bytes($path, (string) $member === '' ? null : (string) $member), $many[$member]);
        }

        // What a view makes of them nobody knows.
        $isKnown = fn (Part $part) => $part->settings !== null && $part->refused !== self::VIEW;

        return array_map(fn (Part $part) => $isKnown($part) ? $part->sized($sizes[$of($part)]) : $part, $parts);
    }

    /** @return list<Part> */
    private static function recognised(string $sample, bool $whole, string $base, ?string $member): array
    {
        $found = Recognition::of($sample, $whole);

        return array_map(
            fn (Recognition $r) => new Part(
                $r->part === '' || count($found) === 1 ? $base : "$base, $r->part",
                new ReaderSettings($r->settings->format, $r->settings->layout, $member),
                $r->reasons,
            ),
            $found,
        );
    }

    /** @return list<Part> */
    private static function zipped(string $path, string $base): array
    {
        $zip = ZipMembers::of($path);
        $names = $zip->names();
        if (in_array('[Content_Types].xml', $names, true)) {
            return self::workbook($path, null);
        }
        if (in_array('mimetype', $names, true) && in_array('content.xml', $names, true)) {
            return self::sheets(SpreadsheetTable::sheets($path), null);
        }
        $parts = [];
        foreach ($names as $member) {
            if (
                str_ends_with($member, '/')
                || str_starts_with(basename($member), '.')
                || str_contains($member, '__MACOSX')
            ) {
                continue;
            }
            try {
                array_push($parts, ...self::member($zip, $path, $member));
            } catch (ReadingError $e) {
                $parts[] = new Part($member, null, [], $e->getMessage());
            }
        }

        return $parts;
    }

    /** @return list<Part> */
    private static function member(ZipMembers $zip, string $path, string $member): array
    {
        $sample = '';
        foreach ($zip->chunks($member) as $chunk) {
            $sample .= $chunk;
            if (strlen($sample) >= self::SAMPLE) {
                break;
            }
        }
        if (
            str_starts_with($sample, "PK\x03\x04")
            || str_starts_with($sample, "\xD0\xCF\x11\xE0")
            || str_starts_with($sample, 'SQLite format 3')
        ) {
            $opener = new TableOpener;
            $copy = $opener->unpack($path, $member);
            if (str_starts_with($sample, 'SQLite')) {
                return self::tables($copy, $member);
            }
            if (TableOpener::isXlsx($copy)) {
                return self::workbook($copy, $member);
            }
            if (str_starts_with($sample, 'PK') && ! in_array('mimetype', ZipMembers::of($copy)->names(), true)) {
                throw ReadingError::broken('An archive inside an archive is not opened. Unpack the outer one first.');
            }

            return self::sheets(SpreadsheetTable::sheets($copy), $member);
        }
        $size = $zip->size($member);

        return self::recognised($sample, strlen($sample) >= $size, basename($member), $member);
    }

    /** @return list<Part> */
    private static function workbook(string $path, ?string $member): array
    {
        $archive = ZipMembers::of($path);
        $book = Workbook::of($archive);
        $parts = [];
        foreach ($book->sheets as $sheet) {
            $rows = [];
            try {
                foreach ($book->grid(new WorkbookFormat($sheet['name'])) as $row) {
                    $rows[] = $row;
                    if (count($rows) === 30) {
                        break;
                    }
                }
                [$layout, $why] = HeaderGuess::of($rows);
                $parts[] = $rows === []
                    ? new Part($sheet['name'], null, [], 'The sheet is empty.')
                    : new Part(
                        $sheet['name'],
                        new ReaderSettings(new WorkbookFormat($sheet['name']), $layout, $member),
                        ['header' => $why, 'sheet' => $sheet['hidden'] ? 'a hidden sheet' : 'a sheet'],
                    );
            } catch (ReadingError $e) {
                $parts[] = new Part($sheet['name'], null, [], $e->getMessage());
            }
        }

        return $parts;
    }

    /**
     * @param  list<string>  $sheets
     * @return list<Part>
     */
    private static function sheets(array $sheets, ?string $member): array
    {
        return array_map(
            fn (string $s) => new Part($s, new ReaderSettings(new WorkbookFormat($s), new Layout, $member), [
                'sheet' => 'a sheet',
            ]),
            $sheets,
        );
    }

    /** @return list<Part> */
    private static function tables(string $path, ?string $member): array
    {
        $tables = DatabaseLink::file($path)->tables();
        usort($tables, fn (array $a, array $b) => $a['view'] <=> $b['view']);

        return array_map(
            fn (array $t) => new Part(
                $t['name'],
                new ReaderSettings(new QueryFormat('', $t['name']), new Layout, $member),
                ['table' => $t['view'] ? 'a view' : 'a table'],
                $t['view'] ? self::VIEW : null,
            ),
            $tables,
        );
    }
}
