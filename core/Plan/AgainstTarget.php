<?php

namespace Baggage\Core\Plan;

use Baggage\Core\Expressions\Call;
use Baggage\Core\Expressions\Compiler;
use Baggage\Core\Expressions\ExpressionError;
use Baggage\Core\Mapping\WritePolicy;
use Baggage\Core\Ordering\LoadOrder;
use Baggage\Core\Ordering\OrderError;
use Baggage\Core\Ordering\Reference;
use Baggage\Core\Reading\Columns;
use Baggage\Core\Reconciling\ControlTotal;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Schema;

/** Whether a plan can mean what it says: its rules, keys and references against the target's entities and the columns of its extracts. */
final class AgainstTarget
{
    /** @var list<Mistake> */
    private array $mistakes = [];

    /** @var array<string, true> names of code crosswalks */
    private array $codes;

    /** @var array<string, array<string, list<int>>> entity → key space → how many columns the keys of its loads have */
    private array $spaces = [];

    /** @param  array<string, Columns|null>  $columns  SOURCE/extract → its columns, null where they are not known yet */
    private function __construct(
        private readonly PlanFile $file,
        private readonly Schema $schema,
        private readonly array $columns,
    ) {
        $this->codes = array_fill_keys(array_column($file->plan['code_crosswalks'] ?? [], 'name'), true);
    }

    /**
     * @param  array<string, Columns|null>  $columns  SOURCE/extract → its columns, null where they are not known yet
     * @return list<Mistake>
     */
    public static function mistakes(PlanFile $file, Schema $schema, array $columns): array
    {
        $check = new self($file, $schema, $columns);
        $loads = $file->plan['loads'] ?? [];
        foreach ($loads as $load) {
            $check->spaces[$load['entity']][$load['key_space'] ?? explode('/', $load['from'], 2)[0]][] = count($load['key']);
        }
        foreach ($file->plan['sources'] as $i => $source) {
            $check->source($source, $i);
        }
        $named = $check->matchRules($file->plan['match_rules'] ?? []);
        foreach ($loads as $i => $load) {
            $check->load($load, $i, $named[$load['entity']] ?? []);
        }
        $check->order($loads);
        foreach ($file->plan['proofs'] ?? [] as $i => $proof) {
            $check->proof(ControlTotal::fromPlan($proof), $i, $loads);
        }

        return $check->mistakes;
    }

    private function wrong(string $message, string|int ...$at): void
    {
        $this->mistakes[] = $this->file->mistake(array_values($at), $message);
    }

    /** @param  array<string, mixed>  $source */
    private function source(array $source, int $i): void
    {
        foreach ($source['extracts'] ?? [] as $j => $extract) {
            $name = "$source[code]/$extract[name]";
            foreach ($extract['covering'] ?? [] as $k => $header) {
                $this->header($name, $header, 'sources', $i, 'extracts', $j, 'covering', $k);
            }
            foreach ($extract['row_key'] ?? [] as $k => $header) {
                $this->header($name, $header, 'sources', $i, 'extracts', $j, 'row_key', $k);
            }
            foreach (array_keys($extract['left_behind'] ?? []) as $header) {
                $this->header($name, (string) $header, 'sources', $i, 'extracts', $j, 'left_behind', $header);
            }
            foreach ($extract['findings'] ?? [] as $k => $finding) {
                if (isset($finding['column'])) {
                    $this->header($name, $finding['column'], 'sources', $i, 'extracts', $j, 'findings', $k, 'column');
                }
            }
            $this->feed($extract['reader'] ?? [], 'sources', $i, 'extracts', $j, 'reader');
        }
        foreach ($source['references'] ?? [] as $j => $reference) {
            foreach ($reference['columns'] as $k => $header) {
                $this->header("$source[code]/$reference[from]", $header, 'sources', $i, 'references', $j, 'columns', $k);
            }
            foreach ($reference['key'] as $k => $header) {
                $this->header($reference['to'], $header, 'sources', $i, 'references', $j, 'key', $k);
            }
        }
    }

    /** @param  array<string, mixed>  $reader */
    private function feed(array $reader, string|int ...$at): void
    {
        [$first, $second] = [...$reader['of'] ?? [], '', ''];
        foreach ($reader['on'] ?? [] as $left => $right) {
            $this->header($first, (string) $left, ...[...$at, 'on', $left]);
            $this->header($second, $right, ...[...$at, 'on', $left]);
        }
        foreach ($reader['distinct'] ?? [] as $k => $header) {
            $this->header($first, $header, ...[...$at, 'distinct', $k]);
        }
    }

    private function header(string $extract, string $header, string|int ...$at): void
    {
        $columns = $this->columns[$extract] ?? null;
        if ($columns !== null && $columns->find($header) === null) {
            $this->wrong("$extract has no column \"$header\"; it has ".self::few(array_column($columns->all, 'header')), ...$at);
        }
    }

    /**
     * @param  list<array{entity: string, name: string, on: array<string, string>}>  $rules
     * @return array<string, list<string>> entity → names
     */
    private function matchRules(array $rules): array
    {
        $named = [];
        foreach ($rules as $i => $rule) {
            $entity = $this->entity($rule['entity'], 'match_rules', $i, 'entity');
            if ($entity !== null) {
                foreach (array_keys($rule['on']) as $field) {
                    $this->field($entity, (string) $field, 'match_rules', $i, 'on', $field);
                }
            }
            $named[$rule['entity']][] = $rule['name'];
        }

        return $named;
    }

    private function entity(string $name, string|int ...$at): ?Entity
    {
        $entity = $this->schema->entities[$name] ?? null;
        if ($entity === null) {
            $why = $this->schema->others[$name] ?? null;
            $this->wrong($why === null
                ? "the target has no entity \"$name\"; it has ".self::few(array_keys($this->schema->entities))
                : "the table $name can not be loaded: $why", ...$at);
        }

        return $entity;
    }

    private function field(Entity $entity, string $name, string|int ...$at): bool
    {
        if (! isset($entity->fields[$name])) {
            $this->wrong("$entity->name has no field \"$name\"; it has ".self::few(array_keys($entity->fields)), ...$at);

            return false;
        }

        return true;
    }

    /** @param  list<string>  $names */
    private static function few(array $names): string
    {
        $shown = array_slice($names, 0, 40);

        return implode(', ', $shown).(count($names) > 40 ? ' and '.(count($names) - 40).' more' : '');
    }

    /**
     * @param  array<string, mixed>  $load
     * @param  list<string>  $named  match rules of its entity
     */
    private function load(array $load, int $i, array $named): void
    {
        foreach ($load['key'] as $k => $column) {
            $this->header($load['from'], $column, 'loads', $i, 'key', $k);
        }
        $compiler = new Compiler($this->columns[$load['from']] ?? null);
        if (isset($load['scope'])) {
            $this->rule($compiler, $load['scope'], $load, null, 'loads', $i, 'scope');
        }
        $entity = $this->entity($load['entity'], 'loads', $i, 'entity');
        if ($entity === null) {
            return;
        }
        $match = $load['match'] ?? [];
        foreach ($match as $key => $how) {
            if (! array_is_list($match)) {
                $this->field($entity, (string) $key, 'loads', $i, 'match', $key);
            } elseif (! in_array($how, $named, true)) {
                $this->wrong("$entity->name has no match rule named \"$how\"", 'loads', $i, 'match', $key);
            }
        }
        $fields = $load['fields'] ?? [];
        foreach ($fields as $field => $rule) {
            $at = ['loads', $i, 'fields', $field];
            if (! $this->field($entity, (string) $field, ...$at)) {
                continue;
            }
            if (! isset($entity->writable()[$field])) {
                $this->wrong("$field of $entity->name is filled by the target itself", ...$at);
            }
            $expression = is_string($rule) ? $rule : $rule['rule'] ?? null;
            if ($expression !== null) {
                $this->rule($compiler, $expression, $load, [$entity, (string) $field], ...(is_string($rule) ? $at : [...$at, 'rule']));
            }
        }
        $this->missing($entity, $load, $i);
    }

    /** @param  array<string, mixed>  $load */
    private function missing(Entity $entity, array $load, int $i): void
    {
        if (! WritePolicy::from($load['policy'] ?? 'create')->creates()) {
            return;
        }
        foreach ($entity->writable() as $name => $field) {
            $rule = $load['fields'][$name] ?? null;
            $has = is_string($rule) || isset($rule['rule']);
            if ($field->required && $field->default === null && ! $has) {
                $at = $rule === null ? ['loads', $i, 'fields'] : ['loads', $i, 'fields', $name];
                $this->wrong("the field \"$name\" of $entity->name is required and has no rule", ...$at);
            }
        }
    }

    /**
     * @param  array<string, mixed>  $load
     * @param  array{Entity, string}|null  $of  entity and field; null for the scope
     */
    private function rule(Compiler $compiler, string $expression, array $load, ?array $of, string|int ...$at): void
    {
        try {
            $rule = $compiler->compile($expression);
        } catch (ExpressionError $e) {
            $this->wrong($e->getMessage(), ...$at);

            return;
        }
        foreach ($rule->calls as $call) {
            $why = match ($call->function) {
                'code', 'code_or' => $call->texts[0] === null || isset($this->codes[$call->texts[0]])
                    ? null
                    : "there is no code crosswalk \"{$call->texts[0]}\"",
                'parameter' => $call->texts[0] === null || isset($this->file->plan['parameters'][$call->texts[0]])
                    ? null
                    : "there is no parameter \"{$call->texts[0]}\"",
                'parent' => $this->parent($call, $load, $of),
                default => null,
            };
            if ($why !== null) {
                $this->wrong($why, ...$at);
            }
        }
    }

    /**
     * @param  array<string, mixed>  $load
     * @param  array{Entity, string}|null  $of
     */
    private function parent(Call $call, array $load, ?array $of): ?string
    {
        $field = $of === null ? null : $of[0]->fields[$of[1]];
        if ($field?->refers === null) {
            return 'parent() finds the record a reference needs, and '.($of === null ? 'a scope' : "$of[1] of {$of[0]->name}").' is none';
        }
        if (isset($call->texts[1]) || ! array_key_exists(1, $call->texts)) {
            $space = $call->texts[1] ?? explode('/', $load['from'], 2)[0];
            $sizes = $this->spaces[$field->refers][$space] ?? null;
            if ($sizes === null) {
                $there = array_keys($this->spaces[$field->refers] ?? []);

                return "no load makes $field->refers in the key space $space"
                    .($there === [] ? '' : '; loads make it in '.implode(', ', $there));
            }
            if ($call->parts !== null && ! in_array($call->parts, $sizes, true)) {
                return "keys of $field->refers in $space have {$sizes[0]} ".($sizes[0] === 1 ? 'column' : 'columns').", not $call->parts";
            }
        }

        return null;
    }

    /** @param  list<array<string, mixed>>  $loads */
    private function proof(ControlTotal $total, int $i, array $loads): void
    {
        $name = $total->load === null ? $total->entity : array_column($loads, 'entity', 'name')[$total->load];
        $entity = $this->entity($name, 'proofs', $i, $total->load === null ? 'entity' : 'load');
        if ($entity === null || ! $this->field($entity, $total->field, 'proofs', $i, 'field')) {
            return;
        }
        $group = $total->groupField;
        if ($group !== null && ! $this->field($entity, $group, 'proofs', $i, 'by', 'field')) {
            return;
        }
        $ofEntity = array_filter($loads, fn (array $l) => $l['entity'] === $name && ($total->load ?? $l['name']) === $l['name']);
        foreach ($ofEntity as $load) {
            $this->legacy($load, $total->legacyOf($load['name']), [$entity, $total->field], 'proofs', $i, 'legacy');
            $group === null ?: $this->legacy($load, $total->groupOf($load['name']), [$entity, $group], 'proofs', $i, 'by', 'legacy');
        }
        if ($ofEntity === []) {
            $this->wrong("no load fills $name", 'proofs', $i, 'entity');
        }
        $parent = $this->schema->entities[$entity->fields[(string) $group]->refers ?? ''] ?? null;
        if ($total->parentField === null) {
            return;
        }
        if ($parent === null) {
            $this->wrong("$group of $name refers to no record whose field could be added up to", 'proofs', $i, 'against');
        } elseif ($this->field($parent, $total->parentField, 'proofs', $i, 'against', 'field')) {
            foreach (array_filter($loads, fn (array $l) => $l['entity'] === $parent->name) as $load) {
                $of = [$parent, $total->parentField];
                $this->legacy($load, $total->parentOf($load['name']), $of, 'proofs', $i, 'against', 'legacy');
            }
        }
    }

    /**
     * @param  array<string, mixed>  $load
     * @param  array{Entity, string}  $of  entity and field
     */
    private function legacy(array $load, ?string $expression, array $of, string|int ...$at): void
    {
        $before = $this->mistakes;
        $this->mistakes = [];
        $expression === null ?: $this->rule(new Compiler($this->columns[$load['from']] ?? null), $expression, $load, $of, ...$at);
        $own = array_map(fn (Mistake $m) => $m->with("on the rows of $load[name]: $m->message"), $this->mistakes);
        $this->mistakes = [...$before, ...$own];
    }

    /** @param  list<array<string, mixed>>  $loads */
    private function order(array $loads): void
    {
        $references = [];
        foreach ($loads as $load) {
            $entity = $this->schema->entities[$load['entity']] ?? null;
            foreach ($entity === null ? [] : $entity->references() as $field) {
                $rule = $load['fields'][$field->name] ?? null;
                if (is_string($rule) || isset($rule['rule'])) {
                    $references["$load[entity].$field->name"] = new Reference(
                        $load['entity'],
                        $field->name,
                        (string) $field->refers,
                        $field->required,
                    );
                }
            }
        }
        try {
            LoadOrder::of(array_values(array_unique(array_column($loads, 'entity'))), array_values($references));
        } catch (OrderError $e) {
            $this->wrong($e->getMessage(), 'loads');
        }
    }
}
