<?php

namespace App\Plans;

use App\Models\CodeCrosswalk;
use App\Models\CodeDecision;
use App\Models\ColumnDecision;
use App\Models\ColumnReference;
use App\Models\Connection;
use App\Models\ControlTotal;
use App\Models\Entity;
use App\Models\Extract;
use App\Models\Load;
use App\Models\MatchRule;
use App\Models\Migration;
use App\Models\Parameter;
use App\Models\ReferenceDecision;
use App\Models\Rule;
use App\Models\Source;
use App\Models\Target;
use Baggage\Core\Crosswalks\KeyNormalisation;
use Baggage\Core\Crosswalks\Otherwise;
use Baggage\Core\Mapping\GonePolicy;
use Baggage\Core\Mapping\OthersPolicy;
use Baggage\Core\Mapping\WritePolicy;
use Illuminate\Support\Str;

/** Says a migration's whole definition as a plan: everything but data and secrets. */
final class PlanExporter
{
    /** @var array<int, iterable<Connection>> by source */
    private array $connections = [];

    /** @var array<int, iterable<ColumnReference>> by source */
    private array $references = [];

    /** @var array<int, iterable<ColumnDecision>> by extract */
    private array $decisions = [];

    /** @return array<string, mixed> */
    public function export(Migration $migration): array
    {
        $this->read($migration);
        $codes = $migration->codeCrosswalks()->with('entries')->orderBy('id')->get();
        $parameters = $migration->parameters()->orderBy('name')->get();
        $loads = $migration->loads()->with(['entity', 'extract.source', 'rules'])->orderBy('position')->get();

        return [
            'baggage' => 1,
            'migration' => $migration->name,
            'target' => $this->target($migration),
            'sources' => $migration->sources()->with('extracts')->orderBy('id')->get()->map($this->source(...))->all(),
            'code_crosswalks' => $codes->map($this->codes(...))->all(),
            'parameters' => (object) $parameters
                ->mapWithKeys(
                    fn (Parameter $p) => [
                        $p->name => $this->filled(['prompt' => $p->prompt, 'default' => $p->default_value]),
                    ],
                )
                ->all(),
            'match_rules' => $migration
                ->entities()
                ->with('matchRules')
                ->orderBy('position')
                ->get()
                ->flatMap(fn (Entity $e) => $e->matchRules->map(
                    fn (MatchRule $r) => ['entity' => $e->name, 'name' => $r->name, 'on' => $r->on],
                ))
                ->all(),
            'loads' => $loads->map($this->load(...))->all(),
            'proofs' => ControlTotal::query()->where('migration_id', $migration->id)->with(['entity', 'ofLoad'])->orderBy('position')->get()
                ->map(fn (ControlTotal $t) => $t->described()->toPlan())->all(),
        ];
    }

    /** What belongs to sources and extracts, asked for once for all of them. */
    private function read(Migration $migration): void
    {
        $this->connections = Connection::query()
            ->whereIn('source_id', $migration->sources()->select('id'))
            ->orderBy('id')
            ->get()
            ->groupBy('source_id')
            ->all();
        $this->references = ColumnReference::query()
            ->where('migration_id', $migration->id)
            ->where('decision', '<>', ReferenceDecision::Found)
            ->with(['extract', 'parent.source'])
            ->orderBy('id')
            ->get()
            ->groupBy(fn (ColumnReference $r) => $r->extract->source_id)
            ->all();
        $this->decisions = ColumnDecision::query()
            ->whereIn('extract_id', $migration->extracts()->select('extracts.id'))
            ->orderBy('id')
            ->get(['extract_id', 'header', 'reason'])
            ->groupBy('extract_id')
            ->all();
    }

    /** A name for the secret, also where it was typed on a screen: what is read again elsewhere asks the environment for it. */
    private static function secret(Target|Connection $described, string $of): ?string
    {
        $isTyped = $described->password_env === null && $described->password !== null && $described->password !== '';

        return $isTyped ? 'BAGGAGE_SECRET_'.strtoupper(Str::slug($of.$described->name, '_')) : $described->password_env;
    }

    /** @return array<string, mixed> */
    private function target(Migration $migration): array
    {
        $said = $this->filled([
            'application' => $migration->target_name,
            'description' => $migration->target_description,
        ]);
        $connections = $migration
            ->targets()
            ->orderBy('id')
            ->get()
            ->map(
                fn (Target $t) => $this->filled([
                    'name' => $t->name,
                    'host' => $t->host,
                    'port' => $t->port,
                    'database' => $t->database,
                    'username' => $t->username,
                    'password_env' => self::secret($t, ''),
                ]),
            );

        return $said + ['connections' => $connections->all()];
    }

    /** @return array<string, mixed> */
    private function source(Source $s): array
    {
        return $this->filled([
            'code' => $s->code,
            'name' => $s->name,
            'notes' => $s->notes,
            'connections' => $this->connections($s),
            'references' => $this->references($s),
            'extracts' => $s->extracts->sortBy('id')->map($this->extract(...))->values()->all(),
        ]);
    }

    /** @return array<string, mixed> */
    private function codes(CodeCrosswalk $c): array
    {
        $entries = $c->entries->sortBy('id');
        $rejected = $entries->where('decision', CodeDecision::Reject)->pluck('old_value')->all();

        return [
            'name' => $c->name,
            'entries' => (object) $entries
                ->where('decision', '<>', CodeDecision::Reject)
                ->pluck('new_value', 'old_value')
                ->all(),
        ] + $this->filled([
            'rejected' => array_map(strval(...), $rejected) ?: null,
            'otherwise' => $c->otherwise === Otherwise::Reject ? null : $c->otherwise->value,
            'otherwise_value' => $c->otherwise === Otherwise::Value ? $c->otherwise_value : null,
            'note' => $c->note,
            'notes' => $entries->whereNotNull('note')->pluck('note', 'old_value')->all() ?: null,
        ]);
    }

    /** @return list<array<string, mixed>>|null */
    private function connections(Source $source): ?array
    {
        return collect($this->connections[$source->id] ?? [])
            ->map(
                fn (Connection $c) => $this->filled([
                    'name' => $c->name,
                    'driver' => $c->driver->value,
                    'host' => $c->host,
                    'port' => $c->port,
                    'database' => $c->database,
                    'username' => $c->username,
                    'password_env' => self::secret($c, "{$source->code}_"),
                    'notes' => $c->notes,
                ]),
            )
            ->values()
            ->all()
            ?: null;
    }

    /** @return list<array<string, mixed>>|null what a person decided; what was merely found is found again */
    private function references(Source $source): ?array
    {
        return collect($this->references[$source->id] ?? [])
            ->map(
                fn (ColumnReference $r) => $this->filled([
                    'from' => $r->extract->name,
                    'columns' => $r->columns,
                    'to' => "{$r->parent->source?->code}/{$r->parent->name}",
                    'key' => $r->parent_columns,
                    'is' => $r->decision === ReferenceDecision::Accepted ? null : $r->decision->value,
                ]),
            )
            ->values()
            ->all()
            ?: null;
    }

    /** @return array<string, mixed> */
    private function extract(Extract $e): array
    {
        $decisions = collect($this->decisions[$e->id] ?? [])->pluck('reason', 'header')->all();

        return $this->filled([
            'name' => $e->name,
            'file' => $e->origin,
            'reader' => $e->reader ?: null,
            'row_key' => $e->row_key,
            'covering' => $e->covering,
            'allow_empty' => $e->allow_empty ?: null,
            'left_behind' => $decisions ?: null,
            'not_loaded' => $e->not_loaded,
            'findings' => array_map(fn ($d) => array_diff_key($d, ['by' => 0]), $e->finding_decisions ?? []) ?: null,
        ]);
    }

    /** @return array<string, mixed> */
    private function load(Load $l): array
    {
        $fields = $l->rules
            ->sortBy('id')
            ->mapWithKeys(
                fn (Rule $r) => [
                    $r->field => $r->note === null && $r->empty_reason === null
                            ? $r->expression
                            : $this->filled([
                                'rule' => $r->expression,
                                'empty' => $r->empty_reason,
                                'note' => $r->note,
                            ]),
                ],
            )
            ->filter()
            ->all();

        return $this->filled([
            'name' => $l->name,
            'entity' => $l->entity->name,
            'from' => $l->extract->source->code.'/'.$l->extract->name,
            'key' => $l->key_columns,
            'key_space' => $l->key_space,
            'key_compared' => $l->key_normalisation === KeyNormalisation::Trim ? null : $l->key_normalisation->value,
            'scope' => $l->scope,
            'scope_reason' => $l->scope_reason,
            'policy' => $l->policy === WritePolicy::Create ? null : $l->policy->value,
            'gone' => $l->gone === GonePolicy::Review ? null : $l->gone->value,
            'others' => $l->others === OthersPolicy::Overwrite ? null : $l->others->value,
            'match' => $l->match_rules ?: null,
            'note' => $l->note,
        ]) + ['fields' => (object) $fields];
    }

    /**
     * @param  array<string, mixed>  $a
     * @return array<string, mixed>
     */
    private function filled(array $a): array
    {
        return array_filter($a, fn ($v) => $v !== null && $v !== '');
    }
}
