<?php

namespace App\View;

use App\Models\ColumnReference;
use Baggage\Core\Ordering\Levels;

/** Extracts as plates, parents left of what hangs on them, references as lines. */
final readonly class ReferenceChart
{
    public const WIDTH = 190;

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
                $places[$id] = [10 + $level * (self::WIDTH + 70), 10 + $n * (self::HEIGHT + 16)];
                $plates[] = ['id' => $id, 'name' => $extracts[$id]->name, 'code' => (string) $extracts[$id]->source?->code, 'rows' => (int) $extracts[$id]->take?->rows, 'x' => $places[$id][0], 'y' => $places[$id][1]];
            }
        }
        $lines = $out = [];
        foreach ($references as $r) {
            [$cx, $cy] = $places[$r->extract_id];
            [$px, $py] = $places[$r->parent_extract_id];
            $n = $out[$r->extract_id] = ($out[$r->extract_id] ?? 0) + 1;
            $from = $cy + min(self::HEIGHT - 6, 6 + $n * 7);
            $to = $py + self::HEIGHT / 2;
            $path = $r->extract_id === $r->parent_extract_id
                ? sprintf('M%d %d C %d %d, %d %d, %d %d', $px + self::WIDTH, $py + 12, $px + self::WIDTH + 36, $py, $px + self::WIDTH + 36, $py + self::HEIGHT, $px + self::WIDTH, $py + self::HEIGHT - 8)
                : sprintf('M%d %d C %d %d, %d %d, %d %d', $cx, $from, $cx - 40, $from, $px + self::WIDTH + 40, $to, $px + self::WIDTH + 2, $to);
            $lines[] = ['from' => $r->extract_id, 'to' => $r->parent_extract_id, 'path' => $path, 'orphans' => $r->orphan_rows, 'accepted' => $r->decision === 'accepted',
                'label' => implode(' + ', $r->columns), 'x' => $cx - 6, 'y' => $from - 3];
        }
        $this->plates = $plates;
        $this->lines = $lines;
        $this->width = $plates === [] ? 0 : max(array_column($plates, 'x')) + self::WIDTH + 60;
        $this->height = $plates === [] ? 0 : max(array_column($plates, 'y')) + self::HEIGHT + 14;
    }
}
