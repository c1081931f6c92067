<?php

namespace App\Mapping;

use App\Catalogue\CodeUse;
use App\Catalogue\Definitions;
use App\Models\Load;
use App\Models\LoadCheck;
use App\Models\Migration;
use App\Staging\StagedPrints;
use App\Staging\StagedRows;
use App\Support\Attempts;
use Baggage\Core\Crosswalks\KeyNormalisation;
use Baggage\Core\Crosswalks\LegacyKey;
use Baggage\Core\Mapping\Check;
use Baggage\Core\Mapping\DefinitionError;
use Baggage\Core\Rows\Cause;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;

/** Checks a load on all its rows without touching the target: rules, types, lengths, required values, uniqueness, parents. */
final class LoadChecker
{
    private const CHUNK = 5_000;

    private const KEY = 1;

    private const UNIQUE = 10;

    private const CHILD = 60;

    private const PARENT = 160;

    /** Rows of a cause whose values are counted. */
    private const VALUED = 2_000;

    /** Changes with everything a check's outcome rests on. */
    public static function fingerprint(Definitions $definitions, Load $load): string
    {
        $extracts = $definitions->loads()->pluck('extract_id')->unique()->all();

        return hash(
            'xxh128',
            serialize([
                $load->rules->map(fn ($r) => [$r->field, $r->expression])->all(),
                $load->key_columns,
                $load->key_normalisation,
                $load->scope,
                $load->policy,
                $load->match_on,
                $load->extract->reader,
                $load->entity->definition,
                $definitions
                    ->loads()
                    ->map(fn (Load $l) => [$l->id, $l->extract->take_id, $l->key_columns, $l->key_normalisation])
                    ->all(),
                DB::table('code_entries')
                    ->join('code_crosswalks', 'code_crosswalks.id', '=', 'code_crosswalk_id')
                    ->where('migration_id', $definitions->migration->id)
                    ->selectRaw('COUNT(*) AS n, MAX(code_entries.updated_at) AS at')
                    ->first(),
                $definitions->migration
                    ->codeCrosswalks()
                    ->orderBy('id')
                    ->get(['otherwise', 'otherwise_value'])
                    ->toArray(),
                $definitions->parameters(),
                DB::table('corrections')
                    ->whereIn('extract_id', $extracts)
                    ->selectRaw('COUNT(*) AS n, MAX(updated_at) AS at')
                    ->first(),
            ]),
        );
    }

    /** Ends a check that ended its process too often. */
    public function giveUp(LoadCheck $check): void
    {
        CheckRows::forget($check);
        $check->update([
            'state' => 'failed',
            'error' => Attempts::exhausted('The check', Attempts::within($check->rows_done, self::CHUNK)),
        ]);
    }

    public function run(LoadCheck $check): void
    {
        $load = Load::query()->findOrFail($check->load_id);
        $definitions = new Definitions(Migration::query()->findOrFail($load->migration_id));
        $load = $definitions->loads()->firstWhere('id', $load->id) ?? $load;
        CheckRows::forget($check);
        if ($check->refresh()->state === 'stopping') {
            $check->update(['state' => 'stopped']);

            return;
        }
        $prints = new StagedPrints;
        $check->update([
            'state' => 'running',
            'rows_total' => (int) $load->extract->take?->rows,
            'rows_done' => 0,
            'error' => null,
            'fingerprint' => self::fingerprint($definitions, $load),
        ]);
        try {
            $found = new Check($definitions->mapper($load));
            $parents = $this->walk($check, $definitions, $load, $found, $prints);
            if ($parents === null) {
                $check->update(['state' => 'stopped', 'result' => null]);

                return;
            }
            $causes = $found->causes();
            $others = $this->others(
                $check,
                $definitions,
                $load,
                [...$this->duplicates($load), ...$this->orphans($parents)],
                count($causes),
            );
            $failures = $found->failures;
            $first = array_column(array_reverse($causes), 'number', 'field');
            foreach ($others as $other) {
                foreach ($other['fields'] as $field) {
                    $failures[$field] = ($failures[$field] ?? 0) + $other['n'];
                    $first[$field] ??= $other['number'];
                }
            }
            $check->update([
                'state' => 'done',
                'finished_at' => now(),
                'rows_done' => $found->rows,
                'result' => [
                    'rows' => $found->rows,
                    'excluded' => $found->excluded,
                    'reached' => $found->reached,
                    'failing' => $found->failing,
                    'failures' => $failures,
                    'first' => $first,
                    'empty' => $found->empty,
                    'causes' => $causes,
                    'others' => $others,
                    'rejected' => CheckRows::count($check),
                    'take' => $load->extract->take_id,
                    'unused_codes' => $this->unusedCodes($definitions, $load),
                ],
            ]);
        } catch (DefinitionError $e) {
            $check->update(['state' => 'failed', 'error' => $e->getMessage()]);
        } finally {
            $prints->clear();
        }
    }

    /**
     * What refers to what; null when it was stopped.
     *
     * @return list<array{field: string, entity: string, source: string, child: int, parent: int}>|null
     */
    private function walk(
        LoadCheck $check,
        Definitions $definitions,
        Load $load,
        Check $found,
        StagedPrints $prints,
    ): ?array {
        $rows = new StagedRows(
            (int) $load->extract->take_id,
            $load->extract_id,
            $load->extract->tidyColumns()->byHeader(),
        );
        $entity = $load->entity->described();
        $normalisations = $definitions->normalisations();
        $sides = [];
        for ($after = 0; ($chunk = $rows->after($after, self::CHUNK)) !== []; $after = (int) max(array_keys($chunk))) {
            $lines = '';
            $n = 0;
            $put = function (int $side, string $value, int $row) use (&$lines, &$n) {
                $lines .= StagedPrints::line($side, hash('xxh3', $value), $row);
                $n++;
            };
            foreach ($chunk as $number => $cells) {
                $row = $found->row($number, $cells);
                if ($row === null) {
                    continue;
                }
                $put(self::KEY, $row['key'], $number);
                foreach ($entity->uniques as $i => $fields) {
                    $values = array_map(fn ($f) => $row['values'][$f] ?? null, $fields);
                    if (! in_array(null, $values, true)) {
                        $put(self::UNIQUE + $i, mb_strtolower(implode("\x1F", $values)), $number);
                    }
                }
                foreach ($row['parents'] as $field => $parent) {
                    $refers = (string) $entity->fields[$field]->refers;
                    $name = "$field~$parent->source";
                    $sides[$name] ??= [
                        'field' => $field,
                        'entity' => $refers,
                        'source' => $parent->source,
                        'child' => self::CHILD + count($sides),
                        'parent' => self::PARENT + count($sides),
                    ];
                    $put(
                        $sides[$name]['child'],
                        LegacyKey::of(
                            $parent->parts,
                            $normalisations[$refers][$parent->source] ?? KeyNormalisation::Trim,
                        ),
                        $number,
                    );
                }
            }
            $prints->load($lines, $n);
            $noted = $found->noted();
            CheckRows::add(implode('', array_map(fn ($c) => "$check->id\t$c[0]\t$c[1]\n", $noted)), count($noted));
            if (
                LoadCheck::query()
                    ->whereKey($check->id)
                    ->where('state', 'running')
                    ->update(['rows_done' => $found->rows, 'updated_at' => now()]) === 0
            ) {
                return null;
            }
        }
        foreach ($sides as $side) {
            foreach (
                $definitions
                    ->loads()
                    ->filter(
                        fn (Load $l) => $l->entity->name === $side['entity']
                            && $l->extract->source->code === $side['source'],
                    ) as $parent
            ) {
                $this->parentKeys($definitions, $parent, $side['parent'], $prints);
            }
        }

        $prints->index();

        return array_values($sides);
    }

    private function parentKeys(Definitions $definitions, Load $parent, int $side, StagedPrints $prints): void
    {
        $rows = new StagedRows(
            (int) $parent->extract->take_id,
            $parent->extract_id,
            $parent->extract->tidyColumns()->byHeader(),
        );
        $mapper = $definitions->mapper($parent);
        for ($after = 0; ($chunk = $rows->after($after, self::CHUNK)) !== []; $after = (int) max(array_keys($chunk))) {
            $lines = '';
            foreach ($chunk as $number => $cells) {
                $lines .= StagedPrints::line($side, hash('xxh3', $mapper->legacyKey($cells)), $number);
            }
            $prints->load($lines, count($chunk));
        }
    }

    /** @return list<array{code: string, fields: list<string>, message: string, rows: Builder}> */
    private function duplicates(Load $load): array
    {
        $found = [];
        $sides = [self::KEY => [[], 'The legacy key is that of an earlier row']];
        // Duplicates that a match rule merges are no failure.
        foreach (($load->match_on ?: []) === [] ? $load->entity->described()->uniques : [] as $i => $fields) {
            $sides[self::UNIQUE + $i] = [$fields, 'Must be unique, and an earlier row has it'];
        }
        foreach ($sides as $side => [$fields, $message]) {
            $found[] = [
                'code' => $fields === [] ? 'duplicate_key' : 'taken',
                'fields' => array_values($fields),
                'message' => $message,
                'rows' => DB::table('row_prints as a')
                    ->where('a.side', $side)
                    ->whereExists(
                        fn ($q) => $q
                            ->selectRaw('1')
                            ->from('row_prints as b')
                            ->whereColumn('b.side', 'a.side')
                            ->whereColumn('b.print', 'a.print')
                            ->whereColumn('b.row_no', '<', 'a.row_no'),
                    ),
            ];
        }

        return $found;
    }

    /**
     * @param  list<array{field: string, entity: string, source: string, child: int, parent: int}>  $sides
     * @return list<array{code: string, fields: list<string>, message: string, rows: Builder}>
     */
    private function orphans(array $sides): array
    {
        return array_map(
            fn (array $side) => [
                'code' => 'orphan',
                'fields' => [$side['field']],
                'message' => ucfirst(str_replace('_', ' ', $side['entity']))." not found anywhere in $side[source]",
                'rows' => DB::table('row_prints as a')
                    ->where('a.side', $side['child'])
                    ->whereNotExists(
                        fn ($q) => $q
                            ->selectRaw('1')
                            ->from('row_prints as p')
                            ->where('p.side', $side['parent'])
                            ->whereColumn('p.print', 'a.print'),
                    ),
            ],
            $sides,
        );
    }

    /**
     * Writes down the rows of what only all rows together show.
     *
     * @param  list<array{code: string, fields: list<string>, message: string, rows: Builder}>  $kinds
     * @param  int  $number  of the last cause so far
     * @return list<array{
     *     number: int, code: string, fields: list<string>, field: string|null, message: string, n: int, values: array<array-key, int>,
     * }>
     */
    private function others(LoadCheck $check, Definitions $definitions, Load $load, array $kinds, int $number): array
    {
        $found = [];
        foreach ($kinds as $kind) {
            $n = CheckRows::found($check, ++$number, $kind['rows']);
            if ($n > 0) {
                $found[] = [
                    'number' => $number,
                    'n' => $n,
                    'field' => $kind['fields'] === [] ? null : implode(', ', $kind['fields']),
                    'values' => $this->values($check, $definitions, $load, $number, $kind['fields']),
                ] + array_diff_key($kind, ['rows' => 0]);
            }
        }

        return $found;
    }

    /**
     * @param  list<string>  $fields  none for the legacy key
     * @return array<array-key, int> value → rows, of the first rows the cause is about
     */
    private function values(LoadCheck $check, Definitions $definitions, Load $load, int $cause, array $fields): array
    {
        $numbers = CheckRows::first($check, $cause, self::VALUED);
        $mapper = $definitions->mapper($load);
        $values = [];
        foreach (
            (new StagedRows(
                (int) $load->extract->take_id,
                $load->extract_id,
                $load->extract->tidyColumns()->byHeader(),
            ))->numbered($numbers) as $cells
        ) {
            $made = array_map(fn (string $f) => $mapper->field($f, $mapper->filled($cells)), $fields);
            $value = $fields === []
                ? $mapper->legacyKey($cells)
                : implode(', ', array_map(fn ($v) => $v instanceof Cause ? '' : (string) $v, $made));
            $values[$value] = ($values[$value] ?? 0) + 1;
        }
        arsort($values);

        return array_slice($values, 0, 50, true);
    }

    /** @return array<string, int> code crosswalk used here → entries whose old value occurs nowhere */
    private function unusedCodes(Definitions $definitions, Load $load): array
    {
        $use = new CodeUse($definitions);
        $unused = [];
        foreach ($definitions->migration->codeCrosswalks()->with('entries')->get() as $crosswalk) {
            if (array_filter($use->of($crosswalk->name), fn ($u) => $u['load']->id === $load->id) !== []) {
                $n = count(array_filter($use->values($crosswalk), fn ($v) => $v['mapped'] && $v['rows'] === 0));
                if ($n > 0) {
                    $unused[$crosswalk->name] = $n;
                }
            }
        }

        return $unused;
    }
}
