<?php

namespace App\Reckoning;

use App\Catalogue\Definitions;
use App\Models\Load;
use App\Models\Take;
use Baggage\Core\Expressions\Compiler;
use Baggage\Core\Expressions\ExpressionError;
use Baggage\Core\Reading\Columns;
use Baggage\Core\Reconciling\Amount;
use Baggage\Core\Reconciling\CountedRow;
use Baggage\Core\Reconciling\GroupKeys;
use Baggage\Core\Reconciling\LoadTotal;
use Baggage\Core\Reconciling\ParentTotal;
use Baggage\Core\Reconciling\Reading;
use Baggage\Core\Reconciling\TotalCount;
use Baggage\Core\Reconciling\TotalKind;
use Illuminate\Support\Collection;

/** Makes what counts the rows of a load for its totals; an expression that several of them use is worked out once a row. */
final class TotalCounters
{
    /** @var array<int, string> total → why it cannot be counted */
    public array $errors = [];

    /** @var array<string, Reading> of the load that is gone through, by expression */
    private array $readings = [];

    /**
     * @param  Collection<int, Load>  $loads  of the round
     * @param  \Closure(int, CountedRow, string, string|null): void|null  $told  of load, row, its group and what it counts with
     */
    public function __construct(
        private readonly Definitions $definitions,
        private readonly Collection $loads,
        private readonly GroupKeys $keys,
        private readonly ?\Closure $told = null,
    ) {
    }

    /**
     * @param  array<int, TotalCount>  $counts  by number
     * @return list<LoadTotal|ParentTotal>
     */
    public function of(Load $load, Take $take, array $counts): array
    {
        $counters = $this->readings = [];
        $columns = $take->tidyColumns();
        foreach ($counts as $number => $count) {
            try {
                $counters = [...$counters, ...$this->counter($load, $count, $columns)];
            } catch (ExpressionError $e) {
                $this->errors[$number] = "$load->name: {$e->getMessage()}";
            }
        }

        return $counters;
    }

    /** A page of rows was gone through. */
    public function turn(): void
    {
        foreach ($this->readings as $reading) {
            $reading->turn();
        }
    }

    /**
     * @return list<LoadTotal|ParentTotal>
     *
     * @throws ExpressionError
     */
    private function counter(Load $load, TotalCount $count, Columns $columns): array
    {
        $compiler = new Compiler($columns);
        $context = $this->definitions->context($load);
        $reading = function (?string $e) use ($compiler, $context): ?Reading {
            $e === null || ! isset($this->readings[$e]) ?: $this->readings[$e]->share();

            return $e === null ? null : $this->readings[$e] ??= new Reading($compiler->compile($e), $context);
        };
        $total = $count->total;
        $entity = $load->entity->described();
        $counters = [];
        if ($total->isOf($load->name, $entity->name)) {
            $legacy = $reading($total->legacyOf($load->name));
            $legacy === null ?: $counters[] = new LoadTotal(
                $count, $load->id, $entity, $legacy, $reading($total->groupOf($load->name)), $this->keys, $this->told,
            );
        }
        $of = $this->loads->first(fn (Load $l) => $l->entity->name === $total->entity)?->entity->described();
        $parent = $total->parentField === null ? null : $of?->fields[(string) $total->groupField]->refers ?? null;
        if ($parent === $entity->name && ! $load->reads() && isset($entity->fields[(string) $total->parentField])) {
            $legacy = $reading($total->parentOf($load->name));
            $amount = new Amount(TotalKind::Sum, $entity->fields[(string) $total->parentField]);
            $legacy === null ?: $counters[] = new ParentTotal($count, $amount, $load->keySpace(), $legacy);
        }

        return $counters;
    }
}
