<?php

namespace App\Rejects;

use App\Catalogue\Definitions;
use App\Decisions\CorrectionBook;
use App\Decisions\Numbers;
use App\Freezing\DependentFeeds;
use App\Freezing\FreezeTake;
use App\Ledger\CauseReader;
use App\Ledger\CauseSet;
use App\Ledger\DueBook;
use App\Ledger\LedgerReader;
use App\Ledger\Links;
use App\Ledger\PairBook;
use App\Ledger\WaiverBook;
use App\Loading\DueSoon;
use App\Models\Audit;
use App\Models\CodeCrosswalk;
use App\Models\CodeDecision;
use App\Models\CodeEntry;
use App\Models\Correction;
use App\Models\Extract;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Round;
use App\Models\RoundLoad;
use App\Models\Take;
use App\Models\TakeState;
use App\Models\Work;
use App\Staging\StagedRows;
use App\Support\EditLost;
use App\Support\Meanwhile;
use Baggage\Core\Mapping\DefinitionError;
use Baggage\Core\Rows\Outcome;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\DB;

/** Repairs made from the Rejects screen: about rows of the take the round works on, whatever was read since. */
final readonly class Repairs
{
    private const ROWS_AT_ONCE = 1000;

    public function __construct(private CorrectionBook $book, private DueSoon $due)
    {
    }

    /**
     * One cell of one row.
     *
     * @param  mixed  $was  the cell as a form showed it
     * @return list<Extract> feeds that are made again for it
     *
     * @throws \DomainException when there is no such cell
     * @throws EditLost
     */
    public function correctCell(Round $round, Load $load, int $row, string $header, string $new, string $reason, mixed $was = null): array
    {
        $take = self::take($round, $load);
        [$feeds, $before] = DB::transaction(function () use ($take, $load, $row, $header, $new, $reason, $was) {
            Extract::query()->whereKey($load->extract_id)->lockForUpdate()->first(['id']);
            $cells = (new StagedRows($take->id))->numbered([$row])[$row] ?? [];
            $before = (string) ($cells[$take->tidyColumns()->find($header)?->position] ?? '');
            Meanwhile::check($was, ['new' => $before], ['new' => $new], ['new' => "$header of row $row"]);
            if ($before === $new) {
                throw new \DomainException("$header of row $row says that already; nothing was changed.");
            }

            return [$this->book->cells($take, [$row], $header, $new, $reason), $before];
        });
        Audit::note($round->migration_id, "corrected a cell of {$load->extract->name}", [
            'row' => $row,
            'column' => $header,
            'before' => $before,
            'after' => $new,
        ]);
        $this->follow($load->extract, $feeds);

        return $feeds;
    }

    /**
     * A row as it is to be, for rows with too few or too many cells.
     *
     * @param  list<string|null>  $cells
     * @param  mixed  $was  the row as a form showed it
     * @return list<Extract> feeds that are made again for it
     *
     * @throws \DomainException
     * @throws EditLost
     */
    public function correctRow(Round $round, Load $load, int $row, array $cells, string $reason, mixed $was = null): array
    {
        $take = self::take($round, $load);
        [$feeds, $before] = DB::transaction(function () use ($take, $load, $row, $cells, $reason, $was) {
            Extract::query()->whereKey($load->extract_id)->lockForUpdate()->first(['id']);
            $before = (new StagedRows($take->id))->numbered([$row])[$row] ?? [];
            Meanwhile::check($was, Meanwhile::texts(['row' => $before], ['row']), Meanwhile::texts(['row' => $cells], ['row']), [
                'row' => "Row $row",
            ]);
            if (array_map(strval(...), $before) === array_map(strval(...), $cells)) {
                throw new \DomainException("Row $row says that already; nothing was changed.");
            }

            return [$this->book->row($take, $row, $cells, $reason), $before];
        });
        Audit::note($round->migration_id, "corrected a row of {$load->extract->name}", [
            'row' => $row,
            'before' => $before,
            'after' => $cells,
        ]);
        $this->follow($load->extract, $feeds);

        return $feeds;
    }

    /**
     * The same value in all rows of some causes that do not say it already.
     *
     * @param  Work|null  $work  that does it, and goes on where it was
     * @param  int|null  $seen  the last decision whoever asked for it could have seen
     * @return int how many rows
     *
     * @throws \DomainException
     * @throws EditLost
     */
    public function correctValue(
        Round $round,
        Load $load,
        CauseSet|int $which,
        string $header,
        ?string $new,
        string $reason,
        ?Work $work = null,
        ?int $seen = null,
    ): int {
        $take = self::take($round, $load);
        $ledger = new LedgerReader($round);
        $done = (int) $work?->done;
        $cause = is_int($which) ? CauseSet::one($which) : $which;
        $all = function () use ($take, $ledger, $load, $cause, $header, $new, $reason, $work, $seen, &$done) {
            $after = $work->given['after'] ?? 0;
            while (($numbers = $ledger->rejectedFor($load, $cause, $after, self::ROWS_AT_ONCE)) !== []) {
                $after = end($numbers);
                $numbers = CorrectionBook::otherwise($take, $numbers, $header, $new);
                $done += count($numbers);
                // Rows and how far it is come together, so that whoever takes it up after a kill corrects none twice.
                DB::transaction(function () use ($take, $numbers, $header, $new, $reason, $work, $done, $after, $seen) {
                    Extract::query()->whereKey($take->extract_id)->lockForUpdate()->first(['id']);
                    [, $given] = Numbers::noting(
                        fn () => $numbers === [] ? [] : $this->book->cells($take, $numbers, $header, $new, $reason, $seen),
                    );
                    $work?->reached($done, ['after' => $after, 'numbers' => [...$work->given['numbers'] ?? [], ...$given]]);
                });
            }
        };
        // What a page does itself is all done or none of it.
        $work === null ? DB::transaction($all) : $all();
        self::didSomething($done, "$header says that already in all of these rows; nothing was changed.");
        Audit::note($round->migration_id, "corrected a value of {$load->extract->name}", [
            'column' => $header,
            'after' => $new,
            'rows' => $done,
        ]);
        $this->follow($load->extract, $done === 0 ? [] : $this->book->feedsMadeBy($take, $header));

        return $done;
    }

    /**
     * Corrections that did not carry into the newest take are let go, or put over what the source says now: all of them or none.
     *
     * @param  list<Correction>  $corrections
     *
     * @throws \DomainException when one is to be put over a row that is not there
     */
    public function decide(array $corrections, bool $again): void
    {
        $extracts = DB::transaction(function () use ($corrections, $again) {
            $extracts = [];
            foreach ($corrections as $correction) {
                $extract = $extracts[$correction->extract_id] ??= $correction->extract()->firstOrFail();
                $take = $extract->take()->firstOrFail();
                $again ? $this->book->again($correction, $take) : $this->book->end($correction, $take);
                Audit::note((int) $extract->source?->migration_id, $again ? 'put a correction over a newer value' : 'let a correction go', [
                    'extract' => $extract->name,
                    'column' => $correction->header,
                    'to' => $correction->new_value,
                ]);
            }

            return $extracts;
        });
        foreach ($extracts as $extract) {
            $this->follow($extract, []);
        }
    }

    /**
     * A new value for an old code.
     *
     * @param  mixed  $was  what a form showed of it
     *
     * @throws EditLost
     */
    public function mapCode(
        Migration $migration,
        CodeCrosswalk $crosswalk,
        string $old,
        ?string $new,
        bool $reject = false,
        mixed $was = null,
    ): void {
        $old = trim($old);
        $is = [
            'new_value' => $reject ? null : $new,
            'decision' => $reject ? CodeDecision::Reject : CodeDecision::Value,
            'user_id' => Auth::id(),
        ];
        $before = DB::transaction(function () use ($crosswalk, $old, $is, $was) {
            $entry = $crosswalk->entries()->where('old_value', $old)->lockForUpdate()->first();
            Meanwhile::check($was, ['code' => CodeEntry::said($entry)], ['code' => CodeEntry::said(new CodeEntry($is))], ['code' => $old]);
            $crosswalk->entries()->updateOrCreate(['old_value' => $old], $is);

            return CodeEntry::said($entry);
        });
        Audit::note($migration->id, "mapped a code of $crosswalk->name", [
            'code' => $old,
            'before' => $before,
            'after' => CodeEntry::said(new CodeEntry($is)),
        ]);
        $this->due->changed($migration);
    }

    /** An old value without an entry again. */
    public function forgetCode(Migration $migration, CodeCrosswalk $crosswalk, string $old): void
    {
        $before = CodeEntry::said($crosswalk->entries()->where('old_value', trim($old))->first());
        $crosswalk->entries()->where('old_value', trim($old))->get()->each->delete();
        Audit::note($migration->id, "took a code of $crosswalk->name out", ['code' => $old, 'before' => $before]);
        $this->due->changed($migration);
    }

    /** Rows of some causes stay behind, with a reason: @return int how many */
    public function waive(Round $round, Load $load, CauseSet|int $which, string $reason): int
    {
        self::mayBeDecided($round);
        $causes = is_int($which) ? [$which] : $which->with($round->laneId(), $load->id, Outcome::Rejected);
        $n = DB::transaction(fn () => array_sum(array_map(
            fn (int $cause) => WaiverBook::write($round, $load, $cause, $reason),
            $causes,
        )));
        self::didSomething($n, 'No row is rejected for it any more; nothing was changed.');
        Audit::note($round->migration_id, "waived rows of $load->name", [
            'for' => (new CauseReader($round->laneId()))->words($causes),
            'rows' => $n,
            'reason' => $reason,
        ]);
        DueSoon::rows($load->extract);

        return $n;
    }

    /** One row stays behind, with a reason: @return string what was done */
    public function waiveRow(Round $round, Load $load, int $row, string $reason): string
    {
        self::mayBeDecided($round);
        $line = collect((new LedgerReader($round))->now($load, $row))->firstWhere('lane_id', $round->laneId());
        if ($line === null || $line->outcome !== Outcome::Rejected->value) {
            throw new \DomainException("Row $row of $load->name is not rejected; nothing was changed.");
        }
        WaiverBook::write($round, $load, (int) $line->cause_id, $reason, $row);
        Audit::note($round->migration_id, "waived row $row of $load->name", ['for' => $line->message, 'reason' => $reason]);
        DueSoon::rows($load->extract);

        return '1 row waived.';
    }

    /** A row is this record of the target: @return string what was done */
    public function match(Round $round, Load $load, int $row, string $targetKey, string $reason): string
    {
        self::mayBeDecided($round);
        $line = collect((new LedgerReader($round))->now($load, $row))->firstWhere('lane_id', $round->laneId())
            ?? throw new \DomainException("Row $row of $load->name was not worked on in this round.");
        $isKnown = $line->legacy_key !== '' && ! in_array($line->code, ['duplicate_key', 'no_legacy_key'], true);
        PairBook::put($round, $load, self::take($round, $load), $row, $isKnown ? $line->legacy_key : '', $targetKey, $reason);
        Audit::note($round->migration_id, "matched row $row of $load->name by hand", [
            'key' => $line->legacy_key, 'record' => $targetKey, 'reason' => $reason,
        ]);
        DueSoon::rows($load->extract);

        return "Row $row is record $targetKey.";
    }

    /** Rows left behind for a cause are rejected again: @return int how many */
    public function takeBack(Round $round, Load $load, int $cause): int
    {
        self::mayBeDecided($round);
        $n = WaiverBook::takeBack($round, $load, $cause);
        Audit::note($round->migration_id, "took a waiver of $load->name back", [
            'for' => (new CauseReader($round->laneId()))->words([$cause]),
            'rows' => $n,
        ]);
        DueSoon::rows($load->extract);

        return $n;
    }

    /** Waivers of earlier rounds count in this cutover: @return int rows waived by it */
    public function confirmWaivers(Round $round): int
    {
        self::mayBeDecided($round);
        $n = WaiverBook::confirm($round);
        Audit::note($round->migration_id, "confirmed waivers for $round->name", ['rows' => $n]);
        DueSoon::of($round->migration_id);

        return $n;
    }

    /** Rows the target refused are tried again although nothing changed here: @return int how many */
    public function ask(Round $round, Load $load, int $cause): int
    {
        self::mayBeDecided($round);
        $n = (new DueBook($round->laneId()))->ask($load->id, $cause);
        Audit::note($round->migration_id, "asked for rows of $load->name again", [
            'for' => (new CauseReader($round->laneId()))->words([$cause]),
            'rows' => $n,
        ]);

        return $n;
    }

    /** References that wait are left open for good, with a reason: @return int how many */
    public function waiveReferences(Round $round, Load $load, string $field, string $reason): int
    {
        self::mayBeDecided($round);
        $n = (new Links($round->laneId()))->waive($round, $load->id, $field, $reason);
        Audit::note($round->migration_id, "left references of $load->name open", ['field' => $field, 'rows' => $n, 'reason' => $reason]);

        return $n;
    }

    /** @return list<string> fields of the load whose rule uses the crosswalk */
    public static function fieldsUsing(Definitions $definitions, Load $load, string $crosswalk): array
    {
        try {
            $rules = $definitions->mapper($load)->rules();
        } catch (DefinitionError) {
            return [];
        }

        return array_map(
            strval(...),
            array_keys(array_filter($rules, fn ($r) => in_array($crosswalk, $r->codes, true))),
        );
    }

    /** The take of a load's extract the round works on. */
    private static function take(Round $round, Load $load): Take
    {
        $of = $round->roundLoads()->where('load_id', $load->id)->with('take')->first();

        return $of instanceof RoundLoad ? $of->take : throw new \DomainException("$load->name is not in this round.");
    }

    /** @throws \DomainException where no row is otherwise now */
    private static function didSomething(int $rows, string $else): void
    {
        $rows > 0 ?: throw new \DomainException($else);
    }

    /** @throws \DomainException */
    public static function mayBeDecided(Round $round): void
    {
        if ($round->hasEnded()) {
            throw new \DomainException("Round $round->name has ended; what it says stays as it is.");
        }
        if ($round->latestPass()?->isGoing()) {
            throw new \DomainException('A pass is at work on these rows. Decide when it has ended.');
        }
    }

    /** @param  list<Extract>  $feeds  to be made again */
    private function follow(Extract $extract, array $feeds): void
    {
        self::madeAgain($feeds);
        DueSoon::rows($extract);
    }

    /** @param  list<Extract>  $feeds */
    public static function madeAgain(array $feeds): void
    {
        foreach ($feeds as $feed) {
            if (! $feed->takes()->where('state', TakeState::Waiting)->exists()) {
                FreezeTake::dispatch(DependentFeeds::take($feed, Auth::id())->id);
            }
        }
    }
}
