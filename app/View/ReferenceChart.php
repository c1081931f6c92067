<?php

namespace App\View;

use App\Models\ColumnReference;
use App\Models\Extract;
use App\Models\ReferenceDecision;
use App\View\Drawing\Board;
use App\View\Drawing\Edge;
use Baggage\Core\Ordering\Levels;

/** Extracts as plates, parents left of what hangs on them, references as lines with the number of their orphans. */
final readonly class ReferenceChart
{
    public const WIDTH = 148;

    private const HEIGHT = 44;

    /**
     * @param  list<ExtractPlate>  $plates
     * @param  list<ReferenceLine>  $lines
     */
    private function __construct(public array $plates, public array $lines, public int $width, public int $height)
    {
    }

    /** @param  array<int, ColumnReference>  $references */
    public static function of(array $references): self
    {
        $references = array_values(array_filter(
            $references,
            fn (ColumnReference $r) => $r->decision !== ReferenceDecision::Dismissed,
        ));
        /** @var array<int, Extract> $extracts */
        $extracts = $hangs = [];
        foreach ($references as $r) {
            $extracts[$r->parent_extract_id] = $r->parent;
            $extracts[$r->extract_id] = $r->extract;
            if ($r->extract_id !== $r->parent_extract_id) {
                $hangs[$r->extract_id][] = $r->parent_extract_id;
            }
        }
        $levels = Levels::of(array_keys($extracts), $hangs);
        $board = Board::of(
            array_map(fn (int $level) => [$level, self::HEIGHT], $levels),
            array_map(
                fn (ColumnReference $r) => new Edge($r->parent_extract_id, $r->extract_id, self::width((int) $r->orphan_rows)),
                $references,
            ),
            self::WIDTH,
        );

        return new self(
            array_map(fn (int $id) => new ExtractPlate($extracts[$id], $board->boxes[$id]), array_keys($board->boxes)),
            array_map(fn (ColumnReference $r, int $n) => new ReferenceLine($r, $board->lines[$n]), $references, array_keys($references)),
            $board->width,
            $board->height,
        );
    }

    /** Of a number on a line. */
    private static function width(int $orphans): int
    {
        return $orphans === 0 ? 0 : 8 + 7 * strlen(number_format($orphans));
    }
}
