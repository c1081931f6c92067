<?php

namespace App\View;

use App\Overview\ListedLoad;
use App\View\Drawing\Board;
use App\View\Drawing\Edge;
use Baggage\Core\Ordering\LoadOrder;
use Baggage\Core\Ordering\Reference;
use Illuminate\Support\Collection;

/** Where the plates and wires of the order chart lie: waves as columns, references as lines from the parent to what needs it. */
final readonly class OrderChart
{
    public const PLATE_WIDTH = 172;

    /** Room for the names of the waves. */
    private const TOP = 44;

    /**
     * @param  array<string, OrderPlate>  $plates  by entity
     * @param  list<Wire>  $wires
     * @param  array<int, int>  $waves  number → where its plates begin
     */
    private function __construct(
        public array $plates,
        public array $wires,
        public array $waves,
        public int $width,
        public int $height,
    ) {
    }

    /** @param  Collection<int, ListedLoad>  $loads  in the order they run */
    public static function of(LoadOrder $order, Collection $loads): self
    {
        $nodes = [];
        $references = [...$order->kept, ...$order->deferred];
        $loops = collect($references)->filter(fn (Reference $r) => $r->child === $r->parent)->groupBy('child');
        $byEntity = $loads->groupBy('entity');
        foreach ($byEntity as $entity => $of) {
            $nodes[$entity] = [$order->waves[$entity] - 1, 34 + 18 * ($of->count() + ($loops->get($entity)?->count() ?? 0))];
        }
        $board = Board::of(
            $nodes,
            array_map(fn (Reference $r) => new Edge($r->parent, $r->child), $references),
            self::PLATE_WIDTH,
            self::TOP,
        );
        $plates = [];
        foreach ($board->boxes as $entity => $box) {
            $plates[(string) $entity] = new OrderPlate(
                $box,
                array_values($byEntity[$entity]->all()),
                array_values($loops->get($entity)?->pluck('field')->all() ?? []),
            );
        }
        $waves = [];
        foreach ($board->columns as $column => $x) {
            $waves[$column + 1] = $x;
        }

        return new self(
            $plates,
            array_map(
                fn (Reference $r, int $n) => new Wire($r, $board->lines[$n], $n >= count($order->kept)),
                $references,
                array_keys($references),
            ),
            $waves,
            $board->width,
            $board->height,
        );
    }
}
