<?php

namespace Baggage\Core\Reading\Workbook;

use Baggage\Core\Reading\Columns;
use Baggage\Core\Reading\LaidOut;
use Baggage\Core\Reading\Layout;
use Baggage\Core\Reading\ReadingError;
use Baggage\Core\Reading\Remark;
use Baggage\Core\Reading\Table;

/** One sheet of a workbook as a table. */
final class SheetTable implements Table
{
    private readonly LaidOut $table;

    public function __construct(
        private readonly SheetGrid $grid,
        private readonly WorkbookFormat $format,
        private readonly Layout $layout,
        private readonly bool $hidden,
    ) {
        $this->table = new LaidOut(
            $grid->getIterator(),
            $layout,
            fn (int $seen) => $grid->statedLast === null ? null : $seen + max(0, $grid->statedLast - $grid->lastRow),
            'by the range the sheet states',
            fn () => [],
            false,
        );
    }

    public function columns(): Columns
    {
        $columns = $this->table->columns();
        foreach ($this->format->views as $header => $view) {
            $column = $columns->find((string) $header)
                ?? throw ReadingError::broken(
                    "The sheet has no column \"$header\" whose cells could be taken as $view->value.",
                );
            $this->grid->views[$column->position + $this->layout->from - 1] = $view;
        }

        return $columns;
    }

    public function rows(): \Generator
    {
        $this->columns();
        yield from $this->table->rows();
    }

    public function sourceRows(): ?int
    {
        return $this->table->sourceRows();
    }

    public function countedBy(): string
    {
        return $this->table->countedBy();
    }

    public function remarks(): array
    {
        $g = $this->grid;

        return array_values(
            array_filter([
                ...$this->table->remarks(),
                $this->hidden ? new Remark('hidden_sheet', 'The sheet is hidden in the workbook.') : null,
                $g->formulas->count === 0
                    ? null
                    : new Remark(
                        'formulas',
                        Remark::say($g->formulas->count, 'cell holds a formula', 'cells hold formulas')
                            .'; what was read is the result stored when the workbook was last saved'
                            .($g->formulasWithoutResult === 0
                                ? '.'
                                : ', and '.number_format($g->formulasWithoutResult).' of them have none.'),
                        $g->formulas->count,
                        $g->formulas->rows,
                        null,
                        true,
                    ),
                $g->errors->count === 0
                    ? null
                    : new Remark(
                        'error_cells',
                        Remark::say($g->errors->count, 'cell shows an error', 'cells show an error').' such as #N/A.',
                        $g->errors->count,
                        $g->errors->rows,
                        null,
                        true,
                    ),
                $g->merged === 0
                    ? null
                    : new Remark(
                        'merged_cells',
                        Remark::say(
                            $g->merged,
                            'range of cells is merged; only its first cell holds',
                            'ranges of cells are merged; only the first cell of each holds',
                        ).' the value.',
                        $g->merged,
                    ),
                $g->hiddenRows === 0
                    ? null
                    : new Remark(
                        'hidden_rows',
                        Remark::say(
                            $g->hiddenRows,
                            'row is hidden in the sheet; it was',
                            'rows are hidden in the sheet; they were',
                        ).' read all the same.',
                        $g->hiddenRows,
                    ),
                $g->hiddenColumns === 0
                    ? null
                    : new Remark(
                        'hidden_columns',
                        Remark::say(
                            $g->hiddenColumns,
                            'column is hidden in the sheet; it was',
                            'columns are hidden in the sheet; they were',
                        ).' read all the same.',
                        $g->hiddenColumns,
                    ),
                $g->statedLast !== null && $g->statedLast > $g->lastRow
                    ? new Remark(
                        'cut_off',
                        'The sheet states cells down to row '.number_format($g->statedLast)
                            .', and the last one read is row '.number_format($g->lastRow).'.',
                    )
                    : null,
            ]),
        );
    }
}
