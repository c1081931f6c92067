<?php

namespace App\Ledger;

use App\Models\Round;
use App\Models\Take;
use App\Support\BulkRows;
use Baggage\Core\Loading\Answer;
use Baggage\Core\Loading\Done;
use Baggage\Core\Mapping\GonePolicy;
use Baggage\Core\Reconciling\CountProof;
use Baggage\Core\Rows\Outcome;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Collection;
use Illuminate\Support\Facades\DB;

/** Writes the outcomes of rows, logs what they replace, and keeps tallies and counters in step. */
final class LedgerWriter
{
    private const COLUMNS = '(item, legacy_key, stands, outcome, target_key, @hash) SET sent_hash = UNHEX(@hash)';

    private const CAUSES = '(lane_id, load_id, item, cause_id, root_cause_id)';

    private const HOLDS = '(lane_id, load_id, item, pass_id, holds)';

    private const BEFORE = '(pass_id, load_id, item, entity_id, target_key, `values`)';

    /** Held rows pointed at another cause at a time. */
    private const ROOTS_AT_ONCE = 20_000;

    /** Workers may be in each other's way. */
    private const TRIES = 5;

    private const LOGGED = ['lane_id', 'load_id', 'item', 'pass_id', 'outcome', 'target_key', 'sent_hash', 'cause_id',
        'by_pass', 'legacy_key'];

    /**
     * @param  bool  $replaces whether rows of the batch may have an outcome already
     * @param  float  $seconds  it took
     */
    public function record(
        LoadRun $run,
        BatchRecord $record,
        bool $replaces,
        MatchEntries $matches,
        Stretches $stretches,
        float $seconds,
    ): void {
        DB::transaction(function () use ($run, $record, $replaces, $matches, $stretches, $seconds) {
            [$lane, $load, $db] = [$run->lane(), $run->load->id, DB::connection()];
            $had = $replaces ? $this->setAside($lane, $load, $record->rows, $run->number()) : [];
            [$back, $freed] = $this->displace($run, $record, $matches);
            BulkRows::load($db, 'outcomes', self::columns($run), $record->outcomes, count($record->rows));
            BulkRows::load($db, 'row_causes', self::CAUSES, $record->causes, $record->causeCount);
            BulkRows::load($db, 'values_before', self::BEFORE, $record->before, $record->beforeCount);
            BulkRows::load($db, 'written_otherwise', self::HOLDS, $record->holds, $record->holdsCount);
            $linked = array_values(array_diff($record->rows, $record->older));
            $run->isDelta() ? (new Links($lane))->forget($load, $linked) : null;
            (new Links($lane))->replace($load, $linked, $record->links, $record->linkCount);
            $again = DeltaBook::note($run, $record);
            $back = $back === null || $again === null ? $back ?? $again : min($back, $again);
            $matches->write($run->load->entity->name, $record->matches);
            $stretches->done($record->kind, $record->after);
            // What all workers write to comes last, so that they wait for each other as short as can be.
            CauseTallies::add($lane, $record->ofCauses);
            self::tally($lane, $load, self::sum($record->counts, array_map(fn (int $n) => -$n, $had)));
            Counters::add($lane, $run->entity, $record->made, $record->removed);
            $again = $this->tryAgain($run, $freed);
            $back = $back === null || $again === null ? $back ?? $again : min($back, $again);
            $this->progress($run, $record, $back, $seconds);
        }, self::TRIES);
    }

    /** What all lines of a load have alike is said once. */
    private static function columns(LoadRun $run): string
    {
        return self::COLUMNS.", lane_id = {$run->lane()}, load_id = {$run->load->id}, space_id = $run->space, pass_id = {$run->number()}";
    }

    /** @param  int|null  $back  the first row of the load that waits again */
    private function progress(LoadRun $run, BatchRecord $record, ?int $back, float $seconds): void
    {
        $back === null ?: DB::table('pass_loads')->where('id', $run->progress->id)
            ->update(['turn_row' => DB::raw('LEAST(turn_row, '.($back - 1).')')]);
        $same = count($record->same);
        $counts = array_diff_key($record->counts, [CountProof::OLDER => 0]) + ($same === 0 ? [] : ['same' => $same])
            + ($run->isDelta() && $record->made > 0 ? ['made' => $record->made] : []);
        $this->progressed($run, count($record->rows) + $same, $counts, $seconds);
    }

    /** @param  array<string, int>  $more  counts of what was done */
    private function progressed(LoadRun $run, int $rows, array $more, float $seconds): void
    {
        $now = now()->toImmutable();
        $line = DB::table('pass_loads')->where('id', $run->progress->id);
        $counts = json_decode((string) (clone $line)->lockForUpdate()->value('counts'), true) ?: [];
        $line->update([
            'rows_done' => DB::raw("rows_done + $rows"),
            'counts' => json_encode(self::sum($counts, $more)),
            'seconds' => DB::raw(sprintf('seconds + %.3F', $seconds)),
            'began_at' => DB::raw("COALESCE(began_at, '".$now->subMilliseconds((int) ($seconds * 1000))->format('Y-m-d H:i:s.v')."')"),
            'ended_at' => $now->format('Y-m-d H:i:s.v'),
            'updated_at' => $now,
        ]);
    }

    /**
     * Rows whose record or legacy key an earlier one has now wait again, and those that changed such a record.
     *
     * @return array{int|null, list<string>} the first of them that is of this load, and keys rows gave up that are delivered no more
     */
    private function displace(LoadRun $run, BatchRecord $record, MatchEntries $matches): array
    {
        $lane = $run->lane();
        $rows = $record->takenOver === [] ? [] : DB::table('outcomes')
            ->join('loads', fn ($j) => $j->on('loads.id', '=', 'outcomes.load_id')->where('loads.entity_id', $run->entity))
            ->where('outcomes.lane_id', $lane)
            ->whereIn('outcomes.target_key', $record->takenOver)
            ->where('outcomes.outcome', '<>', Outcome::Removed->value)
            ->get(['outcomes.load_id', 'outcomes.item'])
            ->map(fn ($r) => [(int) $r->load_id, (int) $r->item])
            ->all();
        $of = [];
        foreach ([...$rows, ...$this->giveUpKeys($lane, $record->displaced)] as [$load, $item]) {
            $of[$load][] = $item;
        }
        $gone = LedgerReader::BESIDE;
        $freed = [];
        foreach ($of as $load => $items) {
            $lines = fn () => $this->lines($lane, $load)->whereIntegerInRaw('outcomes.item', $items);
            array_push($freed, ...$run->isDelta() ? $lines()->whereIn('outcomes.outcome', $gone)->pluck('outcomes.legacy_key')->all() : []);
            $run->isDelta() ? DeltaBook::move($run->number(), $lane, $load, $items) : null;
            // A row that is delivered no more has nothing to wait for.
            $this->change(fn () => $lines()->whereIn('outcomes.outcome', $gone), $lane, $load, Outcome::Withdrawn, $run->number());
            $this->change(fn () => $lines()->where('outcomes.outcome', '<>', Outcome::Withdrawn->value), $lane, $load, Outcome::Pending,
                $run->number());
            $lines()->update(['outcomes.stands' => null, 'outcomes.target_key' => null, 'outcomes.sent_hash' => null]);
            (new Links($lane))->forget($load, $items);
        }
        $matches->forgetRows($run->load->entity->name, $record->takenOver);

        return [isset($of[$run->load->id]) ? min($of[$run->load->id]) : null, array_map(strval(...), $freed)];
    }

    /**
     * Rows of the load that were kept out by a key somebody has given up since.
     *
     * @param  list<string>  $keys
     * @return int|null the first of them
     */
    private function tryAgain(LoadRun $run, array $keys): ?int
    {
        $items = $keys === [] ? [] : DB::table(DB::raw('outcomes FORCE INDEX (crosswalk)'))->where('lane_id', $run->lane())
            ->where('space_id', $run->space)->whereIn('legacy_key', $keys)->where('load_id', $run->load->id)
            ->where('outcome', Outcome::Rejected->value)->whereNull('target_key')->pluck('item')->map(fn ($n) => (int) $n)->all();
        if ($items === []) {
            return null;
        }
        $lines = fn () => $this->lines($run->lane(), $run->load->id)->whereIntegerInRaw('outcomes.item', $items);
        $this->change($lines, $run->lane(), $run->load->id, Outcome::Pending, $run->number());

        return min($items);
    }

    /**
     * Rows that are delivered no more and whose record is about to go give up their key alone: the record goes all the same.
     *
     * @param  list<array{int, int}>  $displaced  load and row
     * @return list<array{int, int}> the others
     */
    private function giveUpKeys(int $lane, array $displaced): array
    {
        return array_values(array_filter($displaced, function (array $of) use ($lane) {
            $leaving = $this->lines($lane, $of[0])->where('outcomes.item', $of[1])->where('outcomes.outcome', Outcome::Withdrawn->value)
                ->whereNotNull('outcomes.target_key');

            $isLeaving = $leaving->exists();
            $leaving->update(['outcomes.stands' => null]);

            return ! $isLeaving;
        }));
    }

    /**
     * Rows of a load that have not been worked on yet, so that they are known by their keys.
     *
     * @param  array<int, string>  $keys  row number → legacy key
     * @param  int  $to  the last row they are of
     */
    public function announce(LoadRun $run, array $keys, int $to): void
    {
        DB::transaction(function () use ($run, $keys, $to) {
            // Where a pass ended in between, some have their line.
            $has = $keys === [] || $run->progress->rows_done === 0 ? [] : $this->lines($run->lane(), $run->load->id)
                ->whereBetween('outcomes.item', [min(array_keys($keys)), max(array_keys($keys))])
                ->pluck('outcomes.item', 'outcomes.item')
                ->all();
            $keys = array_diff_key($keys, $has);
            $this->pend($run, $keys);
            $run->progress->update(['key_cursor' => $to]);
        }, self::TRIES);
    }

    /**
     * Lines of rows that have none, which wait.
     *
     * @param  array<int, string>  $keys  row number → legacy key
     */
    public function pend(LoadRun $run, array $keys): void
    {
        $lines = '';
        foreach ($keys as $row => $key) {
            $lines .= BulkRows::line([$row, $key, null, Outcome::Pending->value, null, null]);
        }
        BulkRows::load(DB::connection(), 'outcomes', self::columns($run), $lines, count($keys));
        self::tally($run->lane(), $run->load->id, [Outcome::Pending->value => count($keys)]);
    }

    /**
     * Rows that are delivered no more stand beside the sum from now on: those with a record as the policy says, the others with none.
     *
     * @param  list<int>  $items
     */
    public function leave(int $lane, int $load, array $items, GonePolicy $policy, int $by): void
    {
        // The record of one that was merged is another row's: it loses its line alone.
        $stand = $this->lines($lane, $load)->whereIntegerInRaw('outcomes.item', $items)->whereNotNull('outcomes.target_key')
            ->whereNotIn('outcomes.outcome', [Outcome::Removed->value, Outcome::Merged->value])
            ->pluck('outcomes.item')->map(fn ($n) => (int) $n)->all();
        $this->become($lane, $load, $stand, match ($policy) {
            GonePolicy::Keep => Outcome::Gone,
            GonePolicy::Review => Outcome::Review,
            // Until its record goes it stands as one that is about to.
            GonePolicy::Remove => Outcome::Withdrawn,
        }, $by);
        $rest = array_values(array_diff($items, $stand));
        DeltaBook::move($by, $lane, $load, $rest);
        $this->become($lane, $load, $rest, Outcome::Withdrawn, $by, true);
        (new Links($lane))->forget($load, $rest);
    }

    /**
     * Records of rows that are delivered no more are removed, or left for somebody to decide.
     *
     * @param  list<int>  $withdrawn  rows whose record is no more, or is another row's alone
     * @param  array<int, int>  $review  row → why its record is left
     * @param  list<Answer>  $answers  of the target
     */
    public function withdraw(LoadRun $run, array $withdrawn, array $review, array $answers, MatchEntries $matches): void
    {
        DB::transaction(function () use ($run, $withdrawn, $review, $answers, $matches) {
            [$lane, $load, $by] = [$run->lane(), $run->load->id, $run->number()];
            $before = $keys = [];
            $made = 0;
            foreach ($answers as $answer) {
                $made += $answer->done->records();
                if ($answer->done === Done::Removed) {
                    $keys[] = (string) $answer->targetKey;
                    $before[] = BulkRows::line([
                        $by, $load, $answer->row, $run->entity, (string) $answer->targetKey, BatchRecord::json($answer->before),
                    ]);
                }
            }
            // Rows out of scope stay excluded, and stand on nothing any more.
            $excluded = $this->lines($lane, $load)->whereIntegerInRaw('outcomes.item', [...$withdrawn, ...array_keys($review)])
                ->where('outcomes.outcome', Outcome::Excluded->value)->pluck('outcomes.item')->map(fn ($n) => (int) $n)->all();
            DeltaBook::move($by, $lane, $load, $withdrawn);
            $this->become($lane, $load, array_values(array_intersect($withdrawn, $excluded)), Outcome::Excluded, $by, true);
            $this->become($lane, $load, array_values(array_diff($withdrawn, $excluded)), Outcome::Withdrawn, $by, true);
            (new Links($lane))->forget($load, $withdrawn);
            $this->letGo($run, $keys);
            $matches->forgetRows($run->load->entity->name, $keys);
            $left = array_diff_key($review, array_flip($excluded));
            $this->become($lane, $load, array_keys($left), Outcome::Review, $by);
            $causes = array_map(fn (int $row, int $cause) => BulkRows::line([$lane, $load, $row, $cause, null]), array_keys($left), $left);
            BulkRows::load(DB::connection(), 'row_causes', self::CAUSES, implode('', $causes), count($causes));
            BulkRows::load(DB::connection(), 'values_before', self::BEFORE, implode('', $before), count($before));
            CauseTallies::add($lane, array_map(fn (int $n) => [Outcome::Review->value => $n], array_count_values($left)));
            Counters::add($lane, $run->entity, $made, -$made);
            $this->progressed($run, 0, ['removed' => count($keys), 'review' => count($left)], 0);
        }, self::TRIES);
    }

    /**
     * Rows that changed records which are no more stand on nothing; those that are delivered were told before.
     *
     * @param  list<string>  $keys  target keys
     */
    private function letGo(LoadRun $run, array $keys): void
    {
        $found = $keys === [] ? [] : DB::table('outcomes')
            ->join('loads', fn ($j) => $j->on('loads.id', '=', 'outcomes.load_id')->where('loads.entity_id', $run->entity))
            ->where('outcomes.lane_id', $run->lane())->whereIn('outcomes.target_key', $keys)->whereNull('outcomes.stands')
            ->get(['outcomes.load_id', 'outcomes.item']);
        foreach (collect($found)->groupBy('load_id') as $load => $lines) {
            $items = $lines->pluck('item')->map(fn ($n) => (int) $n)->values()->all();
            $this->become($run->lane(), (int) $load, $items, Outcome::Withdrawn, $run->number(), true);
        }
    }

    /** A round works on the take again it worked on before: rows only the later one has have no line any more. */
    public function workOnAgain(Round $round, int $load, int $take): void
    {
        DB::transaction(function () use ($round, $load, $take) {
            $of = Take::query()->findOrFail($take);
            $round->roundLoads()->where('load_id', $load)->where('take_id', '<>', $take)->update([
                'take_id' => $take, 'feed_rows' => (int) $of->rows, 'source_rows' => (int) $of->source_rows,
                'number' => DB::raw('number + 1'),
            ]);
            self::tally($round->laneId(), $load, [Outcome::Pending->value => -DeltaBook::drop($round->laneId(), $load, $take)]);
        }, self::TRIES);
    }

    /**
     * Lines become others; what kept them out does so no more.
     *
     * @param  list<int>  $items
     * @param  bool  $isOff  whether they stand on nothing from now on
     */
    private function become(int $lane, int $load, array $items, Outcome $to, int $by, bool $isOff = false): void
    {
        if ($items === []) {
            return;
        }
        $lines = fn () => $this->lines($lane, $load)->whereIntegerInRaw('outcomes.item', $items);
        $had = $this->counts($lines());
        DB::table('outcome_log')->insertUsing(self::LOGGED, $this->logged($lines(), $by));
        // The cause of a row out of scope is why it is.
        if ($to !== Outcome::Excluded) {
            CauseTallies::move($lane, $lines(), null);
            DB::table('row_causes')->where('lane_id', $lane)->where('load_id', $load)->whereIntegerInRaw('item', $items)->delete();
        }
        $lines()->update(['outcomes.outcome' => $to->value, 'outcomes.pass_id' => $by]
            + ($isOff ? ['outcomes.stands' => null, 'outcomes.target_key' => null, 'outcomes.sent_hash' => null] : []));
        self::tally($lane, $load, self::sum([$to->value => count($items)], array_map(fn (int $n) => -$n, $had)));
    }

    /**
     * Rows that are delivered again stand as they did, or wait where their record was removed.
     *
     * @param  array<string, list<int>>  $items  outcome they get → rows
     */
    public function takeGoneBack(int $lane, int $load, array $items, int $by): void
    {
        foreach ($items as $outcome => $some) {
            $lines = fn () => $this->lines($lane, $load)->whereIntegerInRaw('outcomes.item', $some);
            CauseTallies::move($lane, $lines(), null);
            DB::table('row_causes')->where('lane_id', $lane)->where('load_id', $load)->whereIntegerInRaw('item', $some)->delete();
            $this->change($lines, $lane, $load, Outcome::from($outcome), $by);
            $lines()->update(['outcomes.pass_id' => $by]);
        }
    }

    /** Rows get the lines they had before a pass that is backed out; what stands elsewhere of their records goes with them. */
    public function restore(LoadRun $run, BackOutRecord $record, BackOutBook $book, MatchEntries $matches, float $seconds): void
    {
        DB::transaction(function () use ($run, $record, $book, $matches, $seconds) {
            [$lane, $load, $db] = [$run->lane(), $run->load->id, DB::connection()];
            $had = $record->rows === [] ? [] : $this->setAside($lane, $load, $record->rows, $run->number());
            // Whoever has such a key meanwhile is taken back too, in a stretch of its own.
            $record->standing === [] ?: DB::table(DB::raw('outcomes FORCE INDEX (crosswalk)'))->where('lane_id', $lane)
                ->where('space_id', $run->space)->whereIn('legacy_key', $record->standing)->where('stands', 1)->update(['stands' => null]);
            $columns = '(item, legacy_key, stands, outcome, target_key, @hash, pass_id) SET sent_hash = UNHEX(@hash)'
                .", lane_id = $lane, load_id = $load, space_id = $run->space";
            BulkRows::load($db, 'outcomes', $columns, $record->outcomes, count($record->rows));
            BulkRows::load($db, 'row_causes', self::CAUSES, $record->causes, $record->causeCount);
            $links = new Links($lane);
            $had = self::sum($had, $this->waitAgain($lane, $load, $record->waiting, $run->number()));
            $links->forget($load, [...$record->rows, ...$record->waiting]);
            $links->replace($load, $record->rows, $record->links, $record->linkCount);
            $links->waitAgain($record->cleared);
            $matches->forgetRows($run->load->entity->name, $record->keys);
            $matches->write($run->load->entity->name, $record->matches);
            $book->leave($load, $record->left);
            (new Stretches($run->progress->id))->done(Stretches::FREE, $record->after);
            CauseTallies::add($lane, $record->ofCauses);
            $now = self::sum($record->outcomesNow, [Outcome::Pending->value => count($record->waiting)]);
            self::tally($lane, $load, self::sum($now, array_map(fn (int $n) => -$n, $had)));
            Counters::add($lane, $run->entity, $record->made, -$record->revived);
            $this->progressed($run, count($record->rows) + count($record->waiting), $record->did, $seconds);
        }, self::TRIES);
    }

    /** Rows rejected for a cause stay behind: @return int how many */
    public function waive(int $lane, int $load, int $cause): int
    {
        return $this->turn($lane, $load, Outcome::Rejected, Outcome::Waived, fn (Builder $q) => $q->where('row_causes.cause_id', $cause));
    }

    /**
     * The same for some rows, whatever they were rejected for.
     *
     * @param  list<int>  $rows
     */
    public function waiveRows(int $lane, int $load, array $rows): int
    {
        $some = fn (Builder $q) => $q->whereIntegerInRaw('outcomes.item', $rows);

        return $this->turn($lane, $load, Outcome::Rejected, Outcome::Waived, $some);
    }

    /** @param  list<int>  $rows  that were left behind, and are rejected again */
    public function rejectRows(int $lane, int $load, array $rows): int
    {
        $some = fn (Builder $q) => $q->whereIntegerInRaw('outcomes.item', $rows);

        return $this->turn($lane, $load, Outcome::Waived, Outcome::Rejected, $some);
    }

    /** Rows waived for a cause are rejected again: @return int how many */
    public function takeBack(int $lane, int $load, int $cause): int
    {
        return $this->turn($lane, $load, Outcome::Waived, Outcome::Rejected, fn (Builder $q) => $q->where('row_causes.cause_id', $cause));
    }

    /**
     * Held rows point at the cause that holds them, after their parents failed anew for another one. Those that do already are left, and
     * the others are written in ranges: one statement over all of them takes a hundred times as long.
     */
    public function pointAtRoots(int $lane, int $load): void
    {
        $changed = 0;
        for ($after = 0; ($rows = $this->pointingElsewhere($lane, $load, $after)) !== []; $after = (int) end($rows)->item) {
            $lines = implode(',', array_map(fn ($r) => "($lane,$load,$r->item,$r->cause_id,$r->root)", $rows));
            DB::connection()->getPdo()->exec(
                "INSERT INTO row_causes (lane_id, load_id, item, cause_id, root_cause_id) VALUES $lines
                ON DUPLICATE KEY UPDATE root_cause_id = VALUES(root_cause_id)",
            );
            $changed += count($rows);
        }
        if ($changed > 0) {
            CauseTallies::countBelow($lane);
        }
    }

    /** @return list<\stdClass> item, cause_id, root: held rows after one that point at another cause than they are held by in the end */
    private function pointingElsewhere(int $lane, int $load, int $after): array
    {
        // In this order whatever the server believes: its statistics are often those of a table that was empty a minute ago.
        return DB::select(
            'SELECT h.item, r.cause_id, COALESCE(q.root_cause_id, q.cause_id) AS root FROM outcomes h FORCE INDEX (by_outcome)
            STRAIGHT_JOIN row_causes r FORCE INDEX (PRIMARY) ON r.lane_id = h.lane_id AND r.load_id = h.load_id AND r.item = h.item
            STRAIGHT_JOIN causes c FORCE INDEX (PRIMARY) ON c.id = r.cause_id
            STRAIGHT_JOIN outcomes p FORCE INDEX (crosswalk) ON p.lane_id = h.lane_id AND p.space_id = c.parent_space_id
                AND p.legacy_key = c.parent_key AND p.stands IS NULL
            STRAIGHT_JOIN row_causes q FORCE INDEX (PRIMARY) ON q.lane_id = p.lane_id AND q.load_id = p.load_id AND q.item = p.item
            WHERE h.lane_id = ? AND h.load_id = ? AND h.outcome = ? AND h.item > ?
            AND NOT r.root_cause_id <=> COALESCE(q.root_cause_id, q.cause_id)
            ORDER BY h.item LIMIT '.self::ROOTS_AT_ONCE,
            [$lane, $load, Outcome::Held->value, $after],
        );
    }

    /** @param  \Closure(Builder): mixed  $which */
    private function turn(int $lane, int $load, Outcome $from, Outcome $to, \Closure $which): int
    {
        return DB::transaction(fn () => array_sum($this->change(
            fn () => $this->lines($lane, $load)->where('outcomes.outcome', $from->value)->tap($which),
            $lane,
            $load,
            $to,
        )));
    }

    /**
     * @param  \Closure(): Builder  $lines
     * @param  int|null  $by  the pass that does it; null for a person
     * @return array<string, int> the outcomes they had
     */
    private function change(\Closure $lines, int $lane, int $load, Outcome $to, ?int $by = null): array
    {
        $had = $this->counts($lines());
        if ($had !== []) {
            CauseTallies::move($lane, $lines(), $to);
            DB::table('outcome_log')->insertUsing(self::LOGGED, $this->logged($lines(), $by));
            $lines()->update(['outcomes.outcome' => $to->value]);
            $older = $had[CountProof::OLDER] ?? 0;
            $had = array_diff_key($had, [CountProof::OLDER => 0]);
            // Whoever is left out one way or another stands as before.
            $now = [$to->value => array_sum($had), CountProof::OLDER => in_array($to->value, LedgerReader::OLDER, true) ? 0 : -$older];
            self::tally($lane, $load, self::sum($now, array_map(fn (int $n) => -$n, $had)));
        }

        return $had;
    }

    /**
     * @param  list<int>  $rows
     * @param  int  $by  the pass that does it
     * @return array<string, int> the outcomes they had
     */
    private function setAside(int $lane, int $load, array $rows, int $by): array
    {
        $all = [];
        foreach (array_chunk($rows, 5000) as $some) {
            $lines = fn () => $this->lines($lane, $load)->whereIntegerInRaw('outcomes.item', $some);
            $had = self::had($lane, $load, fn (Builder $q) => $q->whereIntegerInRaw('item', $some));
            if ($had !== []) {
                CauseTallies::move($lane, $lines(), null);
                // What merely waited was logged when it was repaired, or never had an outcome.
                $settled = $lines()->where('outcomes.outcome', '<>', Outcome::Pending->value);
                DB::table('outcome_log')->insertUsing(self::LOGGED, $this->logged($settled, $by));
                foreach (['outcomes', 'row_causes'] as $table) {
                    DB::table($table)->where('lane_id', $lane)->where('load_id', $load)->whereIntegerInRaw('item', $some)->delete();
                }
            }
            $all = self::sum($all, $had);
        }

        return $all;
    }

    /**
     * Lines stay where they are, and stand for nothing: half as long as writing them anew.
     *
     * @param  list<int>  $rows
     * @param  int  $by  the pass that does it
     * @return array<string, int> the outcomes they had
     */
    private function waitAgain(int $lane, int $load, array $rows, int $by): array
    {
        if ($rows === []) {
            return [];
        }
        $isStretch = max($rows) - min($rows) + 1 === count($rows);
        $among = fn (Builder $q, string $item) => $isStretch
            ? $q->whereBetween($item, [min($rows), max($rows)])
            : $q->whereIntegerInRaw($item, $rows);
        $lines = fn () => $this->lines($lane, $load)->tap(fn (Builder $q) => $among($q, 'outcomes.item'));
        $had = self::had($lane, $load, fn (Builder $q) => $among($q, 'item'));
        CauseTallies::move($lane, $lines(), null);
        $settled = $lines()->where('outcomes.outcome', '<>', Outcome::Pending->value);
        DB::table('outcome_log')->insertUsing(self::LOGGED, $this->logged($settled, $by));
        self::some('outcomes', $lane, $load)->tap(fn (Builder $q) => $among($q, 'item'))->update([
            'outcome' => Outcome::Pending->value, 'stands' => null, 'target_key' => null, 'sent_hash' => null, 'pass_id' => $by,
        ]);
        DB::table('row_causes')->where('lane_id', $lane)->where('load_id', $load)
            ->tap(fn (Builder $q) => $among($q, 'item'))->delete();

        return $had;
    }

    /**
     * @param  \Closure(Builder): mixed  $which
     * @return array<string, int> outcome → lines
     */
    private static function had(int $lane, int $load, \Closure $which): array
    {
        return self::withOlder(self::some('outcomes', $lane, $load)->tap($which)->groupBy('outcome')
            ->selectRaw('outcome, COUNT(*) AS n, COUNT(target_key) AS stand')->get());
    }

    /**
     * @param  Collection<int, \stdClass>  $counted  outcome, n, stand
     * @return array<string, int> outcome → lines, and those that stand with older values beside
     */
    private static function withOlder(Collection $counted): array
    {
        $older = (int) $counted->whereIn('outcome', LedgerReader::OLDER)->sum('stand');

        return $counted->pluck('n', 'outcome')->map(fn ($n) => (int) $n)->all() + ($older === 0 ? [] : [CountProof::OLDER => $older]);
    }

    /** Lines by the key they lie in, whatever the server believes: for a few of them it would count all of the load. */
    private static function some(string $table, int $lane, int $load): Builder
    {
        return DB::table(DB::raw("$table FORCE INDEX (PRIMARY)"))->where('lane_id', $lane)->where('load_id', $load);
    }

    /** Lines of a load with their causes. */
    private function lines(int $lane, int $load): Builder
    {
        return DB::table('outcomes')
            ->leftJoin('row_causes', fn ($j) => $j
                ->on('row_causes.lane_id', '=', 'outcomes.lane_id')
                ->on('row_causes.load_id', '=', 'outcomes.load_id')
                ->on('row_causes.item', '=', 'outcomes.item'))
            ->where('outcomes.lane_id', $lane)
            ->where('outcomes.load_id', $load);
    }

    private function logged(Builder $lines, ?int $by): Builder
    {
        return $lines->select([
            'outcomes.lane_id', 'outcomes.load_id', 'outcomes.item', 'outcomes.pass_id', 'outcomes.outcome', 'outcomes.target_key',
            'outcomes.sent_hash', 'row_causes.cause_id', DB::raw($by ?? 'NULL'), 'outcomes.legacy_key',
        ]);
    }

    /** @return array<string, int> outcome → lines */
    private function counts(Builder $lines): array
    {
        return self::withOlder($lines->groupBy('outcomes.outcome')
            ->selectRaw('outcomes.outcome, COUNT(*) AS n, COUNT(outcomes.target_key) AS stand')->get());
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
    private static function tally(int $lane, int $load, array $deltas): void
    {
        $rows = [];
        foreach (array_filter($deltas) as $outcome => $n) {
            $rows[] = "($lane,$load,'$outcome',$n)";
        }
        if ($rows !== []) {
            DB::connection()
                ->getPdo()
                ->exec('INSERT INTO tallies VALUES '.implode(',', $rows).' ON DUPLICATE KEY UPDATE n = n + VALUES(n)');
        }
    }
}
