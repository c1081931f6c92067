<?php

namespace App\Mapping;

use App\Catalogue\CodeColumn;
use App\Catalogue\CodeUse;
use App\Catalogue\Definitions;
use App\Models\CheckState;
use App\Models\Load;
use App\Models\LoadCheck;
use App\Models\Migration;
use App\Staging\StagedRows;
use App\Staging\ValueHashes;
use App\Support\Attempts;
use Baggage\Core\Mapping\Check;
use Baggage\Core\Mapping\DefinitionError;
use Baggage\Core\Mapping\Wanted;
use Baggage\Core\Rows\Cause;
use Illuminate\Support\Facades\DB;

/** Checks a load on all its rows without touching the target: rules, types, lengths, required values, uniqueness, parents. */
final class LoadChecker
{
    /** Rows of a cause whose values are counted. */
    private const VALUED = 2_000;

    /** Changes with everything a check's outcome rests on. */
    public static function hash(Load $load, string $basis): string
    {
        return hash('xxh128', serialize([
            $load->rules->sortBy('field')->map(fn ($r) => [$r->field, $r->expression])->values()->all(),
            $load->key_columns,
            $load->key_normalisation,
            $load->scope,
            $load->policy,
            $load->matches()->map(fn ($r) => $r->on)->all(),
            $load->extract->reader,
            $load->entity->definition,
            $basis,
        ]));
    }

    /** What the checks of all loads of a migration rest on: what each reads, codes, parameters, corrections. */
    public static function basis(Definitions $definitions): string
    {
        return hash('xxh128', serialize([
            $definitions->reads(),
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
                ->join('extracts', 'extracts.id', '=', 'corrections.extract_id')
                ->join('sources', 'sources.id', '=', 'extracts.source_id')
                ->where('sources.migration_id', $definitions->migration->id)
                ->selectRaw('COUNT(*) AS n, MAX(corrections.updated_at) AS at')
                ->first(),
        ]));
    }

    /** Ends a check that ended its process too often. */
    public function giveUp(LoadCheck $check): void
    {
        CheckRows::forget($check);
        $check->update([
            'state' => CheckState::Failed,
            'error' => Attempts::exhausted('The check', Attempts::within($check->rows_done, CheckWalk::CHUNK)),
        ]);
    }

    public function run(LoadCheck $check): void
    {
        $load = Load::query()->findOrFail($check->load_id);
        $definitions = new Definitions(Migration::query()->findOrFail($load->migration_id));
        $load = $definitions->loads()->firstWhere('id', $load->id) ?? $load;
        CheckRows::forget($check);
        if ($check->refresh()->state === CheckState::Stopping) {
            $check->update(['state' => CheckState::Stopped]);

            return;
        }
        $hashes = ValueHashes::begin();
        $check->update([
            'state' => CheckState::Running,
            'rows_total' => (int) $load->extract->take?->rows,
            'rows_done' => 0,
            'error' => null,
            'hash' => self::hash($load, self::basis($definitions)),
        ]);
        try {
            $found = new Check($definitions->mapper($load), Wanted::of($definitions->definition($load)));
            $walk = new CheckWalk($check, $definitions, $load, $hashes);
            $check->update($walk->through($found)
                ? ['state' => CheckState::Done, 'finished_at' => now(), 'rows_done' => $found->rows,
                    'result' => $this->result($check, $definitions, $load, $found, $walk)]
                : ['state' => CheckState::Stopped, 'result' => null]);
        } catch (DefinitionError $e) {
            $check->update(['state' => CheckState::Failed, 'error' => $e->getMessage()]);
        } finally {
            $hashes->clear();
        }
    }

    /** @return array<string, mixed> the figures, and the causes behind them */
    private function result(LoadCheck $check, Definitions $definitions, Load $load, Check $found, CheckWalk $walk): array
    {
        $causes = $found->causes();
        $others = $this->others($check, $definitions, $load, $walk->together(), count($causes));
        $failures = $found->failures;
        $first = [];
        foreach ($causes as $cause) {
            foreach (explode(', ', (string) $cause['field']) as $field) {
                $first[$field] ??= $cause['number'];
            }
        }
        foreach ($others as $other) {
            foreach ($other['fields'] as $field) {
                $failures[$field] = ($failures[$field] ?? 0) + $other['n'];
                $first[$field] ??= $other['number'];
            }
        }

        return [
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
        ];
    }

    /**
     * Writes down the rows of what only all rows together show.
     *
     * @param  list<SharedFailure>  $kinds
     * @param  int  $number  of the last cause so far
     * @return list<array{
     *     number: int, code: string, fields: list<string>, field: string|null, message: string, n: int, values: array<array-key, int>,
     * }>
     */
    private function others(LoadCheck $check, Definitions $definitions, Load $load, array $kinds, int $number): array
    {
        $found = [];
        foreach ($kinds as $kind) {
            $n = CheckRows::found($check, ++$number, $kind->rows);
            if ($n > 0) {
                $found[] = [
                    'number' => $number,
                    'n' => $n,
                    'code' => $kind->code,
                    'fields' => $kind->fields,
                    'field' => $kind->fields === [] ? null : implode(', ', $kind->fields),
                    'message' => $kind->message,
                    'values' => $this->values($check, $definitions, $load, $number, $kind->fields),
                ];
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
        foreach (StagedRows::ofLoad($load)->numbered($numbers) as $cells) {
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
        $use = CodeUse::by($definitions);
        $unused = [];
        foreach ($definitions->migration->codeCrosswalks()->with('entries')->get() as $crosswalk) {
            if (array_filter($use->of($crosswalk->name), fn (CodeColumn $u) => $u->load === $load->id) !== []) {
                $n = count(array_filter($use->values($crosswalk), fn ($v) => $v->mapped && $v->rows === 0));
                if ($n > 0) {
                    $unused[$crosswalk->name] = $n;
                }
            }
        }

        return $unused;
    }
}
