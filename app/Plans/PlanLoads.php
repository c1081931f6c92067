<?php

namespace App\Plans;

use App\Ledger\LedgerReader;
use App\Models\Entity;
use App\Models\Load;
use App\Models\MatchRule;
use App\Models\Migration;
use App\Models\Rule;
use Baggage\Core\Plan\PlanFile;
use Illuminate\Support\Facades\Auth;

/** Makes the loads of a migration, their rules and how records are matched those of a plan. */
final readonly class PlanLoads
{
    public function __construct(private Migration $migration, private PlanFile $file)
    {
    }

    public function apply(): void
    {
        $entities = $this->migration->entities()->get()->keyBy('name');
        $loads = $this->file->plan['loads'] ?? [];
        $this->removeOthers(array_column($loads, 'name'));
        $this->matchRules($this->file->plan['match_rules'] ?? [], $entities->all());
        foreach ($loads as $i => $l) {
            [$source, $name] = explode('/', $l['from'], 2);
            $extract = $this->migration->extracts()->where('extracts.name', $name)->where('sources.code', $source)->firstOrFail();
            $entity = $entities[$l['entity']];
            $load = $this->migration->loads()->updateOrCreate(
                ['name' => $l['name']],
                [
                    'name' => $l['name'],
                    'entity_id' => $entity->id,
                    'extract_id' => $extract->id,
                    'position' => $i + 1,
                    'key_columns' => $l['key'],
                    'key_space' => $l['key_space'] ?? null,
                    'key_normalisation' => $l['key_compared'] ?? 'trim',
                    'scope' => $l['scope'] ?? null,
                    'scope_reason' => $l['scope_reason'] ?? null,
                    'policy' => $l['policy'] ?? 'create',
                    'gone' => $l['gone'] ?? 'review',
                    'others' => $l['others'] ?? 'overwrite',
                    'match_rules' => $l['match'] ?? null,
                    'note' => $l['note'] ?? null,
                ],
            );
            self::rules($load, $l['fields'] ?? []);
        }
    }

    /**
     * Those of the plan take the place of those there are.
     *
     * @param  list<array{entity: string, name: string, on: array<string, string>}>  $rules
     * @param  array<array-key, Entity>  $entities
     */
    private function matchRules(array $rules, array $entities): void
    {
        MatchRule::query()->whereIn('entity_id', $this->migration->entities()->select('id'))->delete();
        foreach ($rules as $r) {
            $entities[$r['entity']]->matchRules()->create(['name' => $r['name'], 'on' => $r['on']]);
        }
    }

    /** @param  array<string, string|array<string, string>>  $fields */
    private static function rules(Load $load, array $fields): void
    {
        foreach ($fields as $field => $rule) {
            $rule = is_string($rule) ? ['rule' => $rule] : $rule;
            $kept = Rule::query()->firstOrNew(['load_id' => $load->id, 'field' => (string) $field]);
            $kept->fill([
                'expression' => $rule['rule'] ?? null,
                'empty_reason' => $rule['empty'] ?? null,
                'note' => $rule['note'] ?? null,
            ]);
            if ($kept->isDirty()) {
                // Somebody who has the rule before them on a screen is told that it is not as it was.
                $kept->fill(['version' => $kept->exists ? $kept->version + 1 : 1, 'user_id' => Auth::id()])->save();
            }
        }
        $load->rules()->whereNotIn('field', array_map(strval(...), array_keys($fields)))->get()->each->delete();
    }

    /** @param  list<string>  $names of the loads that stay */
    private function removeOthers(array $names): void
    {
        foreach ($this->migration->loads()->whereNotIn('name', $names)->get() as $gone) {
            if (LedgerReader::knows($gone->id)) {
                throw $this->file->wrong(
                    ['loads'],
                    "the load \"$gone->name\" is not in the plan, but rounds have outcomes of it; rename it back or import under another "
                        .'migration name',
                );
            }
            $gone->delete();
        }
    }
}
