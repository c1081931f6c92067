<?php

namespace App\Plans;

use App\Models\CodeCrosswalk;
use App\Models\CodeDecision;
use App\Models\Migration;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\DB;

/** Makes the code crosswalks of a migration those of a plan, many entries at a time. */
final class PlanCodes
{
    private const AT_ONCE = 2_000;

    /** @param  list<array<string, mixed>>  $crosswalks */
    public static function apply(Migration $migration, array $crosswalks): void
    {
        foreach ($crosswalks as $c) {
            $crosswalk = $migration->codeCrosswalks()->updateOrCreate(['name' => $c['name']], [
                // To the database a name in other capitals is the same; to rules it is not.
                'name' => $c['name'],
                'otherwise' => $c['otherwise'] ?? 'reject',
                'otherwise_value' => $c['otherwise_value'] ?? null,
                'note' => $c['note'] ?? null,
            ]);
            self::entries($crosswalk, self::wanted($c));
        }
        $migration->codeCrosswalks()->whereNotIn('name', array_column($crosswalks, 'name'))->delete();
    }

    /**
     * @param  array<string, mixed>  $crosswalk
     * @return array<array-key, array{new_value: string|null, decision: string, note: string|null}> by old value
     */
    private static function wanted(array $crosswalk): array
    {
        $wanted = [];
        foreach ($crosswalk['entries'] ?? [] as $old => $new) {
            $wanted[trim((string) $old)] = [
                'new_value' => $new === null ? null : (string) $new,
                'decision' => CodeDecision::Value->value,
                'note' => $crosswalk['notes'][$old] ?? null,
            ];
        }
        foreach ($crosswalk['rejected'] ?? [] as $old) {
            $wanted[trim((string) $old)] = [
                'new_value' => null,
                'decision' => CodeDecision::Reject->value,
                'note' => $crosswalk['notes'][$old] ?? null,
            ];
        }

        return $wanted;
    }

    /** @param  array<array-key, array{new_value: string|null, decision: string, note: string|null}>  $wanted */
    private static function entries(CodeCrosswalk $crosswalk, array $wanted): void
    {
        $there = $gone = $changed = [];
        $entries = DB::table('code_entries')->where('code_crosswalk_id', $crosswalk->id);
        foreach ($entries->clone()->orderBy('id')->get(['id', 'old_value', 'new_value', 'decision', 'note']) as $entry) {
            $says = ['new_value' => $entry->new_value, 'decision' => $entry->decision, 'note' => $entry->note];
            $there[$entry->old_value] = true;
            if (! isset($wanted[$entry->old_value])) {
                $gone[(string) $entry->old_value] = (int) $entry->id;
            } elseif ($wanted[$entry->old_value] !== $says) {
                $changed[(string) $entry->old_value] = $wanted[$entry->old_value];
            }
        }
        $new = array_diff_key($wanted, $there);
        self::remember($crosswalk->id, $changed, $gone, $there === [] ? [] : $new);
        foreach (array_chunk($gone, self::AT_ONCE) as $ids) {
            DB::table('code_entries')->whereIntegerInRaw('id', $ids)->delete();
        }
        foreach (array_chunk(self::lines($crosswalk->id, $new + $changed), self::AT_ONCE) as $lines) {
            DB::table('code_entries')->upsert(
                $lines,
                ['code_crosswalk_id', 'old_value'],
                ['new_value', 'decision', 'note', 'user_id', 'updated_at'],
            );
        }
    }

    /**
     * @param  array<array-key, array{new_value: string|null, decision: string, note: string|null}>  $wanted
     * @return list<array<string, mixed>>
     */
    private static function lines(int $crosswalk, array $wanted): array
    {
        $with = ['code_crosswalk_id' => $crosswalk, 'user_id' => Auth::id(), 'created_at' => now(), 'updated_at' => now()];

        return array_map(
            fn ($old, array $says) => ['old_value' => (string) $old] + $says + $with,
            array_keys($wanted),
            array_values($wanted),
        );
    }

    /**
     * What is changed or goes is written down: as it was, where that was not known yet, and as it is.
     *
     * @param  array<array-key, array{new_value: string|null, decision: string, note: string|null}>  $changed
     * @param  array<array-key, int>  $gone
     * @param  array<array-key, array{new_value: string|null, decision: string, note: string|null}>  $new  beside others that were there
     */
    private static function remember(int $crosswalk, array $changed, array $gone, array $new): void
    {
        $columns = ['code_crosswalk_id', 'old_value', 'new_value', 'decision', 'user_id', 'at'];
        $known = DB::table('code_versions')->where('code_crosswalk_id', $crosswalk)->select('old_value');
        foreach (array_chunk([...array_keys($changed), ...array_keys($gone)], self::AT_ONCE) as $olds) {
            $before = DB::table('code_entries')
                ->where('code_crosswalk_id', $crosswalk)
                ->whereIn('old_value', array_map(strval(...), $olds))
                ->whereNotIn('old_value', $known)
                ->selectRaw('code_crosswalk_id, old_value, new_value, decision, user_id, COALESCE(updated_at, NOW(3))');
            DB::table('code_versions')->insertUsing($columns, $before);
        }
        $now = [];
        foreach ($changed + $new as $old => $says) {
            $now[] = ['old_value' => (string) $old, 'new_value' => $says['new_value'], 'decision' => $says['decision']];
        }
        foreach (array_keys($gone) as $old) {
            $now[] = ['old_value' => (string) $old, 'new_value' => null, 'decision' => null];
        }
        foreach (array_chunk($now, self::AT_ONCE) as $lines) {
            DB::table('code_versions')->insert(
                array_map(fn ($l) => $l + ['code_crosswalk_id' => $crosswalk, 'user_id' => Auth::id(), 'at' => now()], $lines),
            );
        }
    }
}
