<?php

namespace Baggage\Core\Reading\Workbook;

use Baggage\Core\Reading\Columns;
use Baggage\Core\Reading\LaidOut;
use Baggage\Core\Reading\Layout;
use Baggage\Core\Reading\ReadingError;
use Baggage\Core\Reading\Remark;
use Baggage\Core\Reading\RowList;
use Baggage\Core\Reading\Table;

/** One sheet of a workbook as a table. */
final class SheetTable implements Table
{
    private function __construct(
        private readonly LaidOut $table,
        private readonly SheetGrid $grid,
        private readonly WorkbookFormat $format,
        private readonly Layout $layout,
        private readonly bool $hidden,
    ) {
    }

    public static function of(SheetGrid $grid, WorkbookFormat $format, Layout $layout, bool $hidden): self
    {
        $table = new LaidOut(
            $grid->getIterator(),
            $layout,
            fn (int $seen) => $grid->statedLast === null ? null : $seen + max(0, $grid->statedLast - $grid->lastRow),
            'by the range the sheet states',
            fn () => [],
            false,
        );

        return new self($table, $grid, $format, $layout, $hidden);
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
        return array_values(array_filter([
            ...$this->table->remarks(),
            $this->hidden ? new Remark('hidden_sheet', 'The sheet is hidden in the workbook.') : null,
            $this->formulas(),
            $this->inRows('error_cells', $this->grid->errors, 'cell shows an error', 'cells show an error', ' such as #N/A.'),
            $this->counted('merged_cells', $this->grid->merged, 'range of cells is merged; only its first cell holds',
                'ranges of cells are merged; only the first cell of each holds', ' the value.'),
            $this->counted('hidden_rows', $this->grid->hiddenRows, 'row is hidden in the sheet; it was',
                'rows are hidden in the sheet; they were', ' read all the same.'),
            $this->counted('hidden_columns', $this->grid->hiddenColumns, 'column is hidden in the sheet; it was',
                'columns are hidden in the sheet; they were', ' read all the same.'),
            $this->cutOff(),
        ]));
    }

    private function formulas(): ?Remark
    {
        $without = $this->grid->formulasWithoutResult;
        $says = '; what was read is the result stored when the workbook was last saved'
            .($without === 0 ? '.' : ', and '.number_format($without).' of them have none.');

        return $this->inRows('formulas', $this->grid->formulas, 'cell holds a formula', 'cells hold formulas', $says);
    }

    private function inRows(string $code, RowList $of, string $one, string $many, string $says): ?Remark
    {
        return $of->count === 0 ? null
            : new Remark($code, Remark::say($of->count, $one, $many).$says, $of->count, $of->rows, null, true);
    }

    private function counted(string $code, int $n, string $one, string $many, string $says): ?Remark
    {
        return $n === 0 ? null : new Remark($code, Remark::say($n, $one, $many).$says, $n);
    }

    private function cutOff(): ?Remark
    {
        $stated = $this->grid->statedLast;
        $last = $this->grid->lastRow;

        return $stated === null || $stated <= $last ? null : new Remark('cut_off', 'The sheet states cells down to row '
            .number_format($stated).', and the last one read is row '.number_format($last).'.');
    }
}
