<?php

namespace App\Catalogue;

use App\Models\CodeCrosswalk as CodeCrosswalkModel;
use App\Models\CodeDecision;
use App\Models\Entity;
use App\Models\Load;
use App\Models\MatchRule;
use App\Models\Migration;
use Baggage\Core\Crosswalks\CodeCrosswalk;
use Baggage\Core\Crosswalks\KeyNormalisation;
use Baggage\Core\Expressions\Context;
use Baggage\Core\Loading\PlanVersion;
use Baggage\Core\Mapping\LoadDefinition;
use Baggage\Core\Mapping\Mapper;
use Baggage\Core\Ordering\LoadOrder;
use Baggage\Core\Ordering\OrderError;
use Baggage\Core\Ordering\Reference;
use Baggage\Core\Reading\Columns;
use Illuminate\Support\Collection;

/** Turns the catalogue of one migration into the definitions the core works with. */
final class Definitions
{
    /** @var Collection<int, Load>|null */
    private ?Collection $loads = null;

    private ?LoadOrder $order = null;

    /** @var array<string, CodeCrosswalk>|null */
    private ?array $codes = null;

    /** @var array<string, string|null>|null */
    private ?array $parameters = null;

    /** @var array<string, int>|null */
    private ?array $entityIds = null;

    /** @param  array<string, string|null>  $given  parameters a round was begun with; the others have their defaults */
    public function __construct(public readonly Migration $migration, private readonly array $given = [])
    {
    }

    /**
     * @return Collection<int, Load> with all they need, in the order they run
     *
     * @throws OrderError
     */
    public function loads(): Collection
    {
        if ($this->loads === null) {
            $loads = $this->migration
                ->loads()
                ->with(['entity.matchRules', 'extract.source', 'extract.take', 'rules'])
                ->orderBy('position')
                ->get();
            $this->loads = $loads;
            $order = $this->order();
            $this->loads = $loads
                ->sort(fn (Load $a, Load $b) => $order->place($a->entity->name, $a->reads(), $a->position)
                    <=> $order->place($b->entity->name, $b->reads(), $b->position))
                ->values();
        }

        return $this->loads;
    }

    /** @throws OrderError */
    public function order(): LoadOrder
    {
        return $this->order ??= LoadOrder::of(
            array_values(($this->loads ?? $this->loads())->map(fn (Load $l) => $l->entity->name)->unique()->all()),
            $this->references(),
        );
    }

    /** @return list<Reference> those some load has a rule for */
    public function references(): array
    {
        $references = [];
        foreach ($this->loads ?? $this->loads() as $load) {
            $entity = $load->entity->described();
            $written = $load->rules->whereNotNull('expression')->pluck('field')->all();
            foreach ($entity->references() as $field) {
                if (in_array($field->name, $written, true)) {
                    $references["$entity->name.$field->name"] = new Reference(
                        $entity->name,
                        $field->name,
                        (string) $field->refers,
                        $field->required,
                    );
                }
            }
        }

        $ruled = [];
        foreach ($references as $reference) {
            $ruled["$reference->child>$reference->parent"] = true;
        }

        return [...array_values($references), ...KnownReferences::between($this->loads ?? $this->loads(), $ruled)];
    }

    public function definition(Load $load): LoadDefinition
    {
        $rules = [];
        $entity = $load->entity->described();
        $written = $load->rules->whereNotNull('expression')->pluck('expression', 'field')->all();
        // In the target's own order of fields, so that a row always fails at the same field first.
        foreach (array_keys($entity->fields) as $field) {
            if (isset($written[$field])) {
                $rules[$field] = (string) $written[$field];
                unset($written[$field]);
            }
        }

        return new LoadDefinition(
            $load->id,
            $load->name,
            $entity,
            $load->extract->source->code,
            $load->keySpace(),
            $load->key_columns,
            $load->key_normalisation,
            $rules + array_map(strval(...), $written),
            $load->scope,
            $load->scope_reason,
            $load->policy,
            $load->matches()->map(fn (MatchRule $r) => $r->definition())->all(),
            $load->extract->settings()->padShort,
        );
    }

    /** All of it as it is now, for a pass to go by. */
    public function version(): PlanVersion
    {
        return new PlanVersion(
            array_values($this->loads()->map($this->definition(...))->all()),
            $this->codes(),
            $this->parameters(),
            $this->references(),
        );
    }

    public function context(Load $load): Context
    {
        return new Context($this->codes(), $load->extract->source->code, $this->parameters());
    }

    /** @param  Columns|null  $columns  of the take it is to read; null for the newest */
    public function mapper(Load $load, ?Columns $columns = null): Mapper
    {
        return Mapper::of($this->definition($load), $columns ?? $load->extract->tidyColumns(), $this->context($load));
    }

    /** @return array<string, CodeCrosswalk> */
    public function codes(): array
    {
        return $this->codes ??= $this->migration
            ->codeCrosswalks()
            ->with('entries')
            ->get()
            ->mapWithKeys(
                fn (CodeCrosswalkModel $c) => [
                    $c->name => new CodeCrosswalk(
                        $c->name,
                        $c->entries->where('decision', '<>', CodeDecision::Reject)->pluck('new_value', 'old_value')->all(),
                        array_map(strval(...), $c->entries->where('decision', CodeDecision::Reject)->pluck('old_value')->all()),
                        $c->otherwise,
                        $c->otherwise_value,
                    ),
                ],
            )
            ->all();
    }

    /** @return array<string, string|null> */
    public function parameters(): array
    {
        return $this->parameters ??=
            $this->given + $this->migration->parameters()->pluck('default_value', 'name')->all();
    }

    /** @return array<string, array<string, KeyNormalisation>> entity → key space → how its legacy keys are written */
    public function normalisations(): array
    {
        $all = [];
        foreach ($this->loads() as $load) {
            $all[$load->entity->name][$load->keySpace()] = $load->key_normalisation;
        }

        return $all;
    }

    /** @return array<string, int> */
    public function entityIds(): array
    {
        return $this->entityIds ??= Entity::query()->where('migration_id', $this->migration->id)->pluck('id', 'name')->all();
    }
}
