<?php

namespace Tests\Support;

use Baggage\Core\Loading\LoadLedger;
use Baggage\Core\Loading\Portion;
use Baggage\Core\Loading\Stretch;
use Baggage\Core\Mapping\LoadDefinition;
use Baggage\Core\Rows\Outcome;

/** A load's part of a lane kept in memory, as one worker writes it in one pass. */
final class MemoryBook implements LoadLedger
{
    private readonly string $of;

    /** @param  \ArrayObject<int, true>  $alive  workers that were not killed */
    public function __construct(
        private readonly MemoryLane $lane,
        private readonly int $pass,
        private readonly LoadDefinition $load,
        private readonly bool $retry,
        private readonly int $last,
        private readonly int $worker,
        private readonly \ArrayObject $alive,
    ) {
        $this->of = "$pass $load->id";
    }

    public function take(bool $inTurn, int $most): ?Portion
    {
        $all = fn (int $after) => $after < $this->last ? min($this->last, $after + $most) : null;
        if (! $inTurn) {
            $portion = $this->open('free', false, $all);
            $this->fault('taken');
            $isTold = $portion !== null && ($this->lane->told[$this->of] ?? 0) >= $portion->to;

            return $portion === null
                ? null
                : new Portion($portion->after, $portion->to, $portion->isBegun, null, $isTold ? $this->contested() : [], $isTold);
        }
        $rows = match (true) {
            $this->retry => $this->due(),
            isset($this->lane->allInTurn[$this->of]) => range(1, $this->last),
            default => $this->contested(),
        };
        $rows = $this->last === 0 ? [] : $rows;
        $portion = $this->open('turn', true, function (int $after) use ($rows, $most) {
            $next = array_slice(array_values(array_filter($rows, fn (int $row) => $row > $after)), 0, $most);

            return $next === [] ? null : end($next);
        });
        $within = fn (int $row) => $row > $portion?->after && $row <= $portion?->to;

        return $portion === null ? null : new Portion($portion->after, $portion->to, $portion->isBegun, array_filter($rows, $within));
    }

    public function leave(Portion $portion, bool $inTurn): void
    {
        unset($this->lane->stretches["$this->of ".($inTurn ? 'turn' : 'free')][$portion->after]);
    }

    public function record(Stretch $stretch, array $journeys): void
    {
        $this->fault('record');
        $before = $this->lane->lines[$this->load->id] ?? [];
        $this->lane->write($this->pass, $this->load->id, $this->load->entity->name, $this->load->rowSpace(), $journeys);
        $kind = $stretch->inTurn ? 'turn' : 'free';
        unset($this->lane->stretches["$this->of $kind"][$stretch->after]);
        foreach ($before as $row => $line) {
            if ($line['target'] !== null && $this->lane->lines[$this->load->id][$row]['outcome'] === Outcome::Pending) {
                $this->lane->cursors["$this->of turn"] = min($this->lane->cursors["$this->of turn"], $row - 1);
            }
        }
        $this->fault('recorded');
    }

    public function isTurnOver(): bool
    {
        return ($this->lane->cursors["$this->of over"] ?? 0) === 1;
    }

    /** Whether nothing of the load is to be done any more. */
    public function isOver(bool $inTurn): bool
    {
        return ($inTurn || $this->isFreeOver()) && $this->isTurnOver();
    }

    public function tell(Portion $portion, array $claims): ?array
    {
        if (($this->lane->told[$this->of] ?? 0) < $portion->after) {
            // In one thread nobody but a dead one can be at rows before: whoever lives tells in the step that takes them.
            unset($this->lane->stretches["$this->of free"][$portion->after]['by']);

            return null;
        }
        $this->fault('tell');
        $waiting = [];
        $seen = &$this->lane->seen["$this->pass {$this->load->entity->name}"];
        foreach ($claims as $row => $of) {
            if (array_intersect($of, array_keys($seen ?? [])) !== []) {
                $this->lane->contested[$this->of][] = $waiting[] = $row;
            }
            $seen = ($seen ?? []) + array_fill_keys($of, true);
        }
        $this->lane->told[$this->of] = $portion->to;
        $this->fault('told');

        return $waiting;
    }

    public function isTold(): bool
    {
        return ($this->lane->told[$this->of] ?? 0) >= $this->last;
    }

    public function isFreeOver(): bool
    {
        return ($this->lane->cursors["$this->of free"] ?? 0) >= $this->last && ($this->lane->stretches["$this->of free"] ?? []) === [];
    }

    /** @return list<int> */
    private function contested(): array
    {
        return $this->lane->contested[$this->of] ?? [];
    }

    /** @param  \Closure(int): ?int  $end */
    private function open(string $kind, bool $isAlone, \Closure $end): ?Portion
    {
        $open = $this->lane->stretches["$this->of $kind"] ?? [];
        foreach ($open as $after => $left) {
            if (! isset($left['by'], $this->alive[$left['by']]) || $left['by'] === $this->worker) {
                $this->lane->stretches["$this->of $kind"][$after]['by'] = $this->worker;

                return new Portion($after, $left['to'], true);
            }
        }
        $after = $this->lane->cursors["$this->of $kind"] ?? 0;
        $to = $isAlone && $open !== [] ? null : $end($after);
        if ($to === null) {
            $this->lane->cursors["$this->of over"] ??= 0;
            $this->lane->cursors["$this->of over"] |= (int) ($kind === 'turn' && $open === []);

            return null;
        }
        $this->lane->stretches["$this->of $kind"][$after] = ['to' => $to, 'by' => $this->worker];
        $this->lane->cursors["$this->of $kind"] = $to;

        return new Portion($after, $to);
    }

    /** @return list<int> */
    private function due(): array
    {
        $load = $this->load->id;
        $due = [...$this->lane->rows($load, Outcome::Pending), ...$this->lane->due[$load] ?? []];
        foreach ($this->lane->rows($load, Outcome::Held, Outcome::Rejected) as $row) {
            $cause = $this->lane->lines[$load][$row]['cause'];
            if ($cause?->parentEntity === null) {
                continue;
            }
            $parent = $this->lane->states((string) $cause?->parentEntity, (string) $cause?->parentSpace, [(string) $cause?->value]);
            if (($parent[(string) $cause?->value] ?? null)?->targetKey !== null) {
                $due[] = $row;
            }
        }
        // What was tried in this pass is not tried in it again, unless it waits for another row that came in its stead.
        $tried = fn (array $line) => $line['pass'] === $this->pass && $line['outcome'] !== Outcome::Pending;
        $due = array_values(array_unique(array_filter($due, fn (int $row) => ! $tried($this->lane->lines[$load][$row]))));
        sort($due);

        return $due;
    }

    private function fault(string $at): void
    {
        ($this->lane->fault ?? fn () => null)($at);
    }
}
