<?php

namespace App\Ledger;

use App\Models\LoadWay;
use Baggage\Core\Loading\KeyBook;
use Baggage\Core\Loading\LoadLedger;
use Baggage\Core\Loading\OthersChanges;
use Baggage\Core\Loading\Portion;
use Baggage\Core\Loading\SentRecords;
use Baggage\Core\Loading\Stretch;
use Baggage\Core\Mapping\OthersPolicy;
use Baggage\Core\Rows\Journey;

/** The ledger as one load of a pass writes it. */
final class LoadBook implements KeyBook, LoadLedger
{
    private float $since = 0;

    private bool $takesNew = true;

    /**
     * @param  list<string>  $deferred  fields whose parents come later
     */
    public function __construct(
        private readonly LoadRun $run,
        private readonly LedgerReader $reader,
        private readonly LedgerWriter $writer,
        private readonly MatchEntries $matches,
        private readonly CauseBook $causes,
        private readonly Spaces $spaces,
        private readonly Stretches $stretches,
        private readonly Contest $contest,
        private readonly array $deferred = [],
        private readonly ?SentRecords $sent = null,
    ) {
    }

    /** From now on only what somebody began and never recorded. */
    public function takesNothingNew(): void
    {
        $this->takesNew = false;
    }

    public function take(bool $inTurn, int $most): ?Portion
    {
        $this->since = microtime(true);
        [$progress, $last] = [$this->run->progress, $this->run->progress->last_row];
        $all = fn (int $after) => $this->takesNew && $after < $last ? min($last, $after + $most) : null;
        if (! $inTurn) {
            $portion = $this->stretches->take(Stretches::FREE, false, $all);

            return $portion === null ? null : $this->told($portion);
        }
        if ($progress->way === LoadWay::Turn && ! $this->run->isAgain()) {
            return $this->stretches->take(Stretches::TURN, true, $all);
        }
        $rows = fn (int $after, ?int $to = null) => $this->run->isAgain()
            ? $this->due($after, $most, $to)
            : Contest::rows($progress->id, $after, $to, $most);
        $portion = $this->stretches->take(Stretches::TURN, true, function (int $after) use ($rows) {
            $next = $this->takesNew ? $rows($after) : [];

            return $next === [] ? null : end($next);
        });

        return $portion === null
            ? null
            : new Portion($portion->after, $portion->to, $portion->isBegun, $rows($portion->after, $portion->to));
    }

    /** @return list<int> */
    private function due(int $after, int $most, ?int $to): array
    {
        $pass = $this->run->pass;
        if ($this->run->isDelta()) {
            return $this->reader->due($pass->id, $this->run->load->id, $after, $most, $to, delta: $this->run->progress->id);
        }

        return $this->reader->due($pass->id, $this->run->load->id, $after, $most, $to, Only::of((string) $pass->only), $pass->log_from);
    }

    /** Whoever took it first may have told what its rows claim before he died. */
    private function told(Portion $taken): Portion
    {
        $isTold = $taken->isBegun && $this->contest->isTold($this->run->progress->id, $taken);
        $but = $isTold ? Contest::rows($this->run->progress->id, $taken->after, $taken->to) : [];

        return new Portion($taken->after, $taken->to, $taken->isBegun, null, $but, $isTold);
    }

    public function tell(Portion $portion, array $claims): ?array
    {
        $waiting = $this->contest->tell($this->run->progress->id, $portion, $claims, $this->stretches);
        if ($waiting === null) {
            $this->stretches->release(Stretches::FREE, $portion->after);
        }

        return $waiting;
    }

    public function leave(Portion $portion, bool $inTurn): void
    {
        $kind = $inTurn ? Stretches::TURN : Stretches::FREE;
        $this->stretches->done($kind, $portion->after);
        $this->stretches->release($kind, $portion->after);
    }

    public function record(Stretch $stretch, array $journeys): void
    {
        $record = BatchRecord::of($stretch, $journeys, $this->run, $this->causes, $this->spaces);
        $this->sayOthers($record, $journeys);
        $this->writer->record($this->run, $record, $this->replaces(), $this->matches, $this->stretches, microtime(true) - $this->since);
        $this->stretches->release($record->kind, $stretch->after);
    }

    public function next(int $most): ?Portion
    {
        $from = $this->run->progress->key_cursor;
        $last = $this->run->progress->last_row;

        return $from === null || $from >= $last ? null : new Portion($from, min($last, $from + $most));
    }

    public function put(Portion $portion, array $keys): void
    {
        $this->writer->announce($this->run, $keys, $portion->to);
    }

    /**
     * What others changed in records of ours that were changed now: it is overwritten or kept, and told.
     *
     * @param  list<Journey>  $journeys
     */
    private function sayOthers(BatchRecord $record, array $journeys): void
    {
        $before = $record->before();
        // Of records that other loads changed too it cannot be told.
        $sent = $before === [] || $this->sent === null || ! $this->run->isAgain() ? [] : $this->sent->of(array_keys($before));
        $byRow = array_column($journeys, null, 'row');
        foreach ($sent as $row => $values) {
            $others = OthersChanges::fields($this->run->load->entity, $this->deferred, $values, $before[$row], $byRow[$row]->values);
            // Where nobody looked the pass was broken off, and the record is as it was written then.
            $kept = $this->run->load->others === OthersPolicy::Overwrite ? [] : $byRow[$row]->others ?? $others;
            $record->overwritten[$row] = array_values(array_diff($others, $kept));
            $record->kept[$row] = $kept;
        }
        foreach ($journeys as $journey) {
            $record->kept[$journey->row] ??= $journey->targetKey === null ? [] : $journey->others ?? [];
        }
        [$record->overwritten, $record->kept] = [array_filter($record->overwritten), array_filter($record->kept)];
    }

    /** Whether rows may have an outcome already. */
    private function replaces(): bool
    {
        return $this->run->isAgain() || $this->run->progress->key_cursor !== null;
    }
}
