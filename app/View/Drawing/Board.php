<?php

namespace App\View\Drawing;

/**
 * Lays boxes out in columns and leads lines between them, so that no line runs behind a box, along another line, or through a number.
 * Upright pieces stand in the channels between columns, each in a track of its own; a line that passes a column gets a place in it like
 * a box; one that leads back runs below all of them. Level pieces keep apart because what leaves a box, what enters one and what passes
 * by lie on different rows of a grid. (The layers are those of Sugiyama, Tagawa and Toda, 1981; places in them by barycentres.)
 */
final class Board
{
    private const GRID = 16;

    private const TRACK = 8;

    private const MARGIN = 12;

    /** Between the last track of a channel and the boxes right of it, besides the widest number. */
    private const LEAD = 22;

    private const SWEEPS = 6;

    /** @var array<int|string, Box> by id */
    public array $boxes = [];

    /** @var list<Line> as the edges were given */
    public array $lines = [];

    /** @var array<int, int> column → where its boxes begin */
    public array $columns = [];

    public int $width = 0;

    public int $height = 0;

    /** @var array<int, list<int|string>> column → ids of boxes, and of places lines pass by ("edge:column"), from above */
    private array $order = [];

    /** @var array<int|string, int> top of each */
    private array $tops = [];

    /** @var array<int|string, int> */
    private array $heights = [];

    /** @var array<int, array{int, int}> edge → row it leaves by and row it enters by */
    private array $ports = [];

    /** @var array<int, int> edge that leads back → its row below all boxes */
    private array $below = [];

    /** @var array<int, array<int, int>> channel → edge → track */
    private array $tracks = [];

    /**
     * @param  array<int|string, array{int, int}>  $nodes  id → column (from 0) and height at least
     * @param  list<Edge>  $edges
     */
    private function __construct(
        private readonly array $nodes,
        private readonly array $edges,
        private readonly int $boxWidth,
        private readonly int $top,
    ) {
    }

    /**
     * @param  array<int|string, array{int, int}>  $nodes  id → column (from 0) and height at least
     * @param  list<Edge>  $edges  between them
     * @param  int  $top  room left above
     */
    public static function of(array $nodes, array $edges, int $boxWidth, int $top = self::GRID): self
    {
        $board = new self($nodes, $edges, $boxWidth, $top);
        if ($nodes !== []) {
            $board->arrange();
            $board->stack();
            $board->connect();
            $board->measure();
            $board->draw();
        }

        return $board;
    }

    private function column(int|string $id): int
    {
        return $this->nodes[$id][0];
    }

    private function isBack(Edge $edge): bool
    {
        return $edge->from !== $edge->to && $this->column($edge->from) >= $this->column($edge->to);
    }

    /** @return list<int|string> what an edge connects, column by column, with the places it passes by */
    private function stations(int $n): array
    {
        $edge = $this->edges[$n];
        if ($edge->from === $edge->to || $this->isBack($edge)) {
            return [$edge->from, $edge->to];
        }
        $between = [];
        for ($c = $this->column($edge->from) + 1; $c < $this->column($edge->to); $c++) {
            $between[] = "$n:$c";
        }

        return [$edge->from, ...$between, $edge->to];
    }

    /** Puts boxes and places of each column into an order with few crossings. */
    private function arrange(): void
    {
        foreach ($this->nodes as $id => [$column]) {
            $this->order[$column][] = $id;
        }
        $next = [];
        foreach (array_keys($this->edges) as $n) {
            $stations = $this->stations($n);
            foreach (array_slice($stations, 1, -1) as $place) {
                $this->order[(int) explode(':', (string) $place)[1]][] = $place;
            }
            for ($i = 1; $i < count($stations) && ! $this->isBack($this->edges[$n]); $i++) {
                $next[$stations[$i - 1]][] = $stations[$i];
                $next[$stations[$i]][] = $stations[$i - 1];
            }
        }
        ksort($this->order);
        $columns = array_keys($this->order);
        for ($sweep = 0; $sweep < self::SWEEPS; $sweep++) {
            foreach ($sweep % 2 === 0 ? array_slice($columns, 1) : array_slice(array_reverse($columns), 1) as $column) {
                $this->sort($column, $sweep % 2 === 0 ? -1 : 1, $next);
            }
        }
    }

    /** @param  array<int|string, list<int|string>>  $next */
    private function sort(int $column, int $beside, array $next): void
    {
        $places = array_flip($this->order[$column + $beside] ?? []);
        $weights = [];
        foreach ($this->order[$column] as $at => $id) {
            $of = array_values(array_filter(
                array_map(fn ($other) => $places[$other] ?? null, $next[$id] ?? []),
                fn (?int $place) => $place !== null,
            ));
            $weights[$id] = $of === [] ? $at : array_sum($of) / count($of);
        }
        usort($this->order[$column], fn ($a, $b) => $weights[$a] <=> $weights[$b]);
    }

    /** Heights by the lines that leave and enter, and tops one below the other. */
    private function stack(): void
    {
        $out = $in = [];
        foreach ($this->edges as $edge) {
            $out[$edge->from] = ($out[$edge->from] ?? 0) + ($edge->from === $edge->to ? 2 : 1);
            $in[$edge->to] = ($in[$edge->to] ?? 0) + ($edge->from === $edge->to ? 0 : 1);
        }
        foreach ($this->order as $ids) {
            $top = self::up($this->top);
            foreach ($ids as $id) {
                $lines = max(1 + ($out[$id] ?? 0), 1 + ($in[$id] ?? 0));
                $this->heights[$id] = isset($this->nodes[$id]) ? self::up(max($this->nodes[$id][1], self::GRID * $lines)) : self::GRID;
                $this->tops[$id] = $top;
                $top += $this->heights[$id] + self::GRID;
            }
        }
    }

    private static function up(int $n): int
    {
        return (int) ceil($n / self::GRID) * self::GRID;
    }

    /** Rows by which lines leave (multiples of the grid), enter (half a grid lower), and run below. */
    private function connect(): void
    {
        $out = $in = [];
        foreach ($this->edges as $n => $edge) {
            $stations = $this->stations($n);
            $isBack = $this->isBack($edge);
            $out[$edge->from][] = [$isBack ? PHP_INT_MAX : $this->tops[$stations[1]], $n, 0];
            $edge->from === $edge->to
                ? $out[$edge->from][] = [$this->tops[$edge->to], $n, 1]
                : $in[$edge->to][] = [$isBack ? PHP_INT_MAX : $this->tops[$stations[count($stations) - 2]], $n, 1];
        }
        foreach ([[$out, self::GRID], [$in, intdiv(self::GRID, 2)]] as [$sides, $first]) {
            foreach ($sides as $id => $lines) {
                sort($lines);
                foreach ($lines as $i => [, $n, $end]) {
                    $this->ports[$n][$end] = $this->tops[$id] + $first + self::GRID * $i;
                }
            }
        }
        $row = $this->lowest() + self::GRID;
        foreach ($this->edges as $n => $edge) {
            if ($this->isBack($edge)) {
                $this->below[$n] = $row;
                $row += self::GRID;
            }
        }
        $this->height = $row + self::MARGIN;
    }

    private function lowest(): int
    {
        return max(array_map(fn ($id) => $this->tops[$id] + $this->heights[$id], array_keys($this->tops)));
    }

    /** Where a line passes a column: rows of every other column differ, so that what leaves one never lies on what enters the next. */
    private function passes(string $place): int
    {
        return $this->tops[$place] + ((int) explode(':', $place)[1] % 2 === 0 ? 4 : 12);
    }

    /**
     * The upright pieces of an edge.
     *
     * @return list<array{int, int, int}> channel (left of the column of that number), from row, to row
     */
    private function uprights(int $n): array
    {
        $edge = $this->edges[$n];
        [$leaves, $enters] = $this->ports[$n];
        if ($edge->from === $edge->to) {
            return [[$this->column($edge->from) + 1, $leaves, $enters]];
        }
        if ($this->isBack($edge)) {
            return [
                [$this->column($edge->from) + 1, $leaves, $this->below[$n]],
                [$this->column($edge->to), $this->below[$n], $enters],
            ];
        }
        $pieces = [];
        $row = $leaves;
        foreach (array_slice($this->stations($n), 1) as $station) {
            $to = isset($this->nodes[$station]) ? $enters : $this->passes((string) $station);
            $pieces[] = [$this->column($edge->from) + 1 + count($pieces), $row, $to];
            $row = $to;
        }

        return $pieces;
    }

    /** Gives upright pieces their tracks, and columns their places. */
    private function measure(): void
    {
        $channels = [];
        foreach (array_keys($this->edges) as $n) {
            foreach ($this->uprights($n) as [$channel, $from, $to]) {
                $channels[$channel][] = [min($from, $to), max($from, $to), $n];
            }
        }
        $last = max(array_keys($this->order));
        $x = self::MARGIN;
        for ($c = 0; $c <= $last + 1; $c++) {
            $x += $this->loops($c) + self::TRACK * $this->fill($c, $channels[$c] ?? []);
            $x += $c > $last ? self::MARGIN : ($c === 0 && ! isset($channels[0]) ? 0 : self::LEAD + $this->widest($c));
            $this->columns[$c] = $x;
            $x += $c > $last ? 0 : $this->boxWidth;
        }
        $this->width = $x;
        unset($this->columns[$last + 1]);
        foreach (array_keys($this->nodes) as $id) {
            $this->boxes[$id] = new Box($this->columns[$this->column($id)], $this->tops[$id], $this->boxWidth, $this->heights[$id]);
        }
    }

    /**
     * @param  list<array{int, int, int}>  $pieces  top, bottom and edge
     * @return int tracks that are taken
     */
    private function fill(int $channel, array $pieces): int
    {
        sort($pieces);
        $ends = [];
        foreach ($pieces as [$top, $bottom, $n]) {
            $track = 0;
            while (isset($ends[$track]) && $ends[$track] >= $top - 2) {
                $track++;
            }
            $ends[$track] = $bottom;
            // An edge that leads back into the column it came from has two pieces, in two channels.
            $this->tracks[$channel][$n] = $track;
        }

        return count($ends) + ($ends === [] ? 0 : 1);
    }

    /** Width of the widest number before a column. */
    private function widest(int $column): int
    {
        $labels = array_map(
            fn (Edge $e) => $e->from !== $e->to && $this->column($e->to) === $column ? $e->label : 0,
            $this->edges,
        );

        return max([0, ...$labels]);
    }

    /** Width of the widest number on a line that leaves a box left of a channel and comes back to it. */
    private function loops(int $channel): int
    {
        $labels = array_map(
            fn (Edge $e) => $e->from === $e->to && $e->label > 0 && $this->column($e->to) === $channel - 1 ? $e->label + 4 : 0,
            $this->edges,
        );

        return max([0, ...$labels]);
    }

    private function trackX(int $channel, int $n): int
    {
        $left = $channel === 0 ? self::MARGIN : $this->columns[$channel - 1] + $this->boxWidth + $this->loops($channel);

        return $left + self::TRACK * ($this->tracks[$channel][$n] + 1);
    }

    private function draw(): void
    {
        foreach ($this->edges as $n => $edge) {
            [$leaves, $enters] = $this->ports[$n];
            $from = $this->boxes[$edge->from];
            $to = $this->boxes[$edge->to];
            $points = [[$from->right(), $leaves]];
            foreach ($this->uprights($n) as [$channel, $a, $b]) {
                $x = $this->trackX($channel, $n);
                array_push($points, [$x, $a], [$x, $b]);
            }
            $isLoop = $edge->from === $edge->to;
            $end = $isLoop ? $to->right() : $to->x;
            $points[] = [$end, $enters];
            $gap = $edge->label === 0 ? null
                : new Box($isLoop ? $end + 2 : $end - 12 - $edge->label, $enters - 7, $edge->label, 14);
            $this->lines[] = new Line($points, $gap);
        }
    }
}
