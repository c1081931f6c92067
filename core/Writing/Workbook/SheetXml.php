<?php

namespace Baggage\Core\Writing\Workbook;

use Baggage\Core\Reading\Layout;

/**
 * A sheet's part (ECMA-376, part 1, 18.3.1), written from its head to its end without holding its rows. All cells are texts within
 * themselves: a text is never run as a formula, and keeps its leading zeros.
 */
final class SheetXml
{
    private int $row = 0;

    /** @var array<int, string> of the columns */
    private array $letters = [];

    /** @var array<string, list<string>> formula → ranges of cells */
    private array $choices = [];

    private int $choicesMade = 0;

    /** Lists of choices a sheet may have (as programs that open such files have it, value from memory). */
    private const MOST_CHOICES = 60_000;

    /**
     * @param  list<float>  $widths  of its columns, in characters
     * @param  int  $frozen  rows at its top that stay in sight
     */
    public function head(array $widths, int $frozen = 1): string
    {
        $cols = '';
        foreach ($widths as $i => $width) {
            $cols .= sprintf('<col min="%d" max="%1$d" width="%.1F" style="1" customWidth="1"/>', $i + 1, $width);
            $this->letters[] = Layout::letters($i + 1);
        }
        $pane = $frozen === 0 ? '' : sprintf(
            '<pane ySplit="%d" topLeftCell="A%d" activePane="bottomLeft" state="frozen"/><selection pane="bottomLeft"/>',
            $frozen,
            $frozen + 1,
        );

        return '<?xml version="1.0" encoding="UTF-8" standalone="yes"?>'."\n"
            .'<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main">'
            ."<sheetViews><sheetView workbookViewId=\"0\">$pane</sheetView></sheetViews>"
            .($cols === '' ? '' : "<cols>$cols</cols>").'<sheetData>';
    }

    /**
     * @param  list<string|null>  $cells  null for one that is not written
     * @param  array<int, CellStyle>  $styles  by column, from 0; others are text
     */
    public function row(array $cells, array $styles = []): string
    {
        $n = ++$this->row;
        $row = "<row r=\"$n\">";
        foreach ($cells as $i => $cell) {
            if ($cell === null) {
                continue;
            }
            $at = ($this->letters[$i] ??= Layout::letters($i + 1)).$n;
            $style = isset($styles[$i]) ? $styles[$i]->value : 1;
            if ($cell === '') {
                $row .= "<c r=\"$at\" s=\"$style\"/>";

                continue;
            }
            $text = Xml::text(strlen($cell) > Xml::MOST ? mb_substr($cell, 0, Xml::MOST) : $cell);
            $space = trim($text) === $text && ! str_contains($text, "\n") ? '' : ' xml:space="preserve"';
            $row .= "<c r=\"$at\" s=\"$style\" t=\"inlineStr\"><is><t$space>$text</t></is></c>";
        }

        return "$row</row>";
    }

    public function rows(): int
    {
        return $this->row;
    }

    /**
     * A cell of the row written last takes one of some values; others may be typed all the same, after a question.
     *
     * @param  string  $from  range they stand in, Codes!$A$2:$A$9 for instance
     */
    public function choice(int $column, string $from): void
    {
        if ($this->choicesMade < self::MOST_CHOICES) {
            $this->choices[$from][] = Layout::letters($column + 1).$this->row;
            $this->choicesMade++;
        }
    }

    /** @param  int  $columns  that can be filtered; 0 for none */
    public function foot(int $columns): string
    {
        $filter = $columns === 0 || $this->row === 0 ? '' : '<autoFilter ref="A1:'.Layout::letters($columns).$this->row.'"/>';
        $lists = '';
        $n = 0;
        foreach ($this->choices as $from => $cells) {
            foreach (array_chunk(self::ranges($cells), 500) as $some) {
                $lists .= '<dataValidation type="list" errorStyle="warning" allowBlank="1" showErrorMessage="1" sqref="'
                    .implode(' ', $some).'"><formula1>'.Xml::text($from).'</formula1></dataValidation>';
                $n++;
            }
        }

        return "</sheetData>$filter".($n === 0 ? '' : "<dataValidations count=\"$n\">$lists</dataValidations>").'</worksheet>';
    }

    /**
     * Cells that stand below each other as one range.
     *
     * @param  list<string>  $cells
     * @return list<string>
     */
    private static function ranges(array $cells): array
    {
        $ranges = [];
        $last = null;
        foreach ($cells as $cell) {
            preg_match('/^([A-Z]+)(\d+)$/', $cell, $m);
            [$letters, $row] = [$m[1] ?? '', (int) ($m[2] ?? 0)];
            if ($last !== null && $last[0] === $letters && $last[2] === $row - 1) {
                $last[2] = $row;
                $ranges[count($ranges) - 1] = "$letters$last[1]:$letters$row";
            } else {
                $last = [$letters, $row, $row];
                $ranges[] = $cell;
            }
        }

        return $ranges;
    }
}
