<?php

namespace App\View;

use App\Models\Pass;
use App\Models\PassLoad;
use App\Overview\ListedLoad;

/** When each load of a pass was worked on: loads as lines below each other by wave, time to the right. */
final readonly class Timetable
{
    public const ROW = 20;

    public const NAMES = 220;

    public const WIDTH = 690;

    private const TOP = 24;

    /** Marks of time there are at least. */
    private const MARKS = 4;

    /**
     * @param  list<array{name: string, entity: string, wave: int, y: int, x: float, width: float, title: string, isGoing: bool}>  $bars
     * @param  list<array{x: float, label: string}>  $marks
     */
    private function __construct(public array $bars, public array $marks, public int $height)
    {
    }

    /** Null while no load has begun. */
    public static function of(Page $page, Pass $pass): ?self
    {
        $loads = $pass->passLoads->filter(fn (PassLoad $l) => $l->began_at !== null)->values();
        if ($loads->isEmpty()) {
            return null;
        }
        $from = (float) $loads->min(fn (PassLoad $l) => $l->began_at?->getPreciseTimestamp(3));
        $to = (float) $loads->max(fn (PassLoad $l) => ($l->ended_at ?? $l->began_at)?->getPreciseTimestamp(3));
        $long = max(1.0, $to - $from);
        $x = fn (float $at) => self::NAMES + ($at - $from) / $long * self::WIDTH;
        $bars = [];
        foreach ($loads as $n => $load) {
            $begins = (float) $load->began_at?->getPreciseTimestamp(3);
            $ends = (float) ($load->ended_at ?? $load->began_at)?->getPreciseTimestamp(3);
            $listed = $page->all()->get($load->load_id);
            $bars[] = [
                'name' => $listed->name ?? '',
                'entity' => $listed->entity ?? '',
                'wave' => $load->wave,
                'y' => self::TOP + self::ROW * $n,
                'x' => round($x($begins), 1),
                'width' => round(max(2, $x($ends) - $x($begins)), 1),
                'title' => self::title($load, $listed, ($ends - $begins) / 1000),
                'isGoing' => ! $load->state->isOver() && $pass->isGoing(),
            ];
        }

        return new self($bars, self::marks($long, $x, $from), self::TOP + self::ROW * count($bars) + 6);
    }

    private static function title(PassLoad $load, ?ListedLoad $listed, float $seconds): string
    {
        // Several workers are busy for longer than the clock says.
        $workers = $seconds > 1 ? (float) $load->seconds / $seconds : 1;

        return ($listed->name ?? '').': '.number_format($load->rows_done).' rows in '.number_format($seconds, 1).' s'
            .($workers >= 1.2 ? ', by '.number_format($workers, 1).' workers on average' : '');
    }

    /**
     * @param  \Closure(float): float  $x
     * @return list<array{x: float, label: string}>
     */
    private static function marks(float $long, \Closure $x, float $from): array
    {
        $steps = [100, 200, 500, 1_000, 2_000, 5_000, 10_000, 30_000, 60_000, 120_000, 300_000, 600_000, 1_800_000, 3_600_000, 7_200_000];
        $step = 14_400_000;
        foreach (array_reverse($steps) as $candidate) {
            if ($long / $step < self::MARKS) {
                $step = $candidate;
            }
        }
        $marks = [];
        for ($at = 0; $at <= $long; $at += $step) {
            $label = $step < 1_000 ? number_format($at / 1000, 1).' s' : PassProgress::time((int) ($at / 1000));
            $marks[] = ['x' => round($x($from + $at), 1), 'label' => $label];
        }

        return $marks;
    }
}
