<?php

namespace Baggage\Core\Writing\Workbook;

/** The parts of a workbook besides its sheets (ECMA-376, part 1, 18.2 and 18.8; part 2 for the package). */
final class BookXml
{
    private const HEAD = '<?xml version="1.0" encoding="UTF-8" standalone="yes"?>'."\n";

    private const MAIN = 'http://schemas.openxmlformats.org/spreadsheetml/2006/main';

    private const OFFICE = 'http://schemas.openxmlformats.org/officeDocument/2006/relationships';

    private const PACKAGE = 'http://schemas.openxmlformats.org/package/2006';

    private const TYPES = 'application/vnd.openxmlformats-officedocument.spreadsheetml';

    /** Characters a sheet's name may have, and those it may not hold (as programs that open such files have it, value from memory). */
    private const NAME = 31;

    private const NOT_IN_NAMES = ['[', ']', ':', '*', '?', '/', '\\'];

    /**
     * @param  list<string>  $names  of the sheets; their parts are xl/worksheets/sheet1.xml and so on
     * @return array<string, string> name of a part → its text
     */
    public static function parts(array $names): array
    {
        $types = $sheets = $relations = '';
        foreach ($names as $i => $name) {
            $n = $i + 1;
            $types .= "<Override PartName=\"/xl/worksheets/sheet$n.xml\" ContentType=\"".self::TYPES.'.worksheet+xml"/>';
            $sheets .= '<sheet name="'.Xml::text($name)."\" sheetId=\"$n\" r:id=\"rId$n\"/>";
            $relations .= "<Relationship Id=\"rId$n\" Type=\"".self::OFFICE."/worksheet\" Target=\"worksheets/sheet$n.xml\"/>";
        }
        $styles = 'rId'.(count($names) + 1);

        return [
            '[Content_Types].xml' => self::HEAD.'<Types xmlns="'.self::PACKAGE.'/content-types">'
                .'<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
                .'<Default Extension="xml" ContentType="application/xml"/>'
                .'<Override PartName="/xl/workbook.xml" ContentType="'.self::TYPES.'.sheet.main+xml"/>'
                .'<Override PartName="/xl/styles.xml" ContentType="'.self::TYPES.'.styles+xml"/>'."$types</Types>",
            '_rels/.rels' => self::HEAD.'<Relationships xmlns="'.self::PACKAGE.'/relationships"><Relationship Id="rId1" Type="'
                .self::OFFICE.'/officeDocument" Target="xl/workbook.xml"/></Relationships>',
            'xl/workbook.xml' => self::HEAD.'<workbook xmlns="'.self::MAIN.'" xmlns:r="'.self::OFFICE
                ."\"><sheets>$sheets</sheets></workbook>",
            'xl/_rels/workbook.xml.rels' => self::HEAD.'<Relationships xmlns="'.self::PACKAGE."/relationships\">$relations"
                ."<Relationship Id=\"$styles\" Type=\"".self::OFFICE.'/styles" Target="styles.xml"/></Relationships>',
            'xl/styles.xml' => self::styles(),
        ];
    }

    /**
     * Names sheets may have, each once.
     *
     * @param  list<string>  $wanted
     * @return list<string>
     */
    public static function names(array $wanted): array
    {
        $names = [];
        foreach ($wanted as $name) {
            $name = trim(str_replace(self::NOT_IN_NAMES, ' ', $name), " '") ?: 'Sheet';
            $one = mb_substr($name, 0, self::NAME);
            for ($n = 2; in_array(mb_strtolower($one), array_map(mb_strtolower(...), $names), true); $n++) {
                $one = mb_substr($name, 0, self::NAME - strlen(" $n"))." $n";
            }
            $names[] = $one;
        }

        return $names;
    }

    /** The styles of CellStyle, in its order; number format 49 is text (18.8.30). */
    private static function styles(): string
    {
        $fill = fn (string $rgb) => '<fill><patternFill patternType="solid"><fgColor rgb="FF'.$rgb.'"/></patternFill></fill>';
        $style = fn (int $font, int $fill) => '<xf numFmtId="49" fontId="'.$font.'" fillId="'.$fill.'" borderId="0" xfId="0" '
            .'applyNumberFormat="1" applyFont="1" applyFill="1" applyAlignment="1"><alignment vertical="top"/></xf>';

        return self::HEAD.'<styleSheet xmlns="'.self::MAIN.'"><fonts count="2"><font><sz val="11"/></font>'
            .'<font><b/><sz val="11"/></font></fonts><fills count="5"><fill><patternFill patternType="none"/></fill>'
            .'<fill><patternFill patternType="gray125"/></fill>'.$fill('E8ECEE').$fill('F4F5F6').$fill('FFF0B3').'</fills>'
            .'<borders count="1"><border><left/><right/><top/><bottom/><diagonal/></border></borders>'
            .'<cellStyleXfs count="1"><xf numFmtId="0" fontId="0" fillId="0" borderId="0"/></cellStyleXfs><cellXfs count="6">'
            .'<xf numFmtId="0" fontId="0" fillId="0" borderId="0" xfId="0"/>'
            .$style(0, 0).$style(1, 2).$style(0, 3).$style(0, 4).$style(1, 3)
            .'</cellXfs><cellStyles count="1"><cellStyle name="Normal" xfId="0" builtinId="0"/></cellStyles></styleSheet>';
    }
}
