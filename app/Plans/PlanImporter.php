<?php

namespace App\Plans;

use App\Ledger\LedgerReader;
use App\Mapping\Waiting;
use App\Models\Audit;
use App\Models\CodeDecision;
use App\Models\ColumnReference;
use App\Models\Entity as EntityModel;
use App\Models\Extract;
use App\Models\Load;
use App\Models\MatchRule;
use App\Models\Migration;
use App\Models\Target;
use App\Targets\OtherSchemas;
use App\Targets\SchemaReader;
use App\Targets\TargetLink;
use Baggage\Core\Feeds\Formats;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Plan\PlanError;
use Baggage\Core\Reading\ReadingError;
use Baggage\Core\Targets\Describing\DescriptionError;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Schema;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Str;

/** Makes the catalogue say what a plan says. A migration of the same name is changed to match, all of it or nothing. */
final class PlanImporter
{
    public function __construct(private readonly SchemaReader $schemas, private readonly Waiting $due)
    {
    }

    /**
     * @param  array<string, mixed>  $plan  as PlanReader gives it
     * @param  string  $file  named in errors
     * @param  string|null  $folder  of a plan read on the command line; null when it came through a screen, where it opens no file
     *                               and learns nothing of the environment
     *
     * @throws PlanError
     */
    public function import(array $plan, string $file, ?string $folder = null): Migration
    {
        return DB::transaction(function () use ($plan, $file, $folder) {
            $migration = Migration::query()->firstOrNew(['name' => $plan['migration']]);
            $migration
                ->fill([
                    'target_name' => $plan['target']['application'],
                    'target_description' => $plan['target']['description'] ?? null,
                    'installation' => $migration->installation ?? Str::random(16),
                ])
                ->save();
            $connections = new PlanConnections($file, $folder !== null);
            $connections->targets($migration, $plan['target']['connections']);
            $this->sources($migration, $plan['sources'], $file, $connections);
            $this->references($migration, $plan['sources'], $file);
            $schema = $migration->target_description === null
                ? $this->readSchema($migration, $file)
                : $this->describedSchema($migration, $file, $folder);
            $this->codes($migration, $plan['code_crosswalks'] ?? []);
            $this->parameters($migration, $plan['parameters'] ?? []);
            $this->allMatchRules($migration, $plan['match_rules'] ?? [], $schema, $file);
            $this->loads($migration, $plan['loads'] ?? [], $schema, $file);
            $this->due->changed($migration);
            Audit::note($migration->id, 'read a plan file', ['file' => basename($file)]);

            return $migration;
        });
    }

    /** Takes entities and fields from the file the plan names, below the plan's folder; of it nothing is quoted. */
    private function describedSchema(Migration $migration, string $file, ?string $folder): Schema
    {
        $name = (string) $migration->target_description;
        $field = 'target.description';
        if ($folder === null) {
            return $migration->entities()->exists()
                ? $migration->schema()
                : throw PlanError::noFileOnScreen($file, $field);
        }
        $path = PlanFiles::below($folder, $name)
            ?? throw PlanError::noDescription($file, $field, $name);
        try {
            $schema = OtherSchemas::ofFile($path, basename($path));
        } catch (DescriptionError|ReadingError) {
            throw PlanError::describesNothing($file, $field, $name);
        }
        $this->keep($migration, $schema);

        return $schema;
    }

    /** Reads entities and fields from the first connection and keeps them. */
    public function readSchema(Migration $migration, string $file): Schema
    {
        /** @var Target $target */
        $target = $migration->targets()->orderBy('id')->firstOrFail();
        try {
            $schema = $this->schemas->read(new TargetLink($target));
        } catch (TargetUnavailable $e) {
            throw PlanError::at($file, 'target', $e->getMessage());
        }
        $this->keep($migration, $schema);

        return $schema;
    }

    /** Makes the catalogue's entities those of the schema. */
    public function keep(Migration $migration, Schema $schema): void
    {
        $position = 0;
        foreach ($schema->entities as $entity) {
            $migration
                ->entities()
                ->updateOrCreate(
                    ['name' => $entity->name],
                    ['definition' => $entity->toArray(), 'position' => ++$position],
                );
        }
        $migration->entities()->whereNotIn('name', array_keys($schema->entities))->whereDoesntHave('loads')->delete();
        $this->due->changed($migration);
    }

    /** @param  list<array<string, mixed>>  $sources */
    private function sources(Migration $migration, array $sources, string $file, PlanConnections $connections): void
    {
        foreach ($sources as $i => $s) {
            $source = $migration
                ->sources()
                ->updateOrCreate(['code' => $s['code']], ['name' => $s['name'], 'notes' => $s['notes'] ?? null]);
            $connections->ofSource($source, $i, $s['connections'] ?? []);
            foreach ($s['extracts'] ?? [] as $j => $e) {
                try {
                    $settings = Formats::settings($e['reader'] ?? []);
                } catch (\InvalidArgumentException|ReadingError $error) {
                    throw PlanError::at($file, "sources.$i.extracts.$j.reader", $error->getMessage());
                }
                $extract = $source
                    ->extracts()
                    ->updateOrCreate(
                        ['name' => $e['name']],
                        [
                            'origin' => $e['file'] ?? null,
                            'reader' => $settings->toArray(),
                            'row_key' => $e['row_key'] ?? null,
                            'finding_decisions' => $e['findings'] ?? null,
                            'not_loaded' => $e['not_loaded'] ?? null,
                        ],
                    );
                DB::table('column_decisions')->where('extract_id', $extract->id)->delete();
                foreach ($e['left_behind'] ?? [] as $header => $reason) {
                    DB::table('column_decisions')->insert([
                        'extract_id' => $extract->id,
                        'header' => (string) $header,
                        'reason' => $reason,
                        'created_at' => now(),
                        'updated_at' => now(),
                    ]);
                }
            }
        }
    }

    /** @param  list<array<string, mixed>>  $sources */
    private function references(Migration $migration, array $sources, string $file): void
    {
        foreach ($sources as $i => $s) {
            foreach ($s['references'] ?? [] as $j => $r) {
                [$code, $name] = explode('/', $r['to'], 2);
                $at = "sources.$i.references.$j";
                $child = $this->extract($migration, $s['code'], $r['from'])
                    ?? throw PlanError::noExtract($file, "$at.from", "$s[code]/$r[from]");
                $parent = $this->extract($migration, $code, $name)
                    ?? throw PlanError::noExtract($file, "$at.to", $r['to']);
                $this->reference($migration, $child, $r['columns'], $parent, $r['key'])
                    ->fill(['decision' => $r['is'] ?? 'accepted'])
                    ->save();
            }
        }
    }

    private function extract(Migration $migration, string $source, string $name): ?Extract
    {
        return Extract::query()
            ->where('name', $name)
            ->whereHas('source', fn ($q) => $q->where('migration_id', $migration->id)->where('code', $source))
            ->first();
    }

    /**
     * The one that is known, or a new one.
     *
     * @param  list<string>  $columns
     * @param  list<string>  $key
     */
    private function reference(
        Migration $migration,
        Extract $child,
        array $columns,
        Extract $parent,
        array $key,
    ): ColumnReference {
        return ColumnReference::query()
            ->where('extract_id', $child->id)
            ->where('parent_extract_id', $parent->id)
            ->get()
            ->first(fn (ColumnReference $o) => $o->columns === $columns && $o->parent_columns === $key)
            ?? new ColumnReference([
                'migration_id' => $migration->id,
                'extract_id' => $child->id,
                'columns' => $columns,
                'parent_extract_id' => $parent->id,
                'parent_columns' => $key,
                'values_total' => 0,
                'values_found' => 0,
                'orphan_rows' => 0,
            ]);
    }

    /** @param  list<array<string, mixed>>  $crosswalks */
    private function codes(Migration $migration, array $crosswalks): void
    {
        foreach ($crosswalks as $c) {
            $crosswalk = $migration
                ->codeCrosswalks()
                ->updateOrCreate(
                    ['name' => $c['name']],
                    [
                        'otherwise' => $c['otherwise'] ?? 'reject',
                        'otherwise_value' => $c['otherwise_value'] ?? null,
                        'note' => $c['note'] ?? null,
                    ],
                );
            $crosswalk->entries()->delete();
            foreach ($c['entries'] ?? [] as $old => $new) {
                $crosswalk
                    ->entries()
                    ->create([
                        'old_value' => trim((string) $old),
                        'new_value' => $new === null ? null : (string) $new,
                        'note' => $c['notes'][$old] ?? null,
                    ]);
            }
            foreach ($c['rejected'] ?? [] as $old) {
                $crosswalk
                    ->entries()
                    ->create([
                        'old_value' => trim($old),
                        'new_value' => null,
                        'decision' => CodeDecision::Reject,
                        'note' => $c['notes'][$old] ?? null,
                    ]);
            }
        }
        $migration->codeCrosswalks()->whereNotIn('name', array_column($crosswalks, 'name'))->delete();
    }

    /** @param  array<string, array{prompt: string, default?: string}>  $parameters */
    private function parameters(Migration $migration, array $parameters): void
    {
        foreach ($parameters as $name => $p) {
            $migration
                ->parameters()
                ->updateOrCreate(
                    ['name' => $name],
                    ['prompt' => $p['prompt'], 'default_value' => $p['default'] ?? null],
                );
        }
        $migration->parameters()->whereNotIn('name', array_map(strval(...), array_keys($parameters)))->delete();
    }

    /** @param  list<array<string, mixed>>  $loads */
    private function loads(Migration $migration, array $loads, Schema $schema, string $file): void
    {
        foreach ($loads as $i => $l) {
            $entity = $migration->entities()->where('name', $l['entity'])->first();
            if ($entity === null || ! isset($schema->entities[$l['entity']])) {
                throw PlanError::noEntity($file, "loads.$i.entity", $l['entity'], array_keys($schema->entities));
            }
            [$source, $name] = explode('/', $l['from'], 2);
            $load = $migration->loads()->updateOrCreate(
                ['name' => $l['name']],
                [
                    'entity_id' => $entity->id,
                    'extract_id' => $this->extract($migration, $source, $name)->id
                        ?? throw PlanError::noExtract($file, "loads.$i.from", $l['from']),
                    'position' => $i + 1,
                    'key_columns' => $l['key'],
                    'key_space' => $l['key_space'] ?? null,
                    'key_normalisation' => $l['key_compared'] ?? 'trim',
                    'scope' => $l['scope'] ?? null,
                    'scope_reason' => $l['scope_reason'] ?? null,
                    'policy' => $l['policy'] ?? 'create',
                    'match_rules' => $this->matchRules($entity, $l['match'] ?? [], $file, "loads.$i.match") ?: null,
                    'note' => $l['note'] ?? null,
                ],
            );
            $this->rules($load, $l['fields'] ?? [], $schema->entities[$l['entity']], $file, "loads.$i.fields");
        }
        $this->removeOtherLoads($migration, array_column($loads, 'name'), $file);
    }

    /**
     * Those of the plan take the place of those there are.
     *
     * @param  list<array{entity: string, name: string, on: array<string, string>}>  $rules
     */
    private function allMatchRules(Migration $migration, array $rules, Schema $schema, string $file): void
    {
        MatchRule::query()->whereIn('entity_id', $migration->entities()->select('id'))->delete();
        foreach ($rules as $i => $r) {
            $entity = $migration->entities()->where('name', $r['entity'])->first();
            $described = $schema->entities[$r['entity']] ?? null;
            if ($entity === null || $described === null) {
                throw PlanError::noEntity($file, "match_rules.$i.entity", $r['entity'], array_keys($schema->entities));
            }
            foreach (array_keys($r['on']) as $field) {
                if (! isset($described->fields[$field])) {
                    $known = array_keys($described->fields);
                    throw PlanError::noField($file, "match_rules.$i.on.$field", $entity->name, (string) $field, $known);
                }
            }
            if ($entity->matchRules()->where('name', $r['name'])->exists()) {
                throw PlanError::at($file, "match_rules.$i.name", "$entity->name has two match rules named \"$r[name]\".");
            }
            $entity->matchRules()->create(['name' => $r['name'], 'on' => $r['on']]);
        }
    }

    /**
     * @param  list<string>|array<string, string>  $match  names, or one rule by its fields
     * @return list<string> names
     */
    private function matchRules(EntityModel $entity, array $match, string $file, string $at): array
    {
        if ($match !== [] && ! array_is_list($match)) {
            foreach (array_keys($match) as $field) {
                if (! isset($entity->described()->fields[$field])) {
                    $known = array_keys($entity->described()->fields);
                    throw PlanError::noField($file, "$at.$field", $entity->name, (string) $field, $known);
                }
            }

            return [MatchRule::comparing($entity->id, $match)->name];
        }
        foreach ($match as $i => $name) {
            if (! $entity->matchRules()->where('name', $name)->exists()) {
                throw PlanError::at($file, "$at.$i", "$entity->name has no match rule named \"$name\".");
            }
        }

        return $match;
    }

    /** @param  array<string, string|array<string, string>>  $fields */
    private function rules(Load $load, array $fields, Entity $entity, string $file, string $at): void
    {
        foreach ($fields as $field => $rule) {
            if (! isset($entity->fields[$field])) {
                throw PlanError::noField($file, "$at.$field", $entity->name, $field, array_keys($entity->fields));
            }
            $rule = is_string($rule) ? ['rule' => $rule] : $rule;
            $load
                ->rules()
                ->updateOrCreate(
                    ['field' => $field],
                    [
                        'expression' => $rule['rule'] ?? null,
                        'empty_reason' => $rule['empty'] ?? null,
                        'note' => $rule['note'] ?? null,
                    ],
                );
        }
        $load
            ->rules()
            ->whereNotIn('field', array_map(strval(...), array_keys($fields)))
            ->get()
            ->each->delete();
    }

    /** @param  list<string>  $names of the loads that stay */
    private function removeOtherLoads(Migration $migration, array $names, string $file): void
    {
        foreach ($migration->loads()->whereNotIn('name', $names)->get() as $gone) {
            if (LedgerReader::knows($gone->id)) {
                throw PlanError::loadInRounds($file, $gone->name);
            }
            $gone->delete();
        }
    }
}
