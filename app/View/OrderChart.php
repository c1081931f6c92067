<?php

namespace App\View;

use App\Catalogue\Definitions;
use App\Models\Load;
use Baggage\Core\Ordering\Reference;

/** Where the plates and wires of the order chart lie. */
final class OrderChart
{
    public const PLATE_WIDTH = 172;

    private const COLUMN = 262;

    private const PLATE_GAP = 22;

    /** @var array<string, OrderPlate> by entity */
    public array $plates = [];

    /** @var list<Wire> */
    public array $wires = [];

    public int $width;

    public int $height;

    private function __construct()
    {
    }

    public static function of(Definitions $definitions): self
    {
        $chart = new self;
        $chart->lay($definitions);

        return $chart;
    }

    private function lay(Definitions $definitions): void
    {
        $order = $definitions->order();
        $column = [];
        foreach ($definitions->loads()->groupBy(fn (Load $l) => $l->entity->name) as $entity => $loads) {
            $wave = $order->waves[$entity];
            $h = 30 + 20 * $loads->count();
            $y = $column[$wave] ?? 70;
            $this->plates[$entity] = new OrderPlate(20 + ($wave - 1) * self::COLUMN, $y, $h, array_values($loads->all()));
            $column[$wave] = $y + $h + self::PLATE_GAP;
        }
        $waves = $order->waves === [] ? 1 : max($order->waves);
        $lane = $over = 0;
        $below = ($column === [] ? 60 : max($column)) + 6;
        foreach ($order->kept as $reference) {
            $far = $order->waves[$reference->child] - $order->waves[$reference->parent] > 1;
            $this->wires[] = $this->wire($reference, $far ? 42 + 7 * ($over++ % 3) : null);
        }
        foreach ($order->deferred as $reference) {
            $this->wires[] = $this->deferred($reference, $below + 26 * $lane++);
        }
        $this->width = 40 + $waves * self::COLUMN;
        $this->height = $below + 26 * $lane + 10;
    }

    /** @param  int|null  $over  height of the lane above the plates, for a reference that passes over a wave */
    private function wire(Reference $r, ?int $over): Wire
    {
        $parent = $this->plates[$r->parent];
        $child = $this->plates[$r->child];
        $x1 = $parent->x + self::PLATE_WIDTH;
        $y1 = $parent->y + intdiv($parent->height, 2);
        $x2 = $child->x - 8;
        $y2 = $child->y + 14 + (crc32($r->field) % 5) * 5;
        $middle = intdiv($x1 + $x2, 2);
        $path = $over === null
            ? "M$x1 $y1 C$middle $y1 $middle $y2 $x2 $y2"
            : "M$x1 $y1 C".($x1 + 40)." $y1 ".($x1 + 20)." $over ".($x1 + 66)." $over H".($x2 - 60).' C'
                .($x2 - 20)." $over ".($x2 - 36)." $y2 $x2 $y2";

        return new Wire($r, $path, [$x2, $y2]);
    }

    /** A deferred reference runs below everything, back to the plate that waits for it. */
    private function deferred(Reference $r, int $lane): Wire
    {
        $parent = $this->plates[$r->parent];
        $child = $this->plates[$r->child];
        $x1 = $parent->x + self::PLATE_WIDTH;
        $y1 = $parent->y + $parent->height - 10;
        $x2 = $child->x - 8;
        $y2 = $child->y + $child->height - 8;

        return new Wire($r, "M$x1 $y1 h14 V$lane H".($x2 - 8)." V$y2 H$x2", [$x2, $y2], [$x2 + 4, $lane - 5]);
    }
}
