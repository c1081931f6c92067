<?php

namespace Baggage\Core\Loading;

use Baggage\Core\Crosswalks\CodeCrosswalk;
use Baggage\Core\Crosswalks\KeyNormalisation;
use Baggage\Core\Expressions\Context;
use Baggage\Core\Mapping\DefinitionError;
use Baggage\Core\Mapping\LoadDefinition;
use Baggage\Core\Mapping\Mapper;
use Baggage\Core\Ordering\LoadOrder;
use Baggage\Core\Ordering\OrderError;
use Baggage\Core\Ordering\Reference;
use Baggage\Core\Reading\Columns;

/** The whole definition as a pass uses it: whatever is changed meanwhile, the pass goes by this. */
final readonly class PlanVersion
{
    /** Counted up when the same definition would make other records than before. */
    public const ENGINE = 1;

    /**
     * @param  list<LoadDefinition>  $loads  in the order they run
     * @param  array<string, CodeCrosswalk>  $codes  by name
     * @param  array<string, string|null>  $parameters  by name
     * @param  list<Reference>  $references  those that order the loads
     */
    public function __construct(
        public array $loads,
        private array $codes,
        private array $parameters,
        private array $references,
    ) {
    }

    /** @throws DefinitionError when the pass has no such load */
    public function load(int $id): LoadDefinition
    {
        foreach ($this->loads as $load) {
            if ($load->id === $id) {
                return $load;
            }
        }
        throw DefinitionError::loadGone((string) $id);
    }

    /** @throws DefinitionError */
    public function mapper(int $load, Columns $columns): Mapper
    {
        $definition = $this->load($load);

        return Mapper::of($definition, $columns, new Context($this->codes, $definition->source, $this->parameters));
    }

    /** @throws OrderError */
    public function order(): LoadOrder
    {
        $entities = array_map(fn (LoadDefinition $l) => $l->entity->name, $this->loads);

        return LoadOrder::of(array_values(array_unique($entities)), $this->references);
    }

    /**
     * What a code crosswalk makes of an old value.
     *
     * @param  string|null  $old  null for all it says
     * @return array<mixed>|null null where there is no such crosswalk
     */
    public function code(string $crosswalk, ?string $old): ?array
    {
        $codes = $this->codes[$crosswalk] ?? null;

        return $codes === null || $old === null
            ? $codes?->toArray()
            : [$codes->knows($old), $codes->rejects($old), $codes->newValue($old), $codes->otherwise(), $codes->otherwiseValue()];
    }

    /** @return array<string, array<string, KeyNormalisation>> entity → key space → how its legacy keys are written */
    public function normalisations(): array
    {
        $all = [];
        foreach ($this->loads as $load) {
            $all[$load->entity->name][$load->space] = $load->normalisation;
        }

        return $all;
    }

    /** @return array<int, string> number → name, of the loads that fill an entity, in their order */
    public function names(string $entity): array
    {
        $loads = array_filter($this->loads, fn (LoadDefinition $l) => $l->entity->name === $entity);

        return array_column($loads, 'name', 'id');
    }

    /**
     * The same with some of its loads.
     *
     * @param  list<int>  $loads
     */
    public function only(array $loads): self
    {
        return new self(
            array_values(array_filter($this->loads, fn (LoadDefinition $l) => in_array($l->id, $loads, true))),
            $this->codes,
            $this->parameters,
            $this->references,
        );
    }

    /** The same where a code crosswalk says something else of an old value. */
    public function withCode(string $crosswalk, string $old, ?string $new, bool $rejects): self
    {
        $codes = isset($this->codes[$crosswalk])
            ? [$crosswalk => $this->codes[$crosswalk]->saying($old, $new, $rejects)] + $this->codes
            : $this->codes;

        return new self($this->loads, $codes, $this->parameters, $this->references);
    }

    /** The same where a field of a load has another rule; none where it is empty. */
    public function withRule(int $load, string $field, string $expression): self
    {
        $loads = array_map(
            fn (LoadDefinition $l) => $l->id === $load ? $l->withRule($field, $expression) : $l,
            $this->loads,
        );

        return new self($loads, $this->codes, $this->parameters, $this->references);
    }

    /** SHA-256 of what it says (FIPS 180-4); equal for equal definitions. */
    public function hash(): string
    {
        return hash('sha256', $this->toJson());
    }

    public function toJson(): string
    {
        $codes = array_map(fn (CodeCrosswalk $c) => $c->toArray(), $this->codes);
        $parameters = $this->parameters;
        ksort($codes);
        ksort($parameters);

        return json_encode([
            'engine' => self::ENGINE,
            'loads' => array_map(fn (LoadDefinition $l) => $l->toArray(), $this->loads),
            'codes' => $codes,
            'parameters' => $parameters,
            'references' => array_map(fn (Reference $r) => get_object_vars($r), $this->references),
        ], JSON_THROW_ON_ERROR | JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES);
    }

    public static function fromJson(string $json): self
    {
        $a = json_decode($json, true, 64, JSON_THROW_ON_ERROR);

        return new self(
            array_values(array_map(LoadDefinition::fromArray(...), $a['loads'])),
            array_map(CodeCrosswalk::fromArray(...), $a['codes']),
            $a['parameters'],
            array_values(array_map(fn (array $r) => new Reference(...$r), $a['references'])),
        );
    }
}
