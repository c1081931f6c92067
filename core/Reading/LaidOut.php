<?php

namespace Baggage\Core\Reading;

/** A table cut out of a grid of cells (text lines, a sheet) by its layout. */
final class LaidOut implements Table
{
    /** @var \Iterator<RawRow> */
    private readonly \Iterator $grid;

    private ?Columns $columns = null;

    private int $taken = 0;

    private int $atFoot = 0;

    private int $notTaken = 0;

    private readonly RowList $wrongWidth;

    private readonly RowList $blank;

    /**
     * @param  \Iterator<RawRow>  $grid
     * @param  \Closure(int): ?int  $count  data rows by the source's own count, known at the end, before the layout
     *                                       leaves any out; given the rows seen
     * @param  \Closure(): list<Remark>  $remarks  of the grid, known at the end
     * @param  bool  $ragged  whether a row with fewer cells than the header is a defect (text) or merely ends early (a sheet)
     * @param  list<string>|null  $names  headers, when the format itself states them
     */
    public function __construct(
        \Iterator $grid,
        private readonly Layout $layout,
        private readonly \Closure $count,
        private readonly string $countedBy,
        private readonly \Closure $remarks,
        private readonly bool $ragged = true,
        private readonly ?array $names = null,
    ) {
        $this->grid = $grid;
        $this->wrongWidth = new RowList;
        $this->blank = new RowList;
    }

    public function columns(): Columns
    {
        if ($this->columns !== null) {
            return $this->columns;
        }
        $this->grid->rewind();
        while (
            $this->grid->valid()
            && ($this->grid->current()->line <= $this->layout->skip
                || (! $this->ragged && $this->cells($this->grid->current()) === []))
        ) {
            $this->grid->next();
        }
        if (! $this->grid->valid()) {
            throw $this->layout->skip > 0 ? ReadingError::skipsAll($this->layout->skip) : ReadingError::empty();
        }
        $first = $this->cells($this->grid->current());
        if ($first === [] && $this->names === null) {
            throw ReadingError::broken('The sheet or text has no cells in these columns.');
        }
        if ($this->names !== null) {
            $this->columns = Columns::fromHeaders($this->names);
        } elseif ($this->layout->header) {
            $this->columns = Columns::fromHeaders(array_map(strval(...), $first));
        } else {
            $this->columns = Columns::numbered(count($first));
        }

        return $this->columns;
    }

    public function rows(): \Generator
    {
        $width = $this->columns()->count();
        if ($this->layout->header) {
            $this->grid->next();
        }
        $foot = $this->layout->foot;
        $most = $this->layout->count === null ? PHP_INT_MAX : $this->layout->count + $foot;
        $waiting = [];
        $seen = 0;
        $stopped = false;
        for (; $this->grid->valid(); $this->grid->next()) {
            $row = $this->cut($this->grid->current(), $width);
            if ($row === null) {
                $this->blank->add($this->taken + count($waiting));

                continue;
            }
            $early = ++$seen < $this->layout->start;
            if ($early || $this->taken + count($waiting) >= $most) {
                $this->notTaken++;
                $stopped = $stopped || ! $early;

                continue;
            }
            $waiting[] = $row;
            if (count($waiting) <= $foot) {
                continue;
            }
            $row = array_shift($waiting);
            $this->taken++;
            if (count($row->cells) !== $width) {
                $this->wrongWidth->add($this->taken);
            }
            yield $row;
        }
        $this->notTaken += $stopped ? count($waiting) : 0;
        $this->atFoot = $stopped ? 0 : count($waiting);
    }

    /** The stated columns of it; null for a row of a sheet that holds nothing (in text it has been passed over before). */
    private function cut(RawRow $row, int $width): ?RawRow
    {
        if ($this->ragged && $this->layout->from <= 1 && $this->layout->to === null) {
            return $row;
        }
        $cells = $this->cells($row);
        if ($this->ragged) {
            return new RawRow($row->line, $cells);
        }

        return $cells === [] ? null : new RawRow($row->line, array_pad($cells, $width, null));
    }

    public function sourceRows(): ?int
    {
        $count = ($this->count)($this->taken + $this->atFoot + $this->notTaken);

        return $count === null ? null : max(0, $count - $this->atFoot - $this->notTaken);
    }

    public function countedBy(): string
    {
        return $this->countedBy;
    }

    public function remarks(): array
    {
        $remarks = array_map(fn (string $r) => new Remark('header', $r), $this->columns()->remarks);
        $remarks[] = $this->remark(
            'ragged_rows',
            $this->wrongWidth->count,
            'row has more or fewer cells than the header; it is',
            'rows have more or fewer cells than the header; they are',
            ' kept as read, and what a load does with them is its reader\'s setting.',
            $this->wrongWidth->rows,
        );
        $remarks[] = $this->remark(
            'blank_rows',
            $this->blank->count,
            'row between the others holds nothing and is no row',
            'rows between the others hold nothing and are no rows',
            '.',
        );
        $remarks[] = $this->remark(
            'left_out',
            $this->notTaken,
            'row is outside',
            'rows are outside',
            ' the stated first row and number of rows.',
        );
        $remarks[] = $this->remark(
            'foot',
            $this->atFoot,
            'row at the foot is left',
            'rows at the foot are left',
            ' out as stated.',
        );

        return [...array_values(array_filter($remarks)), ...($this->remarks)()];
    }

    /** @param  list<int>  $rows */
    private function remark(string $code, int $count, string $one, string $many, string $end, array $rows = []): ?Remark
    {
        return $count === 0 ? null : new Remark($code, Remark::say($count, $one, $many).$end, $count, $rows);
    }

    /** @return list<string|null> */
    private function cells(RawRow $row): array
    {
        $cells = $row->cells;
        if ($this->layout->from > 1 || $this->layout->to !== null) {
            $cells = array_slice(
                $cells,
                $this->layout->from - 1,
                $this->layout->to === null ? null : $this->layout->to - $this->layout->from + 1,
            );
        }
        if (! $this->ragged) {
            while ($cells !== [] && ($cells[count($cells) - 1] === null || $cells[count($cells) - 1] === '')) {
                array_pop($cells);
            }
        }

        return $cells;
    }
}
