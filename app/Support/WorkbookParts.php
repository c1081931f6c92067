<?php

namespace App\Support;

/** The parts of a workbook around its sheets (ECMA-376 part 1, 12 and 18; part 2, 10). */
final class WorkbookParts
{
    private const HEAD = '<?xml version="1.0" encoding="UTF-8" standalone="yes"?>'."\n";

    private const MAIN = 'http://schemas.openxmlformats.org/spreadsheetml/2006/main';

    private const OFFICE = 'http://schemas.openxmlformats.org/officeDocument/2006/relationships';

    private const PACKAGE = 'http://schemas.openxmlformats.org/package/2006';

    private const KIND = 'application/vnd.openxmlformats-officedocument.spreadsheetml';

    /**
     * @param  list<array{name: string, hidden: bool, xml: string}>  $sheets
     * @param  list<string>  $strings  as XML text
     * @return array<string, string> name of the part → its bytes
     */
    public static function of(array $sheets, array $strings): array
    {
        $parts = [
            '[Content_Types].xml' => self::contentTypes(count($sheets)),
            '_rels/.rels' => self::relationships(self::relationship('rId1', 'officeDocument', 'xl/workbook.xml')),
            'xl/workbook.xml' => self::workbook($sheets),
            'xl/_rels/workbook.xml.rels' => self::relationships(
                implode('', array_map(
                    fn (int $i) => self::relationship("rId$i", 'worksheet', "worksheets/sheet$i.xml"),
                    array_map(fn (int $i) => $i + 1, array_keys($sheets)),
                ))
                .self::relationship('rIdS', 'styles', 'styles.xml')
                .self::relationship('rIdT', 'sharedStrings', 'sharedStrings.xml'),
            ),
            'xl/styles.xml' => self::styles(),
            'xl/sharedStrings.xml' => self::strings($strings),
        ];
        foreach ($sheets as $i => $sheet) {
            $parts['xl/worksheets/sheet'.($i + 1).'.xml'] = '<worksheet xmlns="'.self::MAIN."\">$sheet[xml]</worksheet>";
        }

        return array_map(fn (string $xml) => self::HEAD.$xml, $parts);
    }

    private static function contentTypes(int $sheets): string
    {
        $kinds = ['workbook' => 'sheet.main', 'styles' => 'styles', 'sharedStrings' => 'sharedStrings'];
        for ($i = 1; $i <= $sheets; $i++) {
            $kinds["worksheets/sheet$i"] = 'worksheet';
        }
        $xml = '<Types xmlns="'.self::PACKAGE.'/content-types">'
            .'<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
            .'<Default Extension="xml" ContentType="application/xml"/>';
        foreach ($kinds as $part => $kind) {
            $xml .= "<Override PartName=\"/xl/$part.xml\" ContentType=\"".self::KIND.".$kind+xml\"/>";
        }

        return "$xml</Types>";
    }

    private static function relationships(string $all): string
    {
        return '<Relationships xmlns="'.self::PACKAGE."/relationships\">$all</Relationships>";
    }

    private static function relationship(string $id, string $kind, string $target): string
    {
        return "<Relationship Id=\"$id\" Type=\"".self::OFFICE."/$kind\" Target=\"$target\"/>";
    }

    /** @param  list<array{name: string, hidden: bool, xml: string}>  $sheets */
    private static function workbook(array $sheets): string
    {
        $xml = '<workbook xmlns="'.self::MAIN.'" xmlns:r="'.self::OFFICE.'"><sheets>';
        foreach ($sheets as $i => $sheet) {
            $number = $i + 1;
            $name = htmlspecialchars($sheet['name'], ENT_XML1 | ENT_QUOTES);
            $state = $sheet['hidden'] ? ' state="hidden"' : '';
            $xml .= "<sheet name=\"$name\" sheetId=\"$number\"$state r:id=\"rId$number\"/>";
        }

        return "$xml</sheets></workbook>";
    }

    /** In the order WorkbookFile counts them: plain, date, money, percent, head, wrapped. */
    private static function styles(): string
    {
        return '<styleSheet xmlns="'.self::MAIN.'"><numFmts count="2"><numFmt numFmtId="164" formatCode="dd/mm/yyyy"/>'
            .'<numFmt numFmtId="165" formatCode="#,##0.00"/></numFmts><fonts count="2"><font/><font><b/></font></fonts>'
            .'<fills count="2"><fill><patternFill patternType="none"/></fill><fill><patternFill patternType="gray125"/></fill></fills>'
            .'<borders count="1"><border/></borders><cellStyleXfs count="1"><xf/></cellStyleXfs><cellXfs count="6"><xf numFmtId="0"/>'
            .'<xf numFmtId="164" applyNumberFormat="1"/><xf numFmtId="165" applyNumberFormat="1"/><xf numFmtId="9" applyNumberFormat="1"/>'
            .'<xf numFmtId="49" fontId="1" applyFont="1"/>'
            .'<xf numFmtId="49" applyAlignment="1"><alignment wrapText="1" vertical="top"/></xf></cellXfs>'
            .'<cellStyles count="1"><cellStyle name="Normal" xfId="0" builtinId="0"/></cellStyles></styleSheet>';
    }

    /** @param  list<string>  $strings */
    private static function strings(array $strings): string
    {
        $all = implode('', array_map(fn (string $s) => "<si><t xml:space=\"preserve\">$s</t></si>", $strings));

        return '<sst xmlns="'.self::MAIN.'" uniqueCount="'.count($strings)."\">$all</sst>";
    }
}
