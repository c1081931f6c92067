<?php

namespace App\Plans;

use App\Mapping\Waiting;
use App\Models\Audit;
use App\Models\Migration;
use App\Models\Target;
use App\Reckoning\ControlTotals;
use App\Targets\OtherSchemas;
use App\Targets\Ports;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Plan\AgainstTarget;
use Baggage\Core\Plan\Conflict;
use Baggage\Core\Plan\Consistency;
use Baggage\Core\Plan\Items;
use Baggage\Core\Plan\Merge;
use Baggage\Core\Plan\PlanError;
use Baggage\Core\Plan\PlanFile;
use Baggage\Core\Reading\ReadingError;
use Baggage\Core\Reconciling\ControlTotal as Described;
use Baggage\Core\Targets\Describing\DescriptionError;
use Baggage\Core\Targets\Schema;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Str;

/**
 * Makes the catalogue say what a plan says, all of it or nothing. A migration of the same name is changed to match; what somebody did
 * on a screen since the plan was last applied stays where the file did not change it too (SEMANTICS 25).
 */
final class PlanImporter
{
    public function __construct(
        private readonly PlanExporter $exporter,
        private readonly Waiting $due,
    ) {
    }

    /**
     * @param  Migration|null  $into  null for a new one
     * @param  string|null  $folder  of a plan read on the command line; null when it came through a screen, where it opens no file
     *                               and learns nothing of the environment
     * @param  list<string>|null  $screen  paths of items that stay as the screen has them whatever the file says; null where conflicts
     *                                     refuse the plan
     *
     * @throws PlanError
     * @throws PlanConflicts
     */
    public function import(PlanFile $file, ?Migration $into, ?string $folder = null, ?array $screen = null): PlanResult
    {
        return DB::transaction(function () use ($file, $into, $folder, $screen) {
            $migration = $into === null ? null : Migration::query()->whereKey($into->id)->lockForUpdate()->firstOrFail();
            $merge = $this->merge($file, $migration);
            if ($merge->conflicts !== [] && $screen === null) {
                throw PlanConflicts::of($file->name, $merge->conflicts);
            }
            $kept = $screen ?? [];
            $result = $merge->with($kept);
            $merged = $file->with($result->plan($file->plan['migration']));
            self::refuse(Consistency::mistakes($merged));
            $migration = $this->apply($migration, $merged, $folder, $result, Items::of($file->plan));
            $migration->update(['plan_base' => json_encode($file->plan, JSON_THROW_ON_ERROR | JSON_UNESCAPED_UNICODE)]);
            $stays = array_values(array_unique([...$merge->kept, ...$kept]));
            Audit::note($migration->id, 'read a plan file', array_filter([
                'file' => basename($file->name),
                'on' => $folder === null ? null : 'the command line, as '.(posix_getpwuid(posix_geteuid())['name'] ?? posix_geteuid()),
                'kept from the screen' => array_map(Items::shown(...), array_slice($stays, 0, 200)),
                'over the screen' => array_map(
                    fn (Conflict $c) => Items::shown($c->path),
                    array_slice(array_filter($merge->conflicts, fn (Conflict $c) => ! in_array($c->path, $kept, true)), 0, 200),
                ),
            ]));

            return new PlanResult($migration, array_map(Items::shown(...), $stays));
        });
    }

    /** What the plan would change in a migration. */
    public function compare(PlanFile $file, Migration $migration): Merge
    {
        return $this->merge($file, $migration);
    }

    private function merge(PlanFile $file, ?Migration $migration): Merge
    {
        $base = json_decode($migration?->planBase() ?? 'null', true);

        $screen = $migration === null ? [] : Items::of($this->exporter->export($migration))->all;
        $is = Items::of($file->plan);
        foreach ($screen as $path => $item) {
            $names = Items::names($path);
            // A password that was typed has a name in what is exported alone: none, or another, in the file says nothing against it.
            if (($names[$names[0] === 'target' ? 1 : 2] ?? null) === 'connections') {
                $env = self::isSamePlace($item, $is->all[$path] ?? []) ? $is->all[$path]['password_env'] ?? null : null;
                $screen[$path] = array_diff_key($item, ['password_env' => 0]) + ($env === null ? [] : ['password_env' => $env]);
            }
        }

        return Merge::of(Items::of($base), $is, Items::from($screen));
    }

    /**
     * @param  array<string, mixed>  $a  a connection
     * @param  array<string, mixed>  $b
     */
    private static function isSamePlace(array $a, array $b): bool
    {
        $place = array_flip(['driver', 'host', 'port', 'database', 'username']);

        return array_intersect_key($a, $place) == array_intersect_key($b, $place);
    }

    /**
     * @param  Items  $result  what is to be
     * @param  Items  $said  what the file itself says
     */
    private function apply(?Migration $migration, PlanFile $file, ?string $folder, Items $result, Items $said): Migration
    {
        $plan = $file->plan;
        $migration ??= new Migration([
            'name' => $plan['migration'],
            'installation' => Str::random(16),
            'begun_by' => (int) Auth::id(),
        ]);
        $migration->fill([
            'target_name' => $plan['target']['application'],
            'target_description' => $plan['target']['description'] ?? null,
        ])->save();
        $connections = new PlanConnections($file, $folder !== null, $result->all, $said->all);
        $connections->targets($migration, $plan['target']['connections']);
        $schema = $migration->target_description === null
            ? $this->schemaFor($migration, $file)
            : $this->describedSchema($migration, $file, $folder);
        self::refuse(AgainstTarget::mistakes($file, $schema, PlanColumns::of($plan, $migration, $folder)));
        $sources = new PlanSources($migration, $file, $connections);
        $sources->apply();
        PlanCodes::apply($migration, $plan['code_crosswalks'] ?? []);
        $this->parameters($migration, $plan['parameters'] ?? []);
        (new PlanLoads($migration, $file))->apply();
        ControlTotals::become($migration, array_map(Described::fromPlan(...), $plan['proofs'] ?? []));
        $sources->prune();
        $this->due->changed($migration);

        return $migration;
    }

    /** @param  list<\Baggage\Core\Plan\Mistake>  $mistakes */
    private static function refuse(array $mistakes): void
    {
        if ($mistakes !== []) {
            throw PlanError::of($mistakes);
        }
    }

    /**
     * Once everything is frozen all columns are known: what the plan says of them is looked at before anything is written.
     *
     * @throws PlanError
     */
    public function checkColumns(Migration $migration, PlanFile $file): void
    {
        self::refuse(AgainstTarget::mistakes($file, $migration->schema(), PlanColumns::now($migration)));
    }

    /** Takes entities and fields from the file the plan names, below the plan's folder; of it nothing is quoted. */
    private function describedSchema(Migration $migration, PlanFile $file, ?string $folder): Schema
    {
        $name = (string) $migration->target_description;
        $field = ['target', 'description'];
        if ($folder === null) {
            return $migration->entities()->exists() ? $migration->schema() : throw $file->wrong(
                $field,
                'a plan read on a screen opens no file. Make the migration first and read its description at Target, then the plan; '
                    .'or read the plan on the command line',
            );
        }
        $path = PlanFiles::below($folder, $name)
            ?? throw $file->wrong($field, "the description $name is not there, may not be read, or lies outside the plan's folder");
        try {
            $schema = OtherSchemas::ofFile($path, basename($path));
        } catch (DescriptionError|ReadingError) {
            throw $file->wrong(
                $field,
                "$name describes no entities as docs/mapping.md says: a sheet with the headers Entity and Field, JSON Schema, OpenAPI, "
                    .'or SQLite. Read it at Target to see where',
            );
        }
        $this->keep($migration, $schema);

        return $schema;
    }

    private function schemaFor(Migration $migration, PlanFile $file): Schema
    {
        try {
            return $this->readSchema($migration);
        } catch (TargetUnavailable $e) {
            throw $file->wrong(['target'], $e->getMessage());
        }
    }

    /**
     * Reads entities and fields from the first connection and keeps them.
     *
     * @throws TargetUnavailable
     */
    public function readSchema(Migration $migration): Schema
    {
        /** @var Target $target */
        $target = $migration->targets()->orderBy('id')->firstOrFail();
        $schema = Ports::schemaOf($target);
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

    /** @param  array<string, array{prompt: string, default?: string}>  $parameters */
    private function parameters(Migration $migration, array $parameters): void
    {
        foreach ($parameters as $name => $p) {
            $migration
                ->parameters()
                ->updateOrCreate(
                    ['name' => $name],
                    ['name' => $name, 'prompt' => $p['prompt'], 'default_value' => $p['default'] ?? null],
                );
        }
        $migration->parameters()->whereNotIn('name', array_map(strval(...), array_keys($parameters)))->delete();
    }
}
