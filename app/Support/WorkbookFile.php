<?php

namespace App\Support;

use ZipArchive;

/** A small .xlsx workbook as office programs write them: shared strings, date styles, merged titles, formulas with their stored result. */
final class WorkbookFile
{
    /** @var list<array{string, string}> name, rows as XML */
    private array $sheets = [];

    /** @var array<string, int> */
    private array $strings = [];

    public function __construct(private readonly string $path)
    {
    }

    /**
     * @param  iterable<list<string|int|float|array{string, string|int|float}|null>>  $rows  text, numbers, or [kind, value] with kind
     *                                                                                       date, money, percent, error, formula, head or wrapped
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
        $merges =
            $merged === []
                ? ''
                : '<mergeCells count="'.
                    count($merged).
                    '">'.
                    implode('', array_map(fn ($m) => "<mergeCell ref=\"$m\"/>", $merged)).
                    '</mergeCells>';
        $this->sheets[] = [
            $name.($hidden ? "\0" : ''),
            '<?xml version="1.0" encoding="UTF-8" standalone="yes"?>'.
            "\n".
            '<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main">'.
            '<dimension ref="A1:'.
            self::column(max(0, $widest - 1)).
            $number.
            '"/>'.
            self::look($widths).
            '<sheetData>'.
            $xml.
            "</sheetData>$merges</worksheet>",
        ];
    }

    public function save(): void
    {
        @unlink($this->path);
        $zip = new ZipArchive();
        $zip->open($this->path, ZipArchive::CREATE);
        $head = '<?xml version="1.0" encoding="UTF-8" standalone="yes"?>'."\n";
        $main = 'http://schemas.openxmlformats.org/spreadsheetml/2006/main';
        $rel = 'http://schemas.openxmlformats.org/officeDocument/2006/relationships';
        $parts = [
            '[Content_Types].xml' => '<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/>'.
                '<Override PartName="/xl/workbook.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml"/><Override PartName="/xl/styles.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.styles+xml"/><Override PartName="/xl/sharedStrings.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.sharedStrings+xml"/>'.
                implode(
                    '',
                    array_map(
                        fn ($i) => '<Override PartName="/xl/worksheets/sheet'.
                            ($i + 1).
                            '.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.worksheet+xml"/>',
                        array_keys($this->sheets),
                    ),
                ).
                '</Types>',
            '_rels/.rels' => "<Relationships xmlns=\"http://schemas.openxmlformats.org/package/2006/relationships\"><Relationship Id=\"rId1\" Type=\"$rel/officeDocument\" Target=\"xl/workbook.xml\"/></Relationships>",
            'xl/workbook.xml' => "<workbook xmlns=\"$main\" xmlns:r=\"$rel\"><sheets>".
                implode(
                    '',
                    array_map(
                        fn ($s, $i) => '<sheet name="'.
                            htmlspecialchars(rtrim($s[0], "\0"), ENT_XML1 | ENT_QUOTES).
                            '" sheetId="'.
                            ($i + 1).
                            '"'.
                            (str_ends_with($s[0], "\0") ? ' state="hidden"' : '').
                            ' r:id="rId'.
                            ($i + 1).
                            '"/>',
                        $this->sheets,
                        array_keys($this->sheets),
                    ),
                ).
                '</sheets></workbook>',
            'xl/_rels/workbook.xml.rels' => '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">'.
                implode(
                    '',
                    array_map(
                        fn ($i) => '<Relationship Id="rId'.
                            ($i + 1).
                            "\" Type=\"$rel/worksheet\" Target=\"worksheets/sheet".
                            ($i + 1).
                            '.xml"/>',
                        array_keys($this->sheets),
                    ),
                ).
                "<Relationship Id=\"rIdS\" Type=\"$rel/styles\" Target=\"styles.xml\"/><Relationship Id=\"rIdT\" Type=\"$rel/sharedStrings\" Target=\"sharedStrings.xml\"/></Relationships>",
            'xl/styles.xml' => "<styleSheet xmlns=\"$main\"><numFmts count=\"2\"><numFmt numFmtId=\"164\" formatCode=\"dd/mm/yyyy\"/><numFmt numFmtId=\"165\" formatCode=\"#,##0.00\"/></numFmts><fonts count=\"2\"><font/><font><b/></font></fonts><fills count=\"2\"><fill><patternFill patternType=\"none\"/></fill><fill><patternFill patternType=\"gray125\"/></fill></fills><borders count=\"1\"><border/></borders><cellStyleXfs count=\"1\"><xf/></cellStyleXfs>".
                '<cellXfs count="6"><xf numFmtId="0"/><xf numFmtId="164" applyNumberFormat="1"/><xf numFmtId="165" applyNumberFormat="1"/><xf numFmtId="9" applyNumberFormat="1"/><xf numFmtId="49" fontId="1" applyFont="1"/><xf numFmtId="49" applyAlignment="1"><alignment wrapText="1" vertical="top"/></xf></cellXfs><cellStyles count="1"><cellStyle name="Normal" xfId="0" builtinId="0"/></cellStyles></styleSheet>',
            'xl/sharedStrings.xml' => "<sst xmlns=\"$main\" uniqueCount=\"".
                count($this->strings).
                '">'.
                implode(
                    '',
                    array_map(
                        fn ($s) => '<si><t xml:space="preserve">'.self::text((string) $s).'</t></si>',
                        array_keys($this->strings),
                    ),
                ).
                '</sst>',
        ];
        foreach ($this->sheets as $i => [, $xml]) {
            $parts['xl/worksheets/sheet'.($i + 1).'.xml'] = substr($xml, strlen($head));
        }
        foreach ($parts as $name => $xml) {
            $zip->addFromString($name, $head.$xml);
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
            'text', 'head', 'wrapped' => "<c r=\"$at\"".
                match ($kind) {
                    'head' => ' s="4"',
                    'wrapped' => ' s="5"',
                    default => '',
                }.
                ' t="s"><v>'.
                ($this->strings[(string) $value] ??= count($this->strings)).
                '</v></c>',
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
            : '<sheetViews><sheetView workbookViewId="0"><pane ySplit="1" topLeftCell="A2" activePane="bottomLeft" state="frozen"/></sheetView></sheetViews><cols>'.
                    implode(
                        '',
                        array_map(
                            fn ($w, $i) => '<col min="'.
                                ($i + 1).
                                '" max="'.
                                ($i + 1).
                                "\" width=\"$w\" customWidth=\"1\"/>",
                            $widths,
                            array_keys($widths),
                        ),
                    ).
                    '</cols>';
    }

    /** 0 → A, 25 → Z, 26 → AA, 702 → AAA. */
    private static function column(int $i): string
    {
        return ($i < 26 ? '' : self::column(intdiv($i, 26) - 1)).chr(65 + ($i % 26));
    }
}
