<?php

namespace App\View;

use App\Models\Load;
use Baggage\Core\Ordering\Reference;

/** Where the plates and wires of the order chart lie. */
final class OrderChart
{
    public const PLATE_WIDTH = 150;

    private const COLUMN = 240;

    private const PLATE_GAP = 22;

    /** @var array<string, array{x: int, y: int, h: int, loads: list<Load>}> entity → plate */
    public array $plates = [];

    /** @var list<array{path: string, late: bool, from: string, to: string, field: string, end: array{int, int}}> */
    public array $wires = [];

    public int $width;

    public int $height;

    public function __construct(Page $page)
    {
        $order = $page->definitions->order();
        $column = [];
        foreach ($page->definitions->loads()->groupBy(fn (Load $l) => $l->entity->name) as $entity => $loads) {
            $wave = $order->waves[$entity];
            $h = 30 + 20 * $loads->count();
            $y = $column[$wave] ?? 46;
            $this->plates[$entity] = ['x' => 20 + ($wave - 1) * self::COLUMN, 'y' => $y, 'h' => $h, 'loads' => array_values($loads->all())];
            $column[$wave] = $y + $h + self::PLATE_GAP;
        }
        $waves = $order->waves === [] ? 1 : max($order->waves);
        $lane = 0;
        $below = ($column === [] ? 60 : max($column)) + 6;
        foreach ($order->kept as $reference) {
            $this->wires[] = $this->wire($reference, false, 0);
        }
        foreach ($order->deferred as $reference) {
            $this->wires[] = $this->wire($reference, true, $below + 26 * $lane++);
        }
        $this->width = 40 + $waves * self::COLUMN;
        $this->height = $below + 26 * $lane + 10;
    }

    /** @return array{path: string, late: bool, from: string, to: string, field: string, end: array{int, int}} */
    private function wire(Reference $r, bool $late, int $lane): array
    {
        $parent = $this->plates[$r->parent];
        $child = $this->plates[$r->child];
        if (! $late) {
            $x1 = $parent['x'] + self::PLATE_WIDTH;
            $y1 = $parent['y'] + intdiv($parent['h'], 2);
            $x2 = $child['x'] - 8;
            $y2 = $child['y'] + 15 + (crc32($r->field) % 5) * 4;
            $middle = intdiv($x1 + $x2, 2);
            $path = "M$x1 $y1 C$middle $y1 $middle $y2 $x2 $y2";

            return ['path' => $path, 'late' => false, 'from' => $r->parent, 'to' => $r->child, 'field' => $r->field, 'end' => [$x2, $y2]];
        }
        // A deferred reference runs below everything, back to the plate that waits for it.
        $x1 = $parent['x'] + self::PLATE_WIDTH - 20;
        $y1 = $parent['y'] + $parent['h'];
        $x2 = $child['x'] + 20;
        $y2 = $child['y'] + $child['h'] + 8;

        return ['path' => "M$x1 $y1 V$lane H$x2 V$y2", 'late' => true, 'from' => $r->parent, 'to' => $r->child, 'field' => $r->field, 'end' => [$x2, $y2]];
    }
}
