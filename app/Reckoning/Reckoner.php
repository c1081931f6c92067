<?php

namespace App\Reckoning;

use App\Catalogue\Definitions;
use App\Ledger\CountedLines;
use App\Ledger\LedgerCrosswalk;
use App\Ledger\LedgerReader;
use App\Ledger\SentRows;
use App\Ledger\Spaces;
use App\Models\ControlTotal as Kept;
use App\Models\Load;
use App\Models\PassLoad;
use App\Models\Reckoning;
use App\Models\Round;
use App\Models\RoundLoad;
use App\Targets\Ports;
use Baggage\Core\Reconciling\Amount;
use Baggage\Core\Reconciling\CountedRow;
use Baggage\Core\Reconciling\GroupKeys;
use Baggage\Core\Reconciling\LoadComparison;
use Baggage\Core\Reconciling\LoadTotal;
use Baggage\Core\Reconciling\ParentTotal;
use Baggage\Core\Reconciling\TotalCount;
use Illuminate\Support\Collection;

/** Counts the control totals of a round and compares its records, in one walk over its rows. */
final class Reckoner
{
    /** Groups of all totals held in memory. */
    private const GROUPS = 12_000;

    /** @var array<int, TotalCount> by number */
    private array $counts = [];

    /** @var array<int, string> total → why it cannot be counted */
    private array $errors = [];

    private int $done = 0;

    /**
     * @param  \Closure(int): void  $reached  told how many rows were gone through; what it throws ends it
     * @param  Collection<int, Load>  $loads  of the round in the order they run
     * @param  array<int, RoundLoad>  $of  by load
     * @param  int  $decision  the last one that counts
     */
    private function __construct(
        private readonly Round $round,
        private readonly \Closure $reached,
        private readonly Definitions $definitions,
        private readonly Collection $loads,
        private readonly array $of,
        private readonly CountedLines $lines,
        private readonly Ports $ports,
        private readonly TotalCounters $counters,
        private readonly SentRows $sent,
        private readonly int $decision,
    ) {
    }

    /**
     * @param  int  $decision  the last one that counts
     * @param  \Closure(int): void  $reached  told how many rows were gone through; what it throws ends it
     * @param  \Closure(int, CountedRow, string, string|null): void|null  $told  as TotalCounters takes it
     */
    public static function of(Round $round, int $decision, \Closure $reached, ?\Closure $told = null): self
    {
        $migration = $round->migration()->firstOrFail();
        $definitions = new Definitions($migration, $round->parameters ?? []);
        $of = $round->roundLoads()->with('take')->get()->keyBy('load_id')->all();
        $spaces = Spaces::of($migration);

        $loads = $definitions->loads()->filter(fn (Load $l) => isset($of[$l->id]))->values();
        $crosswalk = new LedgerCrosswalk(new LedgerReader($round), $spaces);

        return new self(
            $round,
            $reached,
            $definitions,
            $loads,
            $of,
            new CountedLines($round->laneId()),
            Ports::of($round->target()->firstOrFail()),
            new TotalCounters($definitions, $loads, new GroupKeys($crosswalk, $definitions->normalisations()), $told),
            SentRows::of($round, $spaces),
            $decision,
        );
    }

    /**
     * @param  Reckoning|null  $totals  where those are to be counted
     * @param  Reckoning|null  $comparison  where records are to be compared
     *
     * @throws \Baggage\Core\Loading\TargetUnavailable
     */
    public function run(?Reckoning $totals, ?Reckoning $comparison): void
    {
        $book = $totals === null ? null : new TotalBook($totals->id);
        $book === null ?: $this->begin($book);
        $found = $comparison === null ? null : new TotalBook($comparison->id);
        $chosen = $comparison === null ? null : Chosen::of($comparison->asked, $this->lines, $this->among($comparison->asked));
        $compared = [];
        foreach ($this->loads as $load) {
            $counters = $book === null ? [] : $this->counters->of($load, $this->of[$load->id]->take, $this->counts);
            $this->errors += $this->counters->errors;
            $comparer = $found !== null && $chosen !== null && $chosen->has($load->id) ? $this->comparer($load, $found) : null;
            $isWhole = $comparer !== null && $chosen->rows($load->id) === null;
            $this->walk($load, $counters, $isWhole ? $comparer : null);
            if ($comparer !== null && ! $isWhole) {
                $this->some($load, $comparer, $chosen->rows($load->id) ?? []);
            }
            if ($comparer !== null) {
                $compared[] = ['load' => $load->id, 'name' => $load->name, 'entity' => $load->entity->name]
                    + $comparer->comparison->toArray();
            }
        }
        $found?->flush();
        $totals?->update(['figures' => ['totals' => $book === null ? [] : $this->figures($book)]]);
        $comparison?->update(['figures' => ['of' => $chosen->of ?? 0, 'looked' => $chosen->looked ?? 0, 'loads' => $compared]]);
    }

    /**
     * Goes through the rows of one total as they counted when it was.
     *
     * @param  \Closure(int, CountedRow, string, string|null): void  $told  of the load, each row, its group and what it counts with
     * @param  \Closure(int): void  $reached
     *
     * @throws \DomainException where its expressions are understood no more
     * @throws \Baggage\Core\Loading\TargetUnavailable
     */
    public static function tell(Reckoning $counted, TotalLine $line, \Closure $told, \Closure $reached): void
    {
        $self = self::of($counted->round()->firstOrFail(), (int) $counted->asked['decision'], $reached, $told);
        $own = $self->loads->filter(fn (Load $l) => $line->total->isOf($l->name, $l->entity->name));
        $field = $own->first()?->entity->described()->fields[$line->total->field] ?? null;
        if ($field === null) {
            throw new \DomainException("{$line->total->entity} has no field \"{$line->total->field}\" any more.");
        }
        $count = TotalCount::of($line->number, $line->total, new Amount($line->total->kind, $field), new NoStore);
        $self->counts = [$line->number => $count];
        foreach ($own as $load) {
            $self->walk($load, $self->counters->of($load, $self->of[$load->id]->take, $self->counts), null);
        }
        if ($self->counters->errors !== []) {
            throw new \DomainException(implode(' ', $self->counters->errors));
        }
    }

    /**
     * @param  array<string, mixed>  $asked
     * @return array<int, bool> loads whose records may be compared → whether they update them
     */
    private function among(array $asked): array
    {
        $entity = $asked['entity'] ?? null;

        return $this->loads->filter(fn (Load $l) => $entity === null || $l->entity->name === $entity)
            ->mapWithKeys(fn (Load $l) => [$l->id => $l->policy->updates()])->all();
    }

    private function begin(TotalBook $book): void
    {
        foreach ($this->kept() as $total) {
            $described = $total->described();
            $field = $total->entity->described()->fields[$described->field] ?? null;
            $isIn = $this->loads->contains(fn (Load $l) => $l->entity_id === $total->entity_id
                && ($total->load_id === null || $total->load_id === $l->id));
            if ($field === null || ! $isIn) {
                $this->errors[$total->id] = $field === null
                    ? "{$total->entity->name} has no field \"$described->field\"."
                    : 'No load of this round is counted by it.';

                continue;
            }
            $amount = new Amount($described->kind, $field);
            $book->about($total->id, $described, $amount);
            $this->counts[$total->id] = TotalCount::of($total->id, $described, $amount, $book);
        }
    }

    /** @return Collection<int, Kept> as they are now */
    private function kept(): Collection
    {
        return ControlTotals::of($this->round->migration()->firstOrFail());
    }

    private function comparer(Load $load, TotalBook $found): LoadComparer
    {
        $take = $this->of[$load->id]->take;
        $progress = (new PassLoad(['load_id' => $load->id, 'take_id' => $take->id]))->setRelation('take', $take);
        $definition = $this->definitions->definition($load);
        $own = $this->loads->where('entity_id', $load->entity_id);
        // A load that creates changes its own records in later passes; where none changes those of others, each has one row alone.
        $later = $own->contains(fn (Load $l) => $l->policy->updates())
            ? $own->mapWithKeys(fn (Load $l) => [$l->id => array_keys($this->definitions->definition($l)->rules)])->all()
            : [];
        $told = fn (int $row, string $field, string $class, string $happened, ?string $sent, ?string $is) => $found->compared(
            $load->id, $row, $field, $class, $happened, $sent, $is,
        );

        return new LoadComparer(
            LoadComparison::of($definition, $told), $this->sent, $this->lines, $progress, $load->entity_id, $later,
            $this->loads->pluck('id')->flip()->all(), $load->policy->updates(),
        );
    }

    /** @param  list<LoadTotal|ParentTotal>  $counters */
    private function walk(Load $load, array $counters, ?LoadComparer $comparer): void
    {
        if ($counters === [] && $comparer === null) {
            return;
        }
        foreach ($this->rows($load, $counters, $comparer)->all() as $page) {
            foreach ($counters as $counter) {
                $counter->page($page->rows);
            }
            $comparer?->page($page);
            $this->counters->turn();
            $this->flush();
            ($this->reached)($this->done += count($page->rows));
        }
    }

    /** @param  list<int>  $rows */
    private function some(Load $load, LoadComparer $comparer, array $rows): void
    {
        foreach ($this->rows($load, [], $comparer)->some($rows) as $page) {
            $comparer->page($page);
            ($this->reached)($this->done += count($page->rows));
        }
    }

    /** @param  list<LoadTotal|ParentTotal>  $counters */
    private function rows(Load $load, array $counters, ?LoadComparer $comparer): LoadRows
    {
        $definition = $this->definitions->definition($load);
        $fields = $comparer === null ? [] : array_keys(array_intersect_key($definition->entity->fields, $definition->rules));
        foreach ($counters as $counter) {
            array_push($fields, ...$counter->fields());
        }

        return new LoadRows(
            $definition, $this->of[$load->id]->take, $this->decision, $this->lines, $this->ports->records,
            array_values(array_intersect(array_unique($fields), array_keys($definition->entity->fields))),
        );
    }

    private function flush(): void
    {
        if (array_sum(array_map(fn (TotalCount $c) => $c->held(), $this->counts)) > self::GROUPS) {
            array_map(fn (TotalCount $c) => $c->flush(), $this->counts);
        }
    }

    /** @return list<array<string, mixed>> of each total, in their order */
    private function figures(TotalBook $book): array
    {
        $figures = [];
        $broken = $this->counts === [] ? [] : $book->finish(array_values($this->counts));
        foreach ($this->counts as $number => $count) {
            [$differ, $foots] = $broken[$number];
            $figures[$number] = [
                'number' => $number, 'entity' => $count->total->entity, 'total' => $count->total->toPlan(),
                'figures' => $count->whole->toArray(), 'groups_differ' => $differ, 'groups_do_not_foot' => $foots,
                'error' => $this->errors[$number] ?? null,
            ];
        }
        foreach ($this->kept() as $total) {
            $figures[$total->id] ??= [
                'number' => $total->id, 'entity' => $total->entity->name, 'total' => $total->described()->toPlan(), 'figures' => null,
                'groups_differ' => 0, 'groups_do_not_foot' => 0, 'error' => $this->errors[$total->id] ?? 'It was added meanwhile.',
            ];
        }

        return array_values($figures);
    }
}
