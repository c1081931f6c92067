<?php

namespace App\Plans;

use App\Models\ColumnDecision;
use App\Models\ColumnReference;
use App\Models\Extract;
use App\Models\Migration;
use App\Models\ReferenceDecision;
use App\Models\Source;
use Baggage\Core\Feeds\Formats;
use Baggage\Core\Plan\PlanFile;
use Illuminate\Support\Facades\DB;

/** Makes the sources, extracts and references of a migration those of a plan. What holds takes is never removed by a file. */
final readonly class PlanSources
{
    public function __construct(private Migration $migration, private PlanFile $file, private PlanConnections $connections)
    {
    }

    public function apply(): void
    {
        $sources = $this->file->plan['sources'];
        foreach ($sources as $i => $s) {
            $source = $this->migration->sources()->updateOrCreate(
                ['code' => $s['code']],
                ['code' => $s['code'], 'name' => $s['name'], 'notes' => $s['notes'] ?? null],
            );
            $this->connections->ofSource($source, $i, $s['connections'] ?? []);
            foreach ($s['extracts'] ?? [] as $e) {
                self::extract($source, $e);
            }
        }
        $this->references();
    }

    /** What the plan does not have any more, once its loads are gone too. */
    public function prune(): void
    {
        $extracts = [];
        foreach ($this->file->plan['sources'] as $s) {
            $extracts[$s['code']] = array_column($s['extracts'] ?? [], 'name');
        }
        foreach ($this->migration->sources()->get() as $source) {
            $source->extracts()
                ->whereNotIn('name', $extracts[$source->code] ?? [])
                ->whereDoesntHave('takes')
                ->whereDoesntHave('loads')
                ->get()
                ->each
                ->delete();
            if (! isset($extracts[$source->code]) && ! $source->extracts()->exists()) {
                $source->delete();
            }
        }
    }

    /** @param  array<string, mixed>  $e */
    private static function extract(Source $source, array $e): void
    {
        $extract = $source->extracts()->firstOrNew(['name' => $e['name']]);
        $extract->fill([
            'name' => $e['name'],
            'origin' => $e['file'] ?? null,
            'reader' => Formats::settings($e['reader'] ?? [])->toArray(),
            'row_key' => $e['row_key'] ?? null,
            'covering' => $e['covering'] ?? null,
            'allow_empty' => $e['allow_empty'] ?? false,
            'finding_decisions' => self::decisions($extract, $e['findings'] ?? []),
            'not_loaded' => $e['not_loaded'] ?? null,
        ])->save();
        $left = $e['left_behind'] ?? [];
        ColumnDecision::query()
            ->where('extract_id', $extract->id)
            ->whereNotIn('header', array_map(strval(...), array_keys($left)))
            ->delete();
        foreach ($left as $header => $reason) {
            $decision = ColumnDecision::query()->firstOrNew(['extract_id' => $extract->id, 'header' => (string) $header]);
            if ($decision->reason !== $reason) {
                $decision->fill(['reason' => $reason])->save();
            }
        }
    }

    /**
     * Who decided stays known where the decision is as it was.
     *
     * @param  list<array{finding: string, column?: string, is: string, note?: string}>  $findings
     * @return list<array<string, mixed>>|null
     */
    private static function decisions(Extract $extract, array $findings): ?array
    {
        foreach ($findings as $n => $finding) {
            $old = $extract->decisionOn($finding['finding'], $finding['column'] ?? null);
            if ($old !== null && array_diff_key($old, ['by' => 0]) == $finding) {
                $findings[$n] = $old;
            }
        }

        return $findings ?: null;
    }

    private function references(): void
    {
        $stated = [];
        foreach ($this->file->plan['sources'] as $s) {
            foreach ($s['references'] ?? [] as $r) {
                [$code, $name] = explode('/', $r['to'], 2);
                $child = $this->find($s['code'], $r['from']);
                $parent = $this->find($code, $name);
                $reference = $this->reference($child, $r['columns'], $parent, $r['key']);
                $reference->fill(['decision' => $r['is'] ?? 'accepted'])->save();
                $stated[] = $reference->id;
            }
        }
        ColumnReference::query()
            ->where('migration_id', $this->migration->id)
            ->where('decision', '<>', ReferenceDecision::Found)
            ->whereNotIn('id', $stated)
            ->update(['decision' => ReferenceDecision::Found]);
        // What nobody states and the data does not bear out is nothing.
        DB::table('column_references')
            ->where('migration_id', $this->migration->id)
            ->where('decision', ReferenceDecision::Found)
            ->whereNull('number')
            ->delete();
    }

    private function find(string $source, string $name): Extract
    {
        return $this->migration->extracts()->where('extracts.name', $name)->where('sources.code', $source)->firstOrFail();
    }

    /**
     * The one that is known, or a new one.
     *
     * @param  list<string>  $columns
     * @param  list<string>  $key
     */
    private function reference(Extract $child, array $columns, Extract $parent, array $key): ColumnReference
    {
        return ColumnReference::query()
            ->where('extract_id', $child->id)
            ->where('parent_extract_id', $parent->id)
            ->get()
            ->first(fn (ColumnReference $o) => $o->columns === $columns && $o->parent_columns === $key)
            ?? new ColumnReference([
                'migration_id' => $this->migration->id,
                'extract_id' => $child->id,
                'columns' => $columns,
                'parent_extract_id' => $parent->id,
                'parent_columns' => $key,
                'values_total' => 0,
                'values_found' => 0,
                'orphan_rows' => 0,
            ]);
    }
}
