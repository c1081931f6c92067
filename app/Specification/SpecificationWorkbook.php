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
        $version = $of->version();
        $book = new WorkbookFile($path);
        $book->sheet(
            'Read me',
            [
                [['head', 'Mapping specification: '.$of->migration->name]],
                ["Version $version[number], plan $version[print], ".now()->format('j F Y H:i').' UTC'],
                [],
                [
                    'Change what stands under Rule, Left empty because, Note, New value, '
                        .'Decision and Left behind because, and send the workbook back.',
                ],
                [
                    'Every changed cell is then shown beside what it was, and is accepted or not. '
                        .'Other cells and further rows are not read.',
                ],
                [
                    'A decision is one of: value, empty, reject. A new value may not be given for the same old value twice.',
                ],
            ],
            widths: [110],
        );
        $text = fn (?string $t) => $t === null || $t === '' ? null : ['wrapped', $t];
        $book->sheet(
            'Rules',
            (function () use ($of, $text) {
                yield array_map(fn ($h) => ['head', $h], self::RULES);
                foreach ($of->parts() as $part) {
                    foreach ($part['fields'] as $f) {
                        yield array_map($text, [
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
            })(),
            widths: [24, 20, 22, 50, 34, 40, 24, 24],
        );
        $book->sheet(
            'Codes',
            (function () use ($of, $text) {
                yield array_map(fn ($h) => ['head', $h], self::CODES);
                foreach ($of->codes() as $code) {
                    foreach ($code['values'] as $v) {
                        yield [
                            $text($code['name']),
                            $text($v['old']),
                            $v['rows'],
                            $text($v['new']),
                            $text(
                                ! $v['mapped']
                                    ? ''
                                    : ($v['rejected']
                                        ? 'reject'
                                        : ($v['new'] === null
                                            ? 'empty'
                                            : 'value')),
                            ),
                            $text($v['note']),
                        ];
                    }
                }
            })(),
            widths: [24, 20, 10, 24, 12, 40],
        );
        $book->sheet(
            'Columns',
            (function () use ($of, $text) {
                yield array_map(fn ($h) => ['head', $h], self::COLUMNS);
                foreach ($of->parts() as $part) {
                    $extract = "{$part['load']->extract->source->code}/{$part['load']->extract->name}";
                    foreach ($part['left'] + array_fill_keys($part['undecided'], '') as $header => $reason) {
                        yield array_map($text, [$part['load']->name, $extract, (string) $header, $reason]);
                    }
                }
            })(),
            widths: [24, 24, 24, 60],
        );
        $book->save();
    }
}
