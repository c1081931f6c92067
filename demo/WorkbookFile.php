<?php

namespace Demo;

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
     *                                                                                       date, money, percent, error or formula
     * @param  list<string>  $merged  ranges such as "A1:D1"
     */
    public function sheet(string $name, iterable $rows, array $merged = [], bool $hidden = false): void
    {
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
        $merges = $merged === [] ? '' : '<mergeCells count="'.count($merged).'">'.implode('', array_map(fn ($m) => "<mergeCell ref=\"$m\"/>", $merged)).'</mergeCells>';
        $this->sheets[] = [$name.($hidden ? "\0" : ''), '<?xml version="1.0" encoding="UTF-8" standalone="yes"?>'."\n".'<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main">'
            .'<dimension ref="A1:'.self::column(max(0, $widest - 1)).$number.'"/><sheetData>'.$xml."</sheetData>$merges</worksheet>"];
    }

    public function save(): void
    {
        @unlink($this->path);
        $zip = new ZipArchive;
        $zip->open($this->path, ZipArchive::CREATE);
        $head = '<?xml version="1.0" encoding="UTF-8" standalone="yes"?>'."\n";
        $main = 'http://schemas.openxmlformats.org/spreadsheetml/2006/main';
        $rel = 'http://schemas.openxmlformats.org/officeDocument/2006/relationships';
        $parts = ['[Content_Types].xml' => '<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/>'
            .'<Override PartName="/xl/workbook.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml"/><Override PartName="/xl/styles.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.styles+xml"/><Override PartName="/xl/sharedStrings.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.sharedStrings+xml"/>'
            .implode('', array_map(fn ($i) => '<Override PartName="/xl/worksheets/sheet'.($i + 1).'.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.worksheet+xml"/>', array_keys($this->sheets))).'</Types>',
            '_rels/.rels' => "<Relationships xmlns=\"http://schemas.openxmlformats.org/package/2006/relationships\"><Relationship Id=\"rId1\" Type=\"$rel/officeDocument\" Target=\"xl/workbook.xml\"/></Relationships>",
            'xl/workbook.xml' => "<workbook xmlns=\"$main\" xmlns:r=\"$rel\"><sheets>".implode('', array_map(fn ($s, $i) => '<sheet name="'.htmlspecialchars(rtrim($s[0], "\0"), ENT_XML1 | ENT_QUOTES).'" sheetId="'.($i + 1).'"'.(str_ends_with($s[0], "\0") ? ' state="hidden"' : '').' r:id="rId'.($i + 1).'"/>', $this->sheets, array_keys($this->sheets))).'</sheets></workbook>',
            'xl/_rels/workbook.xml.rels' => '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">'.implode('', array_map(fn ($i) => '<Relationship Id="rId'.($i + 1)."\" Type=\"$rel/worksheet\" Target=\"worksheets/sheet".($i + 1).'.xml"/>', array_keys($this->sheets)))
                ."<Relationship Id=\"rIdS\" Type=\"$rel/styles\" Target=\"styles.xml\"/><Relationship Id=\"rIdT\" Type=\"$rel/sharedStrings\" Target=\"sharedStrings.xml\"/></Relationships>",
            'xl/styles.xml' => "<styleSheet xmlns=\"$main\"><numFmts count=\"2\"><numFmt numFmtId=\"164\" formatCode=\"dd/mm/yyyy\"/><numFmt numFmtId=\"165\" formatCode=\"#,##0.00\"/></numFmts><fonts count=\"1\"><font/></fonts><fills count=\"1\"><fill/></fills><borders count=\"1\"><border/></borders><cellStyleXfs count=\"1\"><xf/></cellStyleXfs>"
                .'<cellXfs count="4"><xf numFmtId="0"/><xf numFmtId="164" applyNumberFormat="1"/><xf numFmtId="165" applyNumberFormat="1"/><xf numFmtId="9" applyNumberFormat="1"/></cellXfs></styleSheet>',
            'xl/sharedStrings.xml' => "<sst xmlns=\"$main\" uniqueCount=\"".count($this->strings).'">'.implode('', array_map(fn ($s) => '<si><t xml:space="preserve">'.htmlspecialchars((string) $s, ENT_XML1).'</t></si>', array_keys($this->strings))).'</sst>',
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
            'text' => "<c r=\"$at\" t=\"s\"><v>".($this->strings[(string) $value] ??= count($this->strings)).'</v></c>',
            'date' => "<c r=\"$at\" s=\"1\"><v>$value</v></c>",
            'money' => "<c r=\"$at\" s=\"2\"><v>$value</v></c>",
            'percent' => "<c r=\"$at\" s=\"3\"><v>$value</v></c>",
            'error' => "<c r=\"$at\" t=\"e\"><v>$value</v></c>",
            'formula' => "<c r=\"$at\"><f>ROW()</f><v>$value</v></c>",
            default => "<c r=\"$at\"><v>$value</v></c>",
        };
    }

    private static function column(int $i): string
    {
        return $i < 26 ? chr(65 + $i) : chr(64 + intdiv($i, 26)).chr(65 + $i % 26);
    }
}
