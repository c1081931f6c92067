<?php

namespace Baggage\Core\Reconciling;

/** One control total while it is counted over all its loads. */
final class TotalCount
{
    public readonly Figures $whole;

    /** @var array<array-key, Figures> by name, those not put away yet */
    private array $groups = [];

    /** @param  int  $number  of the total */
    public function __construct(
        public readonly int $number,
        public readonly ControlTotal $total,
        public readonly Amount $amount,
        private readonly TotalStore $store,
    ) {
        $this->whole = new Figures;
    }

    public function group(string $name): Figures
    {
        return $this->groups[$name] ??= new Figures;
    }

    public function held(): int
    {
        return count($this->groups);
    }

    /** Puts its groups away. */
    public function flush(): void
    {
        if ($this->groups !== []) {
            $this->store->groups($this->number, $this->groups);
            $this->groups = [];
        }
    }

    /** A row counts with a number in a part of a group. */
    public function add(string $slot, string $group, ?string $value): void
    {
        $isGrouped = $this->total->groupField !== null;
        $of = $isGrouped ? [$this->whole, $this->group($group)] : [$this->whole];
        foreach ($of as $figures) {
            $figures->count($slot);
            if ($value === null) {
                $figures->count("$slot none");
            } elseif ($this->total->kind->adds()) {
                $figures->add($slot, $value);
            }
        }
    }

    /** A correction made it another number, or another group. */
    public function corrected(string $from, ?string $raw, string $to, ?string $now): void
    {
        if (! $this->total->kind->adds() || ($from === $to && $raw === $now)) {
            return;
        }
        $isGrouped = $this->total->groupField !== null;
        foreach ($isGrouped ? [[$this->whole, $this->whole], [$this->group($from), $this->group($to)]] : [[$this->whole, $this->whole]] as [$less, $more]) {
            $raw === null ?: $less->take(Figures::CORRECTED, $raw);
            $now === null ?: $more->add(Figures::CORRECTED, $now);
            $more->count(Figures::CORRECTED);
        }
    }

    /** A value on one side, of a kind that does not add. */
    public function seen(string $side, string $group, ?string $value): void
    {
        if ($value === null || $this->total->kind->adds()) {
            return;
        }
        $isGrouped = $this->total->groupField !== null;
        if ($this->total->kind === TotalKind::Distinct) {
            $this->store->value($this->number, $side, '', $value);
            $isGrouped ? $this->store->value($this->number, $side, $group, $value) : null;

            return;
        }
        foreach ($isGrouped ? [$this->whole, $this->group($group)] : [$this->whole] as $figures) {
            $figures->extreme($side, $value, $this->amount, $this->total->kind);
        }
    }

    /** What a record counts with, and what the row it was made of did. */
    public function compare(int $load, int $row, string $group, ?string $legacy, string $recordGroup, ?string $target): void
    {
        if ($group === $recordGroup && $this->amount->isSame($legacy, $target)) {
            return;
        }
        $this->whole->differ++;
        if ($this->total->groupField === null) {
            $this->store->differs($this->number, $load, $row, '', $legacy, $target);

            return;
        }
        $this->group($group)->differ++;
        if ($group === $recordGroup) {
            $this->store->differs($this->number, $load, $row, $group, $legacy, $target);
        } else {
            $this->group($recordGroup)->differ++;
            $this->store->differs($this->number, $load, $row, $group, $legacy, null);
            $this->store->differs($this->number, $load, $row, $recordGroup, null, $target);
        }
    }
}
