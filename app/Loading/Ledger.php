<?php

namespace App\Loading;

use App\Support\BulkRows;
use Baggage\Core\Rows\Outcome;
use Illuminate\Support\Facades\DB;

/** Writes the outcomes of batches and keeps the tallies in step with them. */
final class Ledger
{
    public const COLUMNS = '(round_id, load_id, row_no, entity_id, source_id, legacy_key, twin, outcome, '
        .'target_key, cause_id, root_cause_id, pass_id)';

    /** @param  bool  $replaces whether rows of the batch may have an outcome already */
    public function record(
        LoadRun $run,
        BatchRecord $record,
        bool $replaces,
        LedgerMatches $matches,
        float $seconds,
    ): void {
        DB::transaction(function () use ($run, $record, $replaces, $matches, $seconds) {
            $db = DB::connection();
            $round = $run->round;
            $load = $run->load->id;
            $deltas = $record->counts;
            if ($replaces && $record->rows !== []) {
                foreach (array_chunk($record->rows, 5000) as $rows) {
                    foreach ($this->setAside($round, $load, $rows) as $outcome => $n) {
                        $deltas[$outcome] = ($deltas[$outcome] ?? 0) - $n;
                    }
                }
            }
            BulkRows::load($db, 'outcomes', self::COLUMNS, $record->outcomes, count($record->rows));
            if ($record->linkCount > 0) {
                DB::table('links')
                    ->where('round_id', $round)
                    ->where('load_id', $load)
                    ->whereIn('row_no', $record->rows)
                    ->delete();
                BulkRows::load(
                    $db,
                    'links',
                    '(round_id, load_id, row_no, field, parent_entity_id, parent_source_id, parent_key, target_key, state)',
                    $record->links,
                    $record->linkCount,
                );
            }
            $matches->write($run->load->entity->name, $record->matches);
            self::tally($round, $load, $deltas);
            $counts = $run->progress->counts ?? [];
            foreach ($record->counts as $outcome => $n) {
                $counts[$outcome] = ($counts[$outcome] ?? 0) + $n;
            }
            $run->progress
                ->fill([
                    'cursor_row' => $record->last,
                    'rows_done' => $run->progress->rows_done + count($record->rows),
                    'counts' => $counts,
                    'seconds' => (string) ((float) $run->progress->seconds + $seconds),
                ])
                ->save();
        });
    }

    /**
     * Rows repaired: they wait to be loaded again.
     *
     * @param  \Closure(\Illuminate\Database\Query\Builder): mixed  $which
     * @return int how many
     */
    public function makePending(int $round, int $load, \Closure $which): int
    {
        return DB::transaction(function () use ($round, $load, $which) {
            $query = fn () => DB::table('outcomes')
                ->where('round_id', $round)
                ->where('load_id', $load)
                ->whereIn('outcome', [Outcome::Rejected->value, Outcome::Held->value, Outcome::Waived->value])
                ->tap($which);
            $counts = $query()
                ->groupBy('outcome')
                ->selectRaw('outcome, COUNT(*) AS n')
                ->pluck('n', 'outcome')
                ->map(fn ($n) => -(int) $n)
                ->all();
            $n = -array_sum($counts);
            if ($n > 0) {
                DB::table('outcome_log')->insertUsing(
                    ['round_id', 'load_id', 'row_no', 'pass_id', 'outcome', 'target_key', 'cause_id'],
                    $query()->select(['round_id', 'load_id', 'row_no', 'pass_id', 'outcome', 'target_key', 'cause_id']),
                );
                $query()->update(['outcome' => Outcome::Pending->value]);
                self::tally($round, $load, $counts + [Outcome::Pending->value => $n]);
            }

            return (int) $n;
        });
    }

    /** @param  array<string, int>  $deltas outcome → rows more or fewer */
    public static function tally(int $round, int $load, array $deltas): void
    {
        $rows = [];
        foreach ($deltas as $outcome => $n) {
            if ($n !== 0) {
                $rows[] = "($round,$load,'$outcome',$n)";
            }
        }
        if ($rows !== []) {
            DB::connection()
                ->getPdo()
                ->exec(
                    'INSERT INTO tallies VALUES '.implode(',', $rows).' ON DUPLICATE KEY UPDATE n = n + VALUES(n)',
                );
        }
    }

    /**
     * @param  list<int>  $rows
     * @return array<string, int> the outcomes they had
     */
    private function setAside(int $round, int $load, array $rows): array
    {
        $query = fn () => DB::table('outcomes')
            ->where('round_id', $round)
            ->where('load_id', $load)
            ->whereIntegerInRaw('row_no', $rows);
        $had = $query()
            ->groupBy('outcome')
            ->selectRaw('outcome, COUNT(*) AS n')
            ->pluck('n', 'outcome')
            ->map(fn ($n) => (int) $n)
            ->all();
        if ($had !== []) {
            // What merely waited was logged when it was repaired, or never had an outcome.
            DB::table('outcome_log')->insertUsing(
                ['round_id', 'load_id', 'row_no', 'pass_id', 'outcome', 'target_key', 'cause_id'],
                $query()
                    ->where('outcome', '<>', 'pending')
                    ->select(['round_id', 'load_id', 'row_no', 'pass_id', 'outcome', 'target_key', 'cause_id']),
            );
            $query()->delete();
        }

        return $had;
    }
}
