<?php

namespace Baggage\Core\Mapping;

use Baggage\Core\Crosswalks\ParentKey;
use Baggage\Core\Rows\Cause;
use Baggage\Core\Rows\Outcome;

/** Tries all rules of a load on row after row without a target, each field for itself, and keeps count of what would fail. */
final class Check
{
    private const VALUES = 50;

    /** Stands for a cause where a row is outside the scope. */
    public const OUTSIDE = 65_535;

    public int $rows = 0;

    public int $excluded = 0;

    /** Rows whose rules were tried. */
    public int $reached = 0;

    public int $failing = 0;

    /** @var array<string, int> field → rows whose rule fails */
    public array $failures = [];

    /** @var array<string, int> field → rows its rule leaves empty */
    public array $empty = [];

    /**
     * @var array<string, array{
     *     number: int, stage: string, code: string, field: string|null, message: string, several: bool, n: int,
     *     values: array<array-key, int>,
     * }>
     */
    private array $causes = [];

    /** @var list<array{int, int}> */
    private array $noted = [];

    /** @param  Wanted|null  $wanted  what the target's checks want */
    public function __construct(private readonly Mapper $mapper, private readonly ?Wanted $wanted = null)
    {
    }

    /**
     * @param  list<string|null>  $cells
     * @return CheckedRow|null null when the row does not get so far as to be held against others
     */
    public function row(int $number, array $cells): ?CheckedRow
    {
        $this->rows++;
        $journey = $this->mapper->begin($number, $cells);
        if (! $journey->isOpen()) {
            if ($journey->outcome === Outcome::Excluded) {
                $this->excluded++;
                $this->noted[] = [self::OUTSIDE, $number];
            } elseif ($journey->cause !== null) {
                $this->failing++;
                $this->note($journey->cause, $number);
            }

            return null;
        }
        $this->reached++;
        $values = $parents = $made = $failing = [];
        foreach (array_keys($this->mapper->rules()) as $field) {
            $made[$field] = $value = $this->mapper->field($field, $this->mapper->filled($cells));
            if ($value instanceof Cause) {
                $failing[$field] = true;
                $this->note($value, $number);
            } elseif ($value instanceof ParentKey) {
                // What counts in the end has to be there; a record of the target is not looked for here.
                $last = array_slice($value->chain(), -1)[0];
                $parents += $last->record === null ? [$field => $last] : [];
            } elseif ($value === null) {
                $this->empty[$field] = ($this->empty[$field] ?? 0) + 1;
            } else {
                $values[$field] = $value;
            }
        }
        foreach ($this->wanted?->failing($made) ?? [] as $cause) {
            $failing += array_fill_keys(explode(', ', (string) $cause->field), true);
            $this->note($cause, $number);
        }
        $this->count($failing);

        return new CheckedRow($journey->legacyKey, $values, $parents);
    }

    /** @param  array<string, true>  $failing  fields of one row */
    private function count(array $failing): void
    {
        foreach (array_keys($failing) as $field) {
            $this->failures[$field] = ($this->failures[$field] ?? 0) + 1;
        }
        $this->failing += $failing === [] ? 0 : 1;
    }

    private function note(Cause $cause, int $row): void
    {
        // Conditions of one field are failures of their own.
        $what = $cause->code === 'check_failed' ? $cause->message : '';
        $id = "{$cause->stage->value}~$cause->code~$cause->field~$what";
        $this->causes[$id] ??= [
            'number' => count($this->causes) + 1,
            'stage' => $cause->stage->value,
            'code' => $cause->code,
            'field' => $cause->field,
            'message' => $cause->message,
            'several' => false,
            'n' => 0,
            'values' => [],
        ];
        $known = &$this->causes[$id];
        $known['n']++;
        $known['several'] = $known['several'] || $known['message'] !== $cause->message;
        if ($cause->value !== null) {
            $value = mb_substr($cause->value, 0, 120);
            if (isset($known['values'][$value]) || count($known['values']) < self::VALUES) {
                $known['values'][$value] = ($known['values'][$value] ?? 0) + 1;
            }
        }
        $this->noted[] = [$known['number'], $row];
    }

    /** @return list<array{int, int}> number of the cause (OUTSIDE for the scope) and of the row, for each failure since it was asked */
    public function noted(): array
    {
        $noted = $this->noted;
        $this->noted = [];

        return $noted;
    }

    /**
     * The most frequent first, numbered from 1 as they were met.
     *
     * @return list<array{
     *     number: int, stage: string, code: string, field: string|null, message: string, n: int, values: array<array-key, int>,
     * }>
     */
    public function causes(): array
    {
        $causes = [];
        foreach ($this->causes as $cause) {
            arsort($cause['values']);
            $cause['message'] = Cause::title($cause['code'], $cause['message'], $cause['several']);
            unset($cause['several']);
            $causes[] = $cause;
        }
        usort($causes, fn ($a, $b) => $b['n'] <=> $a['n']);

        return $causes;
    }
}
