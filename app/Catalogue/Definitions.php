<?php

namespace App\Catalogue;

use App\Models\CodeDecision;
use App\Models\Entity;
use App\Models\Load;
use App\Models\MatchRule;
use App\Models\Migration;
use App\Models\Take;
use Baggage\Core\Crosswalks\CodeCrosswalk;
use Baggage\Core\Crosswalks\KeyNormalisation;
use Baggage\Core\Crosswalks\Otherwise;
use Baggage\Core\Expressions\Context;
use Baggage\Core\Loading\PlanVersion;
use Baggage\Core\Mapping\LoadDefinition;
use Baggage\Core\Mapping\Mapper;
use Baggage\Core\Ordering\LoadOrder;
use Baggage\Core\Ordering\OrderError;
use Baggage\Core\Ordering\Reference;
use Baggage\Core\Reading\Columns;
use Illuminate\Support\Collection;
use Illuminate\Support\Facades\DB;

/** Turns the catalogue of one migration into the definitions the core works with. */
final class Definitions
{
    private const TAKE = 'extract.take:'.Take::LISTED;

    private const WITH = ['entity.matchRules', 'extract.source', self::TAKE, 'rules'];

    /** @var Collection<int, Load>|null in the order they run */
    private ?Collection $loads = null;

    /** @var Collection<int, Load>|null */
    private ?Collection $made = null;

    private ?LoadOrder $order = null;

    /** @var array<string, CodeCrosswalk>|null */
    private ?array $codes = null;

    /** @var array<string, string|null>|null */
    private ?array $parameters = null;

    /** @var list<array<string, mixed>>|null */
    private ?array $reads = null;

    /**
     * @param  array<string, string|null>  $given  parameters a round was begun with; the others have their defaults
     * @param  array<string, string|null>|null  $defaults  where they are known already
     * @param  array<string, int>|null  $entityIds  the same
     */
    public function __construct(
        public readonly Migration $migration,
        private readonly array $given = [],
        private readonly ?array $defaults = null,
        private ?array $entityIds = null,
    ) {
    }

    /**
     * @return Collection<int, Load> with all they need, in the order they run
     *
     * @throws OrderError
     */
    public function loads(): Collection
    {
        if ($this->loads === null) {
            $order = $this->order();
            $this->loads = $this->unordered()
                ->sort(fn (Load $a, Load $b) => $order->place($a->entity->name, $a->reads(), $a->position)
                    <=> $order->place($b->entity->name, $b->reads(), $b->position))
                ->values();
        }

        return $this->loads;
    }

    /** @return Collection<int, Load> as they were made, also where they have no order */
    public function unordered(): Collection
    {
        return $this->made ??= $this->migration->loads()->with(self::WITH)->orderBy('position')->get();
    }

    /**
     * A load with all its definition needs, whatever order it has.
     *
     * @param  bool  $isStudied  with the profile of its take
     */
    public function one(Load $load, bool $isStudied = false): Load
    {
        return ($this->loads ?? $this->made)?->firstWhere('id', $load->id)
            ?? $load->loadMissing($isStudied ? [...array_diff(self::WITH, [self::TAKE]), 'extract.take'] : self::WITH);
    }

    /** @return list<array<string, mixed>> id, extract_id, take_id, space, key_columns and key_normalisation of each load */
    public function reads(): array
    {
        return $this->reads ??= array_values(DB::table('loads')
            ->where('loads.migration_id', $this->migration->id)
            ->join('extracts', 'extracts.id', '=', 'loads.extract_id')
            ->join('sources', 'sources.id', '=', 'extracts.source_id')
            ->orderBy('loads.id')
            ->get([
                'loads.id', 'loads.extract_id', 'extracts.take_id', 'loads.key_space', 'sources.code', 'loads.key_columns',
                'loads.key_normalisation', 'loads.entity_id',
            ])
            ->map(fn ($l) => ['space' => $l->key_space ?? $l->code] + array_diff_key((array) $l, ['key_space' => 1, 'code' => 1]))
            ->all());
    }

    /** @throws OrderError */
    public function order(): LoadOrder
    {
        return $this->order ??= LoadOrder::of(
            array_values($this->unordered()->map(fn (Load $l) => $l->entity->name)->unique()->all()),
            $this->references(),
        );
    }

    /** @return list<Reference> those some load has a rule for */
    public function references(): array
    {
        $references = [];
        foreach ($this->unordered() as $load) {
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

        return [...array_values($references), ...KnownReferences::between($this->unordered(), $ruled)];
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
            $load->gone,
            $load->others,
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
        if ($this->codes !== null) {
            return $this->codes;
        }
        $lines = DB::table('code_crosswalks as c')
            ->leftJoin('code_entries as e', 'e.code_crosswalk_id', '=', 'c.id')
            ->where('c.migration_id', $this->migration->id)
            ->orderBy('c.id')
            ->orderBy('e.id')
            ->get(['c.name', 'c.otherwise', 'c.otherwise_value', 'e.old_value', 'e.new_value', 'e.decision']);

        return $this->codes = $lines->groupBy('name')->map(self::crosswalk(...))->all();
    }

    /** @param  Collection<int, \stdClass>  $lines  of one crosswalk */
    private static function crosswalk(Collection $lines, string $name): CodeCrosswalk
    {
        $entries = $lines->whereNotNull('old_value');
        $isRejected = fn (\stdClass $e) => $e->decision === CodeDecision::Reject->value;

        return new CodeCrosswalk(
            $name,
            $entries->reject($isRejected)->pluck('new_value', 'old_value')->all(),
            array_values(array_map(strval(...), $entries->filter($isRejected)->pluck('old_value')->all())),
            Otherwise::from($lines->firstOrFail()->otherwise),
            $lines->firstOrFail()->otherwise_value,
        );
    }

    /** @return array<string, string|null> */
    public function parameters(): array
    {
        return $this->parameters ??= $this->given + ($this->defaults ?? self::defaults($this->migration));
    }

    /** @return array<string, string|null> what parameters are where nobody says otherwise */
    public static function defaults(Migration $migration): array
    {
        return $migration->parameters()->orderBy('name')->pluck('default_value', 'name')->all();
    }

    /** @return array<string, array<string, KeyNormalisation>> entity → key space → how its legacy keys are written */
    public function normalisations(): array
    {
        $all = [];
        $names = array_flip($this->entityIds());
        foreach ($this->reads() as $load) {
            $all[$names[$load['entity_id']]][$load['space']] = KeyNormalisation::from($load['key_normalisation']);
        }

        return $all;
    }

    /** @return array<string, int> */
    public function entityIds(): array
    {
        return $this->entityIds ??= Entity::query()->where('migration_id', $this->migration->id)->pluck('id', 'name')->all();
    }
}
