<?php

namespace App\Files;

use App\Looking\Looker;
use App\Models\Round;
use App\Models\Take;
use App\Reading\FileChunks;
use App\Reading\TableOpener;
use App\Reading\ZipMembers;
use Baggage\Core\Feeds\Formats;
use Baggage\Core\Reading\DelimitedFormat;
use Baggage\Core\Reading\Layout;
use Baggage\Core\Reading\ReaderSettings;
use Baggage\Core\Reading\ReadingError;
use Baggage\Core\Reading\Workbook\Workbook;
use Baggage\Core\Reading\Workbook\WorkbookFormat;
use Baggage\Core\Writing\AnnotatedText;
use Baggage\Core\Writing\Workbook\AnnotatedSheet;

/** Makes a copy of the client's own file with columns that say what became of each row. In a process of its own: it is foreign. */
final class Annotator implements Looker
{
    /** Whether such a copy can be made of what was read. */
    public static function canDo(Take $take): bool
    {
        $settings = self::settings($take);

        return is_file($take->file) && $settings->member === null && match (true) {
            $settings->format instanceof DelimitedFormat => true,
            $settings->format instanceof WorkbookFormat => (string) file_get_contents($take->file, false, null, 0, 4) === "PK\x03\x04",
            default => false,
        };
    }

    /** @return string the copy's extension */
    public static function extension(Take $take): string
    {
        return self::settings($take)->format instanceof WorkbookFormat ? 'xlsx' : (pathinfo($take->file_name, PATHINFO_EXTENSION) ?: 'csv');
    }

    private static function settings(Take $take): ReaderSettings
    {
        return Formats::settings($take->reader ?? $take->extract->reader ?? []);
    }

    /** @return array<string, mixed> */
    public static function look(array $given): mixed
    {
        $take = Take::query()->findOrFail($given['take']);
        if (! self::canDo($take)) {
            throw ReadingError::broken('A copy can be made of an .xlsx workbook, or of text with delimiters, that was frozen from a file '
                .'by itself and is still here.');
        }
        $annotations = Annotations::of(Round::query()->findOrFail($given['round']), $take);
        $settings = self::settings($take);
        if ($settings->format instanceof WorkbookFormat) {
            self::workbook($take->file, $settings, $annotations, $given['to']);
        } elseif ($settings->format instanceof DelimitedFormat) {
            self::text($take, $settings->format, $settings, $annotations, $given['to']);
        }

        return [];
    }

    private static function workbook(string $from, ReaderSettings $settings, Annotations $annotations, string $to): void
    {
        $format = $settings->format instanceof WorkbookFormat ? $settings->format : new WorkbookFormat;
        $zip = ZipMembers::of($from);
        $part = Workbook::of($zip)->partOf($format);
        $titles = $annotations->titles();
        $head = $settings->layout->header ? $settings->layout->skip + 1 : null;
        $lines = $annotations->lines();
        $cells = function (int $row) use ($lines, $head, $titles): ?array {
            if ($row === $head) {
                return $titles;
            }
            while ($lines->valid() && $lines->key() < $row) {
                $lines->next();
            }

            return $lines->valid() && $lines->key() === $row ? $lines->current() : null;
        };
        $sheet = new AnnotatedSheet(AnnotatedSheet::after($zip->chunks($part)), count($titles), $cells, $head);
        self::put("$to.part", $sheet->of($zip->chunks($part)));
        @copy($from, $to) ?: throw ReadingError::broken('The copy cannot be written: is the disk full?');
        $copy = new \ZipArchive;
        // Every other part goes over as it is packed.
        $isDone = $copy->open($to) === true && $copy->addFile("$to.part", $part) && $copy->close();
        @unlink("$to.part");
        $isDone ?: throw ReadingError::broken('The copy cannot be written: is the disk full?');
        chmod($to, 0600);
    }

    private static function text(
        Take $take,
        DelimitedFormat $format,
        ReaderSettings $settings,
        Annotations $annotations,
        string $to,
    ): void {
        $head = $settings->layout->header ? self::headLine($take, $settings) : null;
        $text = (new AnnotatedText($format))->of(
            (new FileChunks($take->file))->chunks(), $annotations->lines(), $head, $annotations->titles(),
        );
        self::put($to, $text);
    }

    /** The first line below those that are skipped that says something and is no comment. */
    private static function headLine(Take $take, ReaderSettings $settings): int
    {
        $first = null;
        $raw = new ReaderSettings($settings->format, new Layout(
            header: false, skip: $settings->layout->skip, comment: $settings->layout->comment, count: 1,
        ));
        $table = (new TableOpener)->open($raw, $take->file);
        $table->columns();
        foreach ($table->rows() as $row) {
            $first ??= $row->line;
        }

        return $first ?? 1;
    }

    /** @param  iterable<string>  $text */
    private static function put(string $path, iterable $text): void
    {
        $file = @fopen($path, 'w') ?: throw ReadingError::broken("The copy cannot be written to $path.");
        chmod($path, 0600);
        foreach ($text as $some) {
            if (fwrite($file, $some) !== strlen($some)) {
                throw ReadingError::broken('The copy cannot be written: is the disk full?');
            }
        }
        fclose($file);
    }
}
