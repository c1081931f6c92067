<?php

namespace App\Ledger;

use App\Support\NamedLock;
use Baggage\Core\Loading\Portion;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;

/**
 * Which rows of a load are whose in a pass. A stretch stands from the moment a worker takes it until its rows are recorded; the worker
 * holds a named lock meanwhile, so a stretch whose lock is free is one a worker died over.
 */
final readonly class Stretches
{
    public const FREE = 'free';

    public const TURN = 'turn';

    /** Seconds a worker has to let rows go that it has recorded. */
    private const LETS_GO = 30;

    /** How far rows of each kind were taken. */
    private const CURSORS = [self::FREE => 'cursor_row', self::TURN => 'turn_row'];

    /** @param  int  $progress  number of the load's line in the pass */
    public function __construct(private int $progress)
    {
    }

    /**
     * @param  'free'|'turn'  $kind
     * @param  bool  $isAlone  whether only one worker at a time may be at rows of that kind
     * @param  \Closure(int): ?int  $end  the last row of the next stretch, told where it begins; null where nothing is left
     */
    public function take(string $kind, bool $isAlone, \Closure $end): ?Portion
    {
        $held = null;

        return DB::transaction(function () use ($kind, $isAlone, $end, &$held) {
            // Named locks outlive a transaction that is tried again.
            $held?->leave();
            $held = null;
            $cursor = self::CURSORS[$kind];
            $at = DB::table('pass_loads')->where('id', $this->progress)->lockForUpdate()->first([$cursor, 'last_row']);
            $open = $this->open($kind)->orderBy('after_row')->get(['after_row', 'to_row']);
            foreach ($open as $left) {
                $lock = $this->lock($kind, (int) $left->after_row);
                if ($lock->take()) {
                    $held = $lock;

                    return new Portion((int) $left->after_row, (int) $left->to_row, true);
                }
            }
            $after = (int) $at?->$cursor;
            $to = $at === null || ($isAlone && $open->isNotEmpty()) ? null : $end($after);
            if ($to === null) {
                $isOver = $kind === self::TURN && $open->isEmpty();
                DB::table('pass_loads')->where('id', $isOver ? $this->progress : 0)->update(['is_turn_over' => true]);

                return null;
            }
            $held = $this->hold($kind, $after);
            DB::table('stretches')->insert([
                'pass_load_id' => $this->progress, 'kind' => $kind, 'after_row' => $after, 'to_row' => $to,
            ]);
            DB::table('pass_loads')->where('id', $this->progress)->update([$cursor => $to]);

            return new Portion($after, $to);
        }, 5);
    }

    /**
     * Its rows are recorded, in the transaction of the caller.
     *
     * @param  'free'|'turn'  $kind
     */
    public function done(string $kind, int $after): void
    {
        $this->open($kind)->where('after_row', $after)->delete();
    }

    /** @param  'free'|'turn'  $kind */
    public function release(string $kind, int $after): void
    {
        $this->lock($kind, $after)->leave();
    }

    /** @param  'free'|'turn'  $kind */
    public function isAnyOpen(string $kind): bool
    {
        return $this->open($kind)->exists();
    }

    /**
     * Whether all who took rows before are at work on them.
     *
     * @param  'free'|'turn'  $kind
     */
    public function areAtWorkBefore(string $kind, int $row): bool
    {
        $before = $this->open($kind)->where('after_row', '<', $row)->pluck('after_row');
        foreach ($before as $after) {
            if (! $this->lock($kind, (int) $after)->isHeld()) {
                return false;
            }
        }

        return $before->isNotEmpty();
    }

    /** @return string|null rows somebody took and never recorded, in words */
    public function left(): ?string
    {
        $left = DB::table('stretches')->where('pass_load_id', $this->progress)->orderBy('after_row')->first();

        return $left === null ? null : 'within rows '.number_format($left->after_row + 1).' to '.number_format($left->to_row);
    }

    /** @param  'free'|'turn'  $kind */
    private function open(string $kind): Builder
    {
        return DB::table('stretches')->where('pass_load_id', $this->progress)->where('kind', $kind);
    }

    /**
     * Rows that go again may be had a moment before the worker that recorded them has let them go; without its lock the stretch would
     * look like one a worker died over.
     *
     * @param  'free'|'turn'  $kind
     */
    private function hold(string $kind, int $after): NamedLock
    {
        $lock = $this->lock($kind, $after);

        return $lock->take(self::LETS_GO) ? $lock
            : throw new \RuntimeException("The worker that recorded the rows after $after does not let them go.");
    }

    private function lock(string $kind, int $after): NamedLock
    {
        return NamedLock::of("rows:$this->progress:$kind:$after");
    }
}
