<?php

namespace Baggage\Core\Reconciling;

use Brick\Math\BigDecimal;

/**
 * What a control total, or one of its groups, comes to (SEMANTICS 31). Of a kind that does not add only the values that stand and
 * those of their records are held.
 */
final class Figures
{
    public const RAW = 'raw';

    /** What corrections added to the raw values, or took from them. */
    public const CORRECTED = 'corrected';

    /** Beside the sum: rows that stand with older values, by the cells they had then. */
    public const THEN = 'then';

    /** Beside the sum: rows delivered no more whose record is kept, by the cells they had last. */
    public const GONE = 'gone';

    public const TARGET = 'target';

    /** The field of the parent that children add up to, by its legacy row. */
    public const PARENT = 'parent';

    /** The same by its record. */
    public const PARENT_TARGET = 'parent target';

    /** Rows that stand as they are, were read so, and whose record counts with the same: they are in three figures at once. */
    private const EVEN = 'even';

    private const THREE = [self::RAW, Part::AsIs->value, self::TARGET];

    /** @var array<string, ExactSum> by one of the above, or by Part */
    private array $sums = [];

    /** @var array<string, int> rows behind each of them; "none" those the expression gives nothing for */
    public array $rows = [];

    /** @var array<string, string|null> smallest or largest, or the number of different values, of "legacy" and "target" */
    public array $extremes = [];

    /** Rows that say something else than their record, whatever they come to together. */
    public int $differ = 0;

    public function add(string $slot, string $number): void
    {
        ($this->sums[$slot] ??= new ExactSum)->add($number);
    }

    public function take(string $slot, string $number): void
    {
        ($this->sums[$slot] ??= new ExactSum)->take($number);
    }

    /** A row in a slot, with its number where it has one and that adds. */
    public function put(string $slot, ?string $value, bool $adds): void
    {
        $this->rows[$slot] = ($this->rows[$slot] ?? 0) + 1;
        if ($value === null) {
            $this->count("$slot none");
        } elseif ($adds) {
            ($this->sums[$slot] ??= new ExactSum)->add($value);
        }
    }

    /** A row that stands as it is, was read so, and whose record counts with the same. */
    public function even(?string $value, bool $adds): void
    {
        $this->put(self::EVEN, $value, $adds);
    }

    public function count(string $slot): void
    {
        $this->rows[$slot] = ($this->rows[$slot] ?? 0) + 1;
    }

    public function sum(string $slot): string
    {
        return $this->together([$slot], [])->total();
    }

    public function rows(string $slot): int
    {
        $isThree = in_array(str_replace(' none', '', $slot), self::THREE, true);
        $even = $isThree ? self::EVEN.(str_ends_with($slot, ' none') ? ' none' : '') : '';

        return ($this->rows[$slot] ?? 0) + ($this->rows[$even] ?? 0);
    }

    public function extreme(string $side, string $value, Amount $amount, TotalKind $kind): void
    {
        $known = $this->extremes[$side] ?? null;
        $is = $known === null ? 0 : $amount->compare($value, $known);
        if ($known === null || ($kind === TotalKind::Smallest ? $is < 0 : $is > 0)) {
            $this->extremes[$side] = $value;
        }
    }

    /** What the target should come to: what was taken as it is, older values as they were then, and what is gone and kept. */
    public function expected(): string
    {
        return $this->together([Part::AsIs->value, self::THEN, self::GONE], [])->total();
    }

    /** Target less what it should come to; null for a kind that does not add and has nothing to subtract. */
    public function difference(TotalKind $kind): ?string
    {
        if ($kind->adds()) {
            return $this->together([self::TARGET], [Part::AsIs->value, self::THEN, self::GONE])->total();
        }
        [$legacy, $target] = [$this->extremes['legacy'] ?? null, $this->extremes['target'] ?? null];
        $isNumber = fn (string $v) => preg_match('/^-?\d+(?:\.\d+)?$/D', $v) === 1;

        return $legacy !== null && $target !== null && $isNumber($legacy) && $isNumber($target)
            ? ExactSum::plain(BigDecimal::of($target)->minus($legacy))
            : null;
    }

    /** Children less the field of their parent. */
    public function crossLegacy(): string
    {
        return $this->together([self::GONE, ...array_column(Part::cases(), 'value')], [self::PARENT])->total();
    }

    public function crossTarget(): string
    {
        return $this->together([self::TARGET], [self::PARENT_TARGET])->total();
    }

    /** Whether both sides come to the same, but for what is tolerated. */
    public function holds(TotalKind $kind, string $tolerance): bool
    {
        $difference = $this->difference($kind);

        return $difference === '0' || ($difference === null
            ? ($this->extremes['legacy'] ?? null) === ($this->extremes['target'] ?? null)
            : BigDecimal::of($difference)->abs()->isLessThanOrEqualTo($tolerance));
    }

    /** Whether children and parent agree in the target, or differ there by what they differ by in the legacy data. */
    public function foots(string $tolerance): bool
    {
        $cross = $this->crossTarget();
        $is = BigDecimal::of($cross);

        return $cross === '0'
            || $is->abs()->isLessThanOrEqualTo($tolerance)
            || $is->minus($this->crossLegacy())->abs()->isLessThanOrEqualTo($tolerance);
    }

    /** What all parts come to less what corrections added, and the raw total: equal, or something was not counted. */
    public function isConserved(): bool
    {
        return $this->together(array_column(Part::cases(), 'value'), [self::CORRECTED, self::RAW])->total() === '0';
    }

    /**
     * @param  list<string>  $more  slots
     * @param  list<string>  $less
     */
    private function together(array $more, array $less): ExactSum
    {
        $sum = new ExactSum;
        foreach ($more as $slot) {
            isset($this->sums[$slot]) ? $sum->merge($this->sums[$slot]) : null;
        }
        foreach ($less as $slot) {
            isset($this->sums[$slot]) ? $sum->less($this->sums[$slot]) : null;
        }
        // What stands on both sides alike cancels out.
        $times = isset($this->sums[self::EVEN])
            ? count(array_intersect($more, self::THREE)) - count(array_intersect($less, self::THREE))
            : 0;
        for (; $times !== 0; $times -= $times <=> 0) {
            $times > 0 ? $sum->merge($this->sums[self::EVEN]) : $sum->less($this->sums[self::EVEN]);
        }

        return $sum;
    }

    public function merge(self $other, Amount $amount, TotalKind $kind): void
    {
        foreach ($other->sums as $slot => $sum) {
            isset($this->sums[$slot]) ? $this->sums[$slot]->merge($sum) : $this->sums[$slot] = clone $sum;
        }
        foreach ($other->rows as $slot => $n) {
            $this->rows[$slot] = ($this->rows[$slot] ?? 0) + $n;
        }
        foreach ($other->extremes as $side => $value) {
            $value === null ?: $this->extreme($side, $value, $amount, $kind);
        }
        $this->differ += $other->differ;
    }

    /** @return array{sums: array<string, string>, rows: array<string, int>, extremes: array<string, string|null>, differ: int} */
    public function toArray(): array
    {
        return [
            'sums' => array_map(fn (ExactSum $s) => $s->total(), $this->sums),
            'rows' => $this->rows,
            'extremes' => $this->extremes,
            'differ' => $this->differ,
        ];
    }

    /** @param  array<string, mixed>  $a  as toArray() made it */
    public static function fromArray(array $a): self
    {
        $figures = new self;
        foreach ($a['sums'] ?? [] as $slot => $sum) {
            $figures->add((string) $slot, (string) $sum);
        }
        $figures->rows = array_map(intval(...), $a['rows'] ?? []);
        $figures->extremes = $a['extremes'] ?? [];
        $figures->differ = (int) ($a['differ'] ?? 0);

        return $figures;
    }
}
