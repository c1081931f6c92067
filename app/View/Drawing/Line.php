<?php

namespace App\View\Drawing;

/** A line of a drawing: level and upright pieces from one box to another. */
final readonly class Line
{
    /**
     * @param  list<array{int, int}>  $points
     * @param  Box|null  $gap  where its number stands, in a gap of the line just before it ends
     */
    public function __construct(public array $points, public ?Box $gap)
    {
    }

    /** Of SVG. */
    public function path(): string
    {
        $path = '';
        foreach ($this->points as $i => [$x, $y]) {
            $path .= ($i === 0 ? 'M' : 'L')."$x $y";
        }

        return $path;
    }

    /** @return array{int, int} */
    public function end(): array
    {
        return $this->points[count($this->points) - 1];
    }

    /** Of SVG: the head of an arrow where it ends. */
    public function head(): string
    {
        [$x, $y] = $this->end();
        $back = $this->points[count($this->points) - 2][0] < $x ? -8 : 8;

        return 'M'.($x + $back).' '.($y - 4)."L$x {$y}L".($x + $back).' '.($y + 4).'z';
    }
}
