<?php

namespace App\View;

use App\Models\ColumnReference;
use Baggage\Core\Ordering\Levels;

/** Extracts as plates, parents left of what hangs on them, references as lines. */
final readonly class ReferenceChart
{
    public const WIDTH = 178;

    public const HEIGHT = 42;

    /** @var list<array{id: int, name: string, code: string, rows: int, x: int, y: int}> */
    public array $plates;

    /** @var list<array{from: int, to: int, path: string, orphans: int, accepted: bool, label: string, x: int, y: int}> */
    public array $lines;

    public int $width;

    public int $height;

    /** @param  array<int, ColumnReference>  $references */
    public function __construct(array $references)
    {
        $references = array_filter($references, fn (ColumnReference $r) => $r->decision !== 'dismissed');
        $extracts = $edges = [];
        foreach ($references as $r) {
            $extracts[$r->parent_extract_id] = $r->parent;
            $extracts[$r->extract_id] = $r->extract;
            if ($r->extract_id !== $r->parent_extract_id) {
                $edges[$r->extract_id][] = $r->parent_extract_id;
            }
        }
        $levels = Levels::of(array_keys($extracts), $edges);
        $columns = $places = [];
        foreach ($levels as $id => $level) {
            $columns[$level][] = $id;
        }
        ksort($columns);
        $plates = [];
        foreach ($columns as $level => $ids) {
            foreach ($ids as $n => $id) {
                $places[$id] = [10 + $level * (self::WIDTH + 66), 10 + $n * (self::HEIGHT + 18)];
                $plates[] = [
                    'id' => $id,
                    'name' => $extracts[$id]->name,
                    'code' => (string) $extracts[$id]->source?->code,
                    'rows' => (int) $extracts[$id]->take?->rows,
                    'x' => $places[$id][0],
                    'y' => $places[$id][1],
                ];
            }
        }
        $lines = $out = [];
        foreach ($references as $r) {
            [$cx, $cy] = $places[$r->extract_id];
            [$px, $py] = $places[$r->parent_extract_id];
            $self = $r->extract_id === $r->parent_extract_id;
            $n = $self ? 0 : ($out[$r->extract_id] = ($out[$r->extract_id] ?? 0) + 1);
            $from = $cy + min(self::HEIGHT - 4, $n * 12 - 2);
            $to = $py + intdiv(self::HEIGHT, 2);
            [$right, $x] = [$px + self::WIDTH, $cx - 4];
            if ($self) {
                $path = sprintf(
                    'M%d %d C %d %d, %d %d, %d %d',
                    $right,
                    $py + 10,
                    $right + 30,
                    $py + 2,
                    $right + 30,
                    $py + self::HEIGHT - 2,
                    $right,
                    $py + self::HEIGHT - 10,
                );
                [$x, $from] = [$right + 26, $py + self::HEIGHT - 2];
            } elseif ($px < $cx) {
                $path = sprintf(
                    'M%d %d C %d %d, %d %d, %d %d',
                    $cx,
                    $from,
                    $cx - 36,
                    $from,
                    $right + 36,
                    $to,
                    $right + 2,
                    $to,
                );
            } else {
                // Closes a circle: out of the right side, into the parent's lower left corner.
                [$x, $from] = [$cx + self::WIDTH + 22, $cy + self::HEIGHT - 4];
                $path = sprintf(
                    'M%d %d C %d %d, %d %d, %d %d',
                    $cx + self::WIDTH,
                    $from,
                    $cx + self::WIDTH + 30,
                    $from + 14,
                    $px - 30,
                    $py + self::HEIGHT + 10,
                    $px,
                    $py + self::HEIGHT - 4,
                );
            }
            $lines[] = [
                'from' => $r->extract_id,
                'to' => $r->parent_extract_id,
                'path' => $path,
                'orphans' => $r->orphan_rows,
                'accepted' => $r->decision === 'accepted',
                'label' => implode(' + ', $r->columns)." of {$r->extract->name}",
                'x' => $x,
                'y' => $from + 4,
            ];
        }
        $this->plates = $plates;
        $this->lines = $lines;
        $this->width = $plates === [] ? 0 : max(array_column($plates, 'x')) + self::WIDTH + 36;
        $this->height = $plates === [] ? 0 : max(array_column($plates, 'y')) + self::HEIGHT + 14;
    }
}
