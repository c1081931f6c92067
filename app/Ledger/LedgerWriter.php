<?php

namespace App\Ledger;

use App\Support\BulkRows;
use Baggage\Core\Rows\Outcome;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;

/** Writes the outcomes of rows, logs what they replace, and keeps the tallies in step. */
final class LedgerWriter
{
    private const COLUMNS = '(round_id, load_id, row_no, entity_id, source_id, legacy_key, twin, outcome, '
        .'target_key, cause_id, root_cause_id, pass_id)';

    private const LOGGED = ['round_id', 'load_id', 'row_no', 'pass_id', 'outcome', 'target_key', 'cause_id'];

    private const LEFT_OUT = [Outcome::Rejected->value, Outcome::Held->value, Outcome::Waived->value];

    /** @param  bool  $replaces whether rows of the batch may have an outcome already */
    public function record(LoadRun $run, BatchRecord $record, bool $replaces, MatchEntries $matches, float $seconds): void
    {
        DB::transaction(function () use ($run, $record, $replaces, $matches, $seconds) {
            $load = $run->load->id;
            $had = $replaces ? $this->setAside($run->round(), $load, $record->rows) : [];
            BulkRows::load(DB::connection(), 'outcomes', self::COLUMNS, $record->outcomes, count($record->rows));
            (new Links($run->round()))->replace($load, $record->rows, $record->links, $record->linkCount);
            $matches->write($run->load->entity->name, $record->matches);
            self::tally($run->round(), $load, self::sum($record->counts, array_map(fn (int $n) => -$n, $had)));
            $run->progress
                ->fill([
                    'cursor_row' => $record->last,
                    'rows_done' => $run->progress->rows_done + count($record->rows),
                    'counts' => self::sum($run->progress->counts ?? [], $record->counts),
                    'seconds' => (string) ((float) $run->progress->seconds + $seconds),
                ])
                ->save();
        });
    }

    /**
     * Rows of a load that have not been worked on yet, so that they are known by their keys.
     *
     * @param  array<int, string>  $keys  row number → legacy key
     */
    public function announce(LoadRun $run, array $keys): void
    {
        DB::transaction(function () use ($run, $keys) {
            $load = $run->load;
            $lines = '';
            foreach ($keys as $row => $key) {
                $lines .= BulkRows::line([
                    $run->round(),
                    $load->id,
                    $row,
                    $run->entity,
                    $run->source,
                    $key,
                    ($load->id << 32) | $row,
                    Outcome::Pending->value,
                    null,
                    null,
                    null,
                    $run->pass->id,
                ]);
            }
            BulkRows::load(DB::connection(), 'outcomes', self::COLUMNS, $lines, count($keys));
            self::tally($run->round(), $load->id, [Outcome::Pending->value => count($keys)]);
            $run->progress->update(['key_cursor' => (int) array_key_last($keys)]);
        });
    }

    /**
     * Rows that were left out wait to be loaded again.
     *
     * @param  list<int>  $rows
     * @return int how many
     */
    public function rowsWait(int $round, int $load, array $rows): int
    {
        return $this->wait($round, $load, fn (Builder $q) => $q->whereIntegerInRaw('row_no', $rows));
    }

    /** The same for rows left out for one of the causes that $causes (CauseReader::about) names. */
    public function causesWait(int $round, int $load, Builder $causes): int
    {
        return $this->wait($round, $load, fn (Builder $q) => $q->whereIn('cause_id', $causes));
    }

    /** Rows rejected for a cause stay behind: @return int how many */
    public function waive(int $round, int $load, int $cause): int
    {
        return DB::transaction(fn () => array_sum($this->change(
            fn () => $this->lines($round, $load)
                ->where('cause_id', $cause)
                ->where('outcome', Outcome::Rejected->value),
            $round,
            $load,
            Outcome::Waived,
        )));
    }

    /** Held rows point at the cause that holds them, after their parents failed anew for another one. */
    public function pointAtRoots(int $round, int $load, int $migration): void
    {
        $held = Outcome::Held->value;
        if (! $this->lines($round, $load)->where('outcome', $held)->exists()) {
            return;
        }
        // In this order whatever the server believes: its statistics are often those of a table that was empty a minute ago.
        DB::update(
            'UPDATE outcomes h FORCE INDEX (by_outcome) STRAIGHT_JOIN causes c ON c.id = h.cause_id
            STRAIGHT_JOIN entities e ON e.migration_id = ? AND e.name = c.parent_entity
            STRAIGHT_JOIN sources s ON s.migration_id = ? AND s.code = c.parent_source
            STRAIGHT_JOIN outcomes p FORCE INDEX (crosswalk) ON p.round_id = h.round_id AND p.entity_id = e.id
                AND p.source_id = s.id AND p.legacy_key = c.parent_key AND p.twin <> 0
            SET h.root_cause_id = COALESCE(p.root_cause_id, p.cause_id)
            WHERE h.round_id = ? AND h.load_id = ? AND h.outcome = ?',
            [$migration, $migration, $round, $load, $held],
        );
    }

    /** @param  \Closure(Builder): mixed  $which */
    private function wait(int $round, int $load, \Closure $which): int
    {
        return DB::transaction(fn () => array_sum($this->change(
            fn () => $this->lines($round, $load)->whereIn('outcome', self::LEFT_OUT)->tap($which),
            $round,
            $load,
            Outcome::Pending,
        )));
    }

    /**
     * @param  \Closure(): Builder  $lines
     * @return array<string, int> the outcomes they had
     */
    private function change(\Closure $lines, int $round, int $load, Outcome $to): array
    {
        $had = $this->counts($lines());
        if ($had !== []) {
            DB::table('outcome_log')->insertUsing(self::LOGGED, $lines()->select(self::LOGGED));
            $lines()->update(['outcome' => $to->value]);
            self::tally($round, $load, array_map(fn (int $n) => -$n, $had) + [$to->value => array_sum($had)]);
        }

        return $had;
    }

    /**
     * @param  list<int>  $rows
     * @return array<string, int> the outcomes they had
     */
    private function setAside(int $round, int $load, array $rows): array
    {
        $all = [];
        foreach (array_chunk($rows, 5000) as $some) {
            $lines = fn () => $this->lines($round, $load)->whereIntegerInRaw('row_no', $some);
            $had = $this->counts($lines());
            if ($had !== []) {
                // What merely waited was logged when it was repaired, or never had an outcome.
                $settled = $lines()->where('outcome', '<>', Outcome::Pending->value);
                DB::table('outcome_log')->insertUsing(self::LOGGED, $settled->select(self::LOGGED));
                $lines()->delete();
            }
            $all = self::sum($all, $had);
        }

        return $all;
    }

    private function lines(int $round, int $load): Builder
    {
        return DB::table('outcomes')->where('round_id', $round)->where('load_id', $load);
    }

    /** @return array<string, int> outcome → lines */
    private function counts(Builder $lines): array
    {
        return $lines
            ->groupBy('outcome')
            ->selectRaw('outcome, COUNT(*) AS n')
            ->pluck('n', 'outcome')
            ->map(fn ($n) => (int) $n)
            ->all();
    }

    /**
     * @param  array<string, int>  $a
     * @param  array<string, int>  $b
     * @return array<string, int>
     */
    private static function sum(array $a, array $b): array
    {
        foreach ($b as $name => $n) {
            $a[$name] = ($a[$name] ?? 0) + $n;
        }

        return $a;
    }

    /** @param  array<string, int>  $deltas outcome → rows more or fewer */
    private static function tally(int $round, int $load, array $deltas): void
    {
        $rows = [];
        foreach (array_filter($deltas) as $outcome => $n) {
            $rows[] = "($round,$load,'$outcome',$n)";
        }
        if ($rows !== []) {
            DB::connection()
                ->getPdo()
                ->exec('INSERT INTO tallies VALUES '.implode(',', $rows).' ON DUPLICATE KEY UPDATE n = n + VALUES(n)');
        }
    }
}
