<?php

namespace App\View;

use App\View\Drawing\Line;
use Baggage\Core\Ordering\Reference;

/** A reference in the order chart, from the parent to the record that needs it. */
final readonly class Wire
{
    /** @param  bool  $isLate  whether it is set after both records are there; only such a one bears its name */
    public function __construct(public Reference $reference, public Line $line, public bool $isLate)
    {
    }

    public function name(): string
    {
        return "{$this->reference->child}.{$this->reference->field}";
    }

    public function isLoop(): bool
    {
        return $this->reference->child === $this->reference->parent;
    }

    /**
     * Where its name begins: on its longest level piece.
     *
     * @return array{int, int}
     */
    public function nameAt(): array
    {
        $best = [$this->line->points[0], 0];
        for ($i = 1; $i < count($this->line->points); $i++) {
            [[$x, $y], [$u, $v]] = [$this->line->points[$i - 1], $this->line->points[$i]];
            if ($y === $v && abs($x - $u) > $best[1]) {
                $best = [[min($x, $u) + 12, $y], abs($x - $u)];
            }
        }

        return $best[0];
    }
}
