<?php

namespace App\Files;

use Baggage\Core\Reading\ReadingError;
use Baggage\Core\Reading\Remark;
use Baggage\Core\Rows\RowSet;
use Baggage\Core\Writing\AnswerColumns;

/** What was odd in a file that came back, and which rows of it were met. */
final class AnswerNotes
{
    /** Places told of one kind. */
    private const TOLD = 20;

    public int $rows = 0;

    /** Rows no file of ours has, although their reference looks like one. */
    public int $unknown = 0;

    /** @var list<string> sheets without our columns */
    public array $others = [];

    /** @var array<string, array{int, list<string>}> kind → how many, and where the first of them are */
    private array $places = [];

    /** @var array<string, list<string>> sheet → titles */
    private array $missing = [];

    /** @var array<string, list<string>> */
    private array $extra = [];

    /** @var list<string> */
    private array $remarks = [];

    /** @var array<int, RowSet> load → rows that were met */
    private array $met = [];

    /** @return bool whether the row is met for the first time */
    public function first(int $load, int $row): bool
    {
        $isFirst = ($this->met[$load] ??= new RowSet)->add($row);
        $this->rows += $isFirst ? 1 : 0;

        return $isFirst;
    }

    public function unreferenced(string $sheet, int $line, string $reference): void
    {
        $this->place($reference === '' ? 'added' : 'damaged', $sheet, $line);
    }

    public function elsewhere(string $sheet, int $line): void
    {
        $this->place('elsewhere', $sheet, $line);
    }

    public function twice(string $sheet, int $line): void
    {
        $this->place('twice', $sheet, $line);
    }

    public function columns(string $sheet, AnswerColumns $columns): void
    {
        $this->missing += $columns->missing === [] ? [] : [$sheet => $columns->missing];
        $this->extra += $columns->unknown === [] ? [] : [$sheet => $columns->unknown];
    }

    /** @throws ReadingError for what makes cells look empty that nobody emptied */
    public function remark(string $sheet, Remark $remark): void
    {
        if ($remark->code === 'merged_cells') {
            throw ReadingError::broken("Cells of the sheet \"$sheet\" are merged, so that only the first of each still says something. "
                .'Unmerge them, fill them, and send the file again.');
        }
        if ($remark->code === 'formulas' && str_contains($remark->message, ' have none')) {
            throw ReadingError::broken("Cells of the sheet \"$sheet\" hold formulas without their results. Put values in their place, "
                .'and send the file again.');
        }
        // What is cut off has lost its reference, and is told as a row without one.
        if (in_array($remark->code, ['cut_off', 'formulas', 'hidden_rows', 'hidden_columns', 'error_cells', 'hidden_sheet'], true)) {
            $this->remarks[] = "$sheet: $remark->message";
        }
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return [
            'rows' => $this->rows, 'unknown' => $this->unknown, 'others' => $this->others, 'places' => $this->places,
            'missing' => $this->missing, 'extra' => $this->extra, 'odd' => $this->remarks,
        ];
    }

    private function place(string $kind, string $sheet, int $line): void
    {
        [$n, $first] = $this->places[$kind] ?? [0, []];
        $this->places[$kind] = [$n + 1, count($first) < self::TOLD ? [...$first, "$sheet, row ".number_format($line)] : $first];
    }
}
