<?php

namespace Baggage\Core\Reconciling;

/** One control total while it is counted over all its loads. Where it has groups the whole is what they come to together. */
final class TotalCount
{
    public readonly Figures $whole;

    public readonly bool $isGrouped;

    /** @var array<array-key, Figures> by name, those not put away yet */
    private array $groups = [];

    /** @param  int  $number  of the total */
    private function __construct(
        public readonly int $number,
        public readonly ControlTotal $total,
        public readonly Amount $amount,
        private readonly TotalStore $store,
        private readonly bool $adds,
    ) {
        $this->whole = new Figures;
        $this->isGrouped = $total->groupField !== null;
    }

    public static function of(int $number, ControlTotal $total, Amount $amount, TotalStore $store): self
    {
        return new self($number, $total, $amount, $store, $total->kind->adds());
    }

    private function figures(string $group): Figures
    {
        return $this->isGrouped ? $this->groups[$group] ??= new Figures : $this->whole;
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

    /** A row that stands as it is, was read so, and whose record counts with the same in the same group. */
    public function even(string $group, ?string $value): void
    {
        $figures = $this->figures($group);
        $figures->even($value, $this->adds);
        if ($this->adds || $value === null) {
            return;
        }
        if ($this->total->kind === TotalKind::Distinct) {
            $this->store->value($this->number, TotalStore::BOTH, $this->isGrouped ? $group : '', $value);
        } else {
            $figures->extreme('legacy', $value, $this->amount, $this->total->kind);
            $figures->extreme('target', $value, $this->amount, $this->total->kind);
        }
    }

    /** A row counts with a number in a part of a group, and so it does as read. */
    public function asRead(string $slot, string $group, ?string $value): void
    {
        $figures = $this->figures($group);
        $figures->put($slot, $value, $this->adds);
        $figures->put(Figures::RAW, $value, $this->adds);
    }

    /** A row counts with a number in a part of a group. */
    public function add(string $slot, string $group, ?string $value): void
    {
        $this->figures($group)->put($slot, $value, $this->adds);
    }

    /** A correction made it another number, or another group. */
    public function corrected(string $from, ?string $raw, string $to, ?string $now): void
    {
        if (! $this->adds || ($from === $to && $raw === $now)) {
            return;
        }
        $raw === null ?: $this->figures($from)->take(Figures::CORRECTED, $raw);
        $now === null ?: $this->figures($to)->add(Figures::CORRECTED, $now);
        $this->figures($to)->count(Figures::CORRECTED);
    }

    /** A value on one side, of a kind that does not add. */
    public function seen(string $side, string $group, ?string $value): void
    {
        if ($this->adds || $value === null) {
            return;
        }
        if ($this->total->kind === TotalKind::Distinct) {
            $this->store->value($this->number, $side, $this->isGrouped ? $group : '', $value);
            $this->figures($group);
        } else {
            $this->figures($group)->extreme($side, $value, $this->amount, $this->total->kind);
        }
    }

    /** What a record counts with, and what the row it was made of did. */
    public function compare(int $load, int $row, string $group, ?string $legacy, string $recordGroup, ?string $target): void
    {
        if ($group === $recordGroup && ($legacy === $target || $this->amount->isSame($legacy, $target))) {
            return;
        }
        $this->whole->differ++;
        if (! $this->isGrouped) {
            $this->store->differs($this->number, $load, $row, '', $legacy, $target);
        } elseif ($group === $recordGroup) {
            $this->figures($group)->differ++;
            $this->store->differs($this->number, $load, $row, $group, $legacy, $target);
        } else {
            $this->figures($group)->differ++;
            $this->figures($recordGroup)->differ++;
            $this->store->differs($this->number, $load, $row, $group, $legacy, null);
            $this->store->differs($this->number, $load, $row, $recordGroup, null, $target);
        }
    }

    /** A group that is whole is part of the whole; rows that differ were counted there themselves. */
    public function join(Figures $group): void
    {
        $differ = $this->whole->differ;
        $this->whole->merge($group, $this->amount, $this->total->kind);
        $this->whole->differ = $differ;
    }
}
