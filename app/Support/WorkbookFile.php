<?php

namespace App\Support;

use ZipArchive;

/** A small .xlsx workbook as office programs write them: shared strings, date styles, merged titles, formulas with their stored result. */
final class WorkbookFile
{
    /** @var list<array{name: string, hidden: bool, xml: string}> */
    private array $sheets = [];

    /** @var array<string, int> */
    private array $strings = [];

    public function __construct(private readonly string $path)
    {
    }

    /**
     * Cells are text, numbers, or [kind, value] with kind date, money, percent, error, formula, head or wrapped.
     *
     * @param  iterable<list<string|int|float|array{string, string|int|float}|null>>  $rows
     * @param  list<string>  $merged  ranges such as "A1:D1"
     * @param  list<int>  $widths  of the columns, in characters; with them the first row stays in sight
     */
    public function sheet(
        string $name,
        iterable $rows,
        array $merged = [],
        bool $hidden = false,
        array $widths = [],
    ): void {
        $xml = '';
        $number = $widest = 0;
        foreach ($rows as $row) {
            $number++;
            $cells = '';
            foreach ($row as $i => $cell) {
                $cells .= $cell === null || $cell === '' ? '' : $this->cell(self::column($i).$number, $cell);
            }
            $widest = max($widest, count($row));
            $xml .= $cells === '' ? '' : "<row r=\"$number\">$cells</row>";
        }
        $merges = $merged === []
            ? ''
            : '<mergeCells count="'.count($merged).'">'
                .implode('', array_map(fn ($m) => "<mergeCell ref=\"$m\"/>", $merged)).'</mergeCells>';
        $dimension = '<dimension ref="A1:'.self::column(max(0, $widest - 1)).$number.'"/>';
        $this->sheets[] = [
            'name' => $name,
            'hidden' => $hidden,
            'xml' => $dimension.self::look($widths)."<sheetData>$xml</sheetData>$merges",
        ];
    }

    public function save(): void
    {
        @unlink($this->path);
        $zip = new ZipArchive;
        $zip->open($this->path, ZipArchive::CREATE);
        $strings = array_map(self::text(...), array_map(strval(...), array_keys($this->strings)));
        foreach (WorkbookParts::of($this->sheets, $strings) as $name => $xml) {
            $zip->addFromString($name, $xml);
            // Same seed, same bytes.
            $zip->setMtimeName($name, 1_000_000_000);
        }
        $zip->close();
    }

    /** @param  string|int|float|array{string, string|int|float}  $cell */
    private function cell(string $at, string|int|float|array $cell): string
    {
        [$kind, $value] = is_array($cell) ? $cell : [is_string($cell) ? 'text' : 'number', $cell];

        return match ($kind) {
            'text', 'head', 'wrapped' => "<c r=\"$at\""
                .match ($kind) {
                    'head' => ' s="4"',
                    'wrapped' => ' s="5"',
                    default => '',
                }
                .' t="s"><v>'.($this->strings[(string) $value] ??= count($this->strings)).'</v></c>',
            'date' => "<c r=\"$at\" s=\"1\"><v>$value</v></c>",
            'money' => "<c r=\"$at\" s=\"2\"><v>$value</v></c>",
            'percent' => "<c r=\"$at\" s=\"3\"><v>$value</v></c>",
            'error' => "<c r=\"$at\" t=\"e\"><v>$value</v></c>",
            'formula' => "<c r=\"$at\"><f>ROW()</f><v>$value</v></c>",
            default => "<c r=\"$at\"><v>$value</v></c>",
        };
    }

    /** Characters that XML does not have are written _xHHHH_ (ECMA-376 part 1, 22.9.2.19). */
    private static function text(string $text): string
    {
        $text = (string) preg_replace('/_(?=x[0-9A-Fa-f]{4}_)/', '_x005F_', $text);

        return htmlspecialchars(
            (string) preg_replace_callback('/[\x00-\x08\x0B-\x1F]/', fn ($m) => sprintf('_x%04X_', ord($m[0])), $text),
            ENT_XML1,
        );
    }

    /** @param  list<int>  $widths */
    private static function look(array $widths): string
    {
        return $widths === []
            ? ''
            : '<sheetViews><sheetView workbookViewId="0"><pane ySplit="1" topLeftCell="A2" activePane="bottomLeft" '
                .'state="frozen"/></sheetView></sheetViews><cols>'
                    .implode(
                        '',
                        array_map(
                            fn ($w, $i) => '<col min="'.($i + 1).'" max="'.($i + 1)
                                ."\" width=\"$w\" customWidth=\"1\"/>",
                            $widths,
                            array_keys($widths),
                        ),
                    )
                    .'</cols>';
    }

    /** 0 → A, 25 → Z, 26 → AA, 702 → AAA. */
    private static function column(int $i): string
    {
        return ($i < 26 ? '' : self::column(intdiv($i, 26) - 1)).chr(65 + ($i % 26));
    }
}
