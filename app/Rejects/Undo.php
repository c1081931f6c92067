<?php

namespace App\Rejects;

use App\Decisions\AnswerChanges;
use App\Decisions\CorrectionBook;
use App\Ledger\PairBook;
use App\Ledger\RepairBook;
use App\Ledger\WaiverBook;
use App\Loading\DueSoon;
use App\Mapping\RuleBook;
use App\Mapping\RuleConflict;
use App\Models\Audit;
use App\Models\CodeDecision;
use App\Models\CodeEntry;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Repair;
use App\Models\User;
use App\Models\Work;
use App\Models\WorkKind;
use App\Support\Amount;
use Baggage\Core\Expressions\ExpressionError;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\DB;

/** Takes repairs back. Rows that were not loaded since are as before; those that were are told as differing. */
final readonly class Undo
{
    public function __construct(private Repairs $repairs, private RuleBook $rules)
    {
    }

    /**
     * Takes it back, by a worker where there are many rows.
     *
     * @return string|Work what was done, or who does it
     *
     * @throws \DomainException
     */
    public function undo(Repair $repair): string|Work
    {
        $isMuch = in_array(ProposedKind::from($repair->kind), [ProposedKind::Correct, ProposedKind::Stay, ProposedKind::Answers], true);
        if (! $isMuch || $repair->rows <= RepairRows::AT_ONCE) {
            return $this->now($repair);
        }
        self::refuseWhileAtWork($repair);
        $work = DB::transaction(function () use ($repair) {
            $repair = self::still($repair);
            $given = ['repair' => $repair->id, 'round' => $repair->round_id];
            foreach (Work::query()->where('migration_id', $repair->migration_id)->where('kind', WorkKind::Undo)->get() as $other) {
                if ($other->isGoing() && $other->given['repair'] === $repair->id) {
                    throw new \DomainException('A worker is at taking it back already.');
                }
            }

            return Work::ask($repair->migration, WorkKind::Undo, "Taking back: $repair->title", $given, $repair->rows);
        });
        RepairRows::dispatch($work->id);

        return $work;
    }

    /** @throws \DomainException */
    private static function refuseWhileAtWork(Repair $repair): void
    {
        foreach ($repair->migration->rounds()->whereNull('ended_as')->get() as $round) {
            if ($round->latestPass()?->isGoing()) {
                throw new \DomainException('A pass is at work on these rows. Take it back when it has ended.');
            }
        }
        $work = $repair->work_id === null ? null : Work::query()->find($repair->work_id);
        if ($work?->state->isGoing()) {
            throw new \DomainException('A worker is still at this repair. Take it back when it has ended.');
        }
    }

    /** @throws \DomainException where it was taken back meanwhile */
    private static function still(Repair $repair): Repair
    {
        $now = Repair::query()->whereKey($repair->id)->lockForUpdate()->firstOrFail();

        return $now->undone_at === null ? $now : throw new \DomainException('It was taken back already.');
    }

    /**
     * @return string what was done
     *
     * @throws \DomainException
     */
    public function now(Repair $repair): string
    {
        self::refuseWhileAtWork($repair);
        $migration = $repair->migration;
        $told = DB::transaction(function () use ($migration, $repair) {
            $repair = self::still($repair);
            $told = match (ProposedKind::from($repair->kind)) {
                ProposedKind::Correct, ProposedKind::Row, ProposedKind::Answers => $this->corrections($migration, $repair),
                ProposedKind::Stay => $this->waivers($repair),
                ProposedKind::Code => $this->codes($migration, $repair),
                ProposedKind::Rule, ProposedKind::Parent => $this->rule($repair),
                ProposedKind::Match => $this->pair($migration, $repair),
            };
            $repair->update(['undone_by' => Auth::id(), 'undone_at' => now(), 'undone_told' => mb_substr($told, 0, 500)]);
            Audit::note($migration->id, 'took a repair back', ['repair' => $repair->title, 'told' => $told]);

            return $told;
        });
        DueSoon::of($migration->id);

        return $told;
    }

    private function corrections(Migration $migration, Repair $repair): string
    {
        $loaded = RepairBook::standingWith($repair->decisions());
        [$ended, $feeds] = CorrectionBook::undo($migration->id, $repair->decisions());
        if ($ended === 0) {
            throw new \DomainException('What it corrected was corrected otherwise since, or its row is gone; nothing was changed.');
        }
        Repairs::madeAgain($feeds);
        AnswerChanges::takenBack($repair->decisions());

        return Amount::of($ended, 'correction').' taken back.'.($loaded === 0 ? '' : ' '.Amount::of($loaded, 'row')
            .' loaded with it '.($loaded === 1 ? 'keeps its record' : 'keep their records').' until a delta: told as differing.');
    }

    private function waivers(Repair $repair): string
    {
        $n = WaiverBook::undo($repair->migration_id, $repair->decisions());

        return $n === 0
            ? throw new \DomainException('These waivers were taken back already; nothing was changed.')
            : Amount::of($n, 'row').' rejected again.';
    }

    private function codes(Migration $migration, Repair $repair): string
    {
        $crosswalk = $migration->codeCrosswalks()->where('name', $repair->about)->first()
            ?? throw new \DomainException("The code crosswalk $repair->about is no longer there.");
        $back = $left = 0;
        foreach ($repair->before_it['codes'] ?? [] as $of) {
            $entry = $crosswalk->entries()->where('old_value', $of['old'])->first();
            if (CodeEntry::said($entry) !== $repair->before_it['to']) {
                $left++;
            } elseif ($of['is'] === null) {
                $this->repairs->forgetCode($migration, $crosswalk, $of['old']);
                $back++;
            } else {
                $this->repairs->mapCode($migration, $crosswalk, $of['old'], $of['new'], $of['is'] === CodeDecision::Reject->value);
                $back++;
            }
        }
        if ($back === 0) {
            throw new \DomainException('These codes were changed since; nothing was changed.');
        }

        $others = $left === 0 ? '' : ' '.Amount::of($left, 'other').' changed since stay as they are.';

        return Amount::of($back, 'code')." as before.$others";
    }

    private function rule(Repair $repair): string
    {
        $load = Load::query()->find($repair->load_id) ?? throw new \DomainException('The load is no longer there.');
        $rule = $load->rules()->where('field', $repair->about)->first();
        if ($rule?->expression !== ($repair->before_it['to'] ?? null)) {
            throw new \DomainException("The rule of $repair->about was changed since; nothing was changed.");
        }
        try {
            $this->rules->write(
                $load, (string) $repair->about, $rule->version, $repair->before_it['from'] ?? null, null, $rule->note,
                User::query()->find(Auth::id()),
            );
        } catch (RuleConflict|ExpressionError $e) {
            throw new \DomainException("The rule of $repair->about could not be put back: {$e->getMessage()}");
        }

        return "The rule of $repair->about is as before.";
    }

    private function pair(Migration $migration, Repair $repair): string
    {
        $n = PairBook::end($migration->id, $repair->decisions());

        return $n === 0
            ? throw new \DomainException('It was matched otherwise since; nothing was changed.')
            : 'The row is no record by hand any more.';
    }
}
