<?php

namespace App\Specification;

use App\Support\WorkbookFile;

/** The specification as a workbook that a client edits and that is read back: what may be changed stands in columns of its own. */
final class SpecificationWorkbook
{
    public const RULES = ['Load', 'Field', 'Type', 'Rule', 'Left empty because', 'Note', 'Row 1 before', 'Row 1 after'];

    public const CODES = ['Crosswalk', 'Old value', 'Rows', 'New value', 'Decision', 'Note'];

    public const COLUMNS = ['Load', 'Extract', 'Column', 'Left behind because'];

    public static function write(Specification $of, string $path): void
    {
        $book = new WorkbookFile($path);
        $book->sheet('Read me', self::readMe($of), widths: [110]);
        $book->sheet('Rules', self::rules($of), widths: [24, 20, 22, 50, 34, 40, 24, 24]);
        $book->sheet('Codes', self::codes($of), widths: [24, 20, 10, 24, 12, 40]);
        $book->sheet('Columns', self::columns($of), widths: [24, 24, 24, 60]);
        $book->save();
    }

    /** @return list<list<string|array{string, string}>> */
    private static function readMe(Specification $of): array
    {
        $version = $of->version();

        return [
            [['head', 'Mapping specification: '.$of->migration->name]],
            ["Version $version[number], plan $version[hash], ".now()->format('j F Y H:i').' UTC'],
            [],
            [
                'Change what stands under Rule, Left empty because, Note, New value, '
                    .'Decision and Left behind because, and send the workbook back.',
            ],
            [
                'Every changed cell is then shown beside what it was, and is accepted or not. '
                    .'Other cells and further rows are not read.',
            ],
            ['A decision is one of: value, empty, reject. A new value may not be given for the same old value twice.'],
        ];
    }

    /** @return \Generator<int, list<array{string, string}|null>> */
    private static function rules(Specification $of): \Generator
    {
        yield self::heads(self::RULES);
        foreach ($of->parts() as $part) {
            foreach ($part['fields'] as $f) {
                yield array_map(self::text(...), [
                    $part['load']->name,
                    $f['name'],
                    $f['type'],
                    $f['rule'],
                    $f['empty'],
                    $f['note'],
                    $f['before'],
                    $f['after'],
                ]);
            }
        }
    }

    /** @return \Generator<int, list<array{string, string}|int|null>> */
    private static function codes(Specification $of): \Generator
    {
        yield self::heads(self::CODES);
        foreach ($of->codes() as $code) {
            foreach ($code['values'] as $v) {
                yield [
                    self::text($code['name']),
                    self::text($v->old),
                    $v->rows,
                    self::text($v->new),
                    self::text($v->decision()),
                    self::text($v->note),
                ];
            }
        }
    }

    /** @return \Generator<int, list<array{string, string}|null>> */
    private static function columns(Specification $of): \Generator
    {
        yield self::heads(self::COLUMNS);
        foreach ($of->parts() as $part) {
            $extract = "{$part['load']->extract->source->code}/{$part['load']->extract->name}";
            foreach ($part['left'] + array_fill_keys($part['undecided'], '') as $header => $reason) {
                yield array_map(self::text(...), [$part['load']->name, $extract, (string) $header, $reason]);
            }
        }
    }

    /**
     * @param  list<string>  $names
     * @return list<array{string, string}>
     */
    private static function heads(array $names): array
    {
        return array_map(fn (string $name) => ['head', $name], $names);
    }

    /** @return array{string, string}|null */
    private static function text(?string $text): ?array
    {
        return $text === null || $text === '' ? null : ['wrapped', $text];
    }
}
