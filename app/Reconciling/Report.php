<?php

namespace App\Reconciling;

use App\Ledger\BackOutBook;
use App\Ledger\CauseReader;
use App\Ledger\DeltaBook;
use App\Ledger\DueBook;
use App\Ledger\Links;
use App\Ledger\WaiverBook;
use App\Loading\Rounds;
use App\Models\PassKind;
use App\Models\PassLoad;
use App\Models\Round;
use App\Models\SetBack;
use App\Support\Amount;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Reconciling\CountProof;
use Baggage\Core\Rows\Outcome;

/** A round's figures as data: the result of a headless run (docs/running.md). */
final class Report
{
    /** Values told below each cause. */
    private const VALUES = 20;

    /** @return array<string, mixed> */
    public function of(Round $round): array
    {
        $proofs = Proofs::of($round);
        $loads = $proofs->loads();
        $entities = $proofs->entities();
        $pass = $round->latestPass();
        $notAsked = $proofs->notAsked();

        return [
            'baggage' => 1,
            'migration' => $round->migration()->value('name'),
            'round' => $round->name,
            'state' => $pass?->state->value ?? 'not begun',
            'error' => $pass?->error,
            'passes' => $round->passes()->count(),
            'ended' => $round->ended_as?->value,
            'accounted' => $this->all($loads, fn (CountProof $p) => $p->unaccounted() === 0),
            'proofs_hold' => $proofs->targetError === null
                && $this->all($loads, fn (CountProof $p) => $p->holds())
                && $this->all($entities, fn (CountProof $p) => $p->holds()),
            'open_rows' => array_sum(array_map(fn (CountProof $p) => $p->open(), $loads)) - array_sum($notAsked),
            'not_asked' => array_sum($notAsked),
            'loads' => $this->loads($round, $proofs, $loads, $notAsked),
            'entities' => $this->entities($entities),
            'links' => $this->links($round),
            'target_error' => $proofs->targetError,
        ] + $this->told($round, $proofs);
    }

    /** @return array<string, mixed> what somebody should know besides the figures */
    private function told(Round $round, Proofs $proofs): array
    {
        $due = new DueBook($round->laneId());

        return [
            'due_rows' => array_sum($due->counts()),
            'stale_rows' => array_sum(array_merge([], ...array_values($due->stale()))),
            'references_waiting' => (new Links($round->laneId()))->waiting(),
            'newer_takes' => NewerTakes::of($round),
            'warnings' => $this->warnings($round, $proofs),
        ];
    }

    /**
     * @param  array<string, CountProof>  $entities
     * @return list<array<string, mixed>>
     */
    private function entities(array $entities): array
    {
        return array_map(
            fn (string $e, CountProof $p) => ['entity' => $e]
                + $this->figures($p) + [
                    'target_before' => $p->targetBefore,
                    'made' => $p->everMade(),
                    'removed' => $p->removed,
                    'target_after' => $p->targetAfter,
                    'target_other' => $p->otherOrigin,
                    'target_gap' => $p->targetGap(),
                    'holds' => $p->holds(),
                ],
            array_keys($entities),
            $entities,
        );
    }

    /**
     * @param  array<int, CountProof>  $counts  by load
     * @param  array<int, int>  $notAsked  load → rows
     * @return list<array<string, mixed>>
     */
    private function loads(Round $round, Proofs $proofs, array $counts, array $notAsked): array
    {
        $seconds = PassLoad::query()
            ->whereHas('pass', fn ($q) => $q->where('round_id', $round->id))
            ->groupBy('load_id')
            ->selectRaw('load_id, SUM(seconds) AS s')
            ->pluck('s', 'load_id');
        $errors = PassLoad::query()->where('pass_id', $round->latestPass()?->id)->pluck('error', 'load_id');
        $waves = $proofs->definitions()->order()->waves;
        $loads = [];
        foreach ($proofs->definitions()->loads() as $load) {
            if (! isset($counts[$load->id])) {
                continue;
            }
            $loads[] = [
                'load' => $load->name,
                'entity' => $load->entity->name,
                'wave' => $waves[$load->entity->name],
                'error' => $errors[$load->id] ?? null,
                'seconds' => round((float) ($seconds[$load->id] ?? 0), 3),
                'not_asked' => $notAsked[$load->id] ?? 0,
            ] + $this->figures($counts[$load->id]) + ['causes' => $this->causes($round, $load->id)];
        }

        return $loads;
    }

    /**
     * 0 when every row is accounted for and every proof holds; 1 when rejects, held rows, waiting references or breaks remain, or a
     * newer take was left aside. Rows that were not asked for, and records made by older rules, are told and are no reason.
     *
     * @param  array<string, mixed>  $report
     * @param  bool  $keepTakes  whether it is meant that the round stays with the takes it has
     */
    public static function exitCode(array $report, bool $keepTakes = false): int
    {
        return $report['accounted']
            && $report['references_waiting'] === 0
            && ($keepTakes || $report['newer_takes'] === [])
            && $report['proofs_hold']
            && $report['open_rows'] === 0
            && $report['state'] === 'finished'
            ? 0
            : 1;
    }

    /** @return list<array<string, mixed>> what the last pass, a delta, found and did of each load */
    public function delta(Round $round): array
    {
        $pass = $round->latestPass();
        $loads = [];
        foreach ($pass?->kind === PassKind::Delta ? $pass->passLoads()->with('ofLoad')->orderBy('id')->get() : [] as $of) {
            $found = ($of->compared ?? []) + ['added' => 0, 'changed' => 0, 'gone' => 0, 'back' => 0, 'to_do' => 0, 'rows' => 0];
            $loads[] = [
                'load' => $of->ofLoad->name, 'added' => $found['added'], 'changed' => $found['changed'], 'gone' => $found['gone'],
                'back' => $found['back'], 'untouched' => max(0, $found['rows'] - $found['to_do']), 'as_before' => $of->counts['same'] ?? 0,
                'made' => $of->counts['made'] ?? 0, 'removed' => $of->counts['removed'] ?? 0,
                'outcomes' => array_diff_key($of->counts ?? [], ['same' => 0, 'made' => 0, 'removed' => 0]),
            ];
        }

        return $loads;
    }

    /** @return list<array{load: string, row: int, what: string}> what somebody else had changed in records the last delta changed */
    public function changedByOthers(Round $round): array
    {
        $names = $round->roundLoads()->with('ofLoad')->get()->pluck('ofLoad.name', 'load_id');
        $pass = $round->latestPass();

        return array_map(
            fn (\stdClass $l) => ['load' => (string) ($names[$l->load_id] ?? ''), 'row' => (int) $l->item, 'what' => (string) $l->why],
            $pass?->kind === PassKind::Delta ? BackOutBook::leftBy($pass->id, 1_000) : [],
        );
    }

    /** @return list<string> */
    private function warnings(Round $round, Proofs $proofs): array
    {
        if ($round->hasEnded()) {
            return [];
        }
        $told = $round->lane?->is_set_back === SetBack::Yes ? [Rounds::SET_BACK] : [];
        try {
            foreach ($round->target === null ? [] : Rounds::others($round->target, $round->lane) as $mark) {
                $told[] = "The target holds records of another round, $mark->round, begun $mark->begun UTC.";
            }
        } catch (TargetUnavailable) {
            // It is said under target_error.
        }
        foreach ($round->latestPass()->told ?? [] as $different) {
            $told[] = "The target is not as described: $different";
        }
        $over = DeltaBook::leftOver($round->laneId());
        if ($over > 0) {
            $told[] = Amount::of($over, 'row').' that differ were found by a delta that was ended before it sent them: run a delta.';
        }
        $in = $round->roundLoads()->pluck('load_id')->all();
        foreach ($proofs->definitions()->loads() as $load) {
            if (! in_array($load->id, $in, true)) {
                $told[] = "$load->name is not in this round: it was added after it was begun.";
            }
        }

        return $told;
    }

    /** @return array<string, mixed> */
    private function figures(CountProof $proof): array
    {
        $outcomes = [];
        foreach (Outcome::cases() as $outcome) {
            $outcomes[$outcome->value] = $proof->count($outcome);
        }

        return [
            'source_rows' => $proof->sourceRows,
            'stated_rows' => $proof->statedRows,
            'feed_rows' => $proof->feedRows,
            'outcomes' => $outcomes,
            'older' => $proof->older(),
            'unaccounted' => $proof->unaccounted(),
        ];
    }

    /**
     * What keeps rows out, alike by stage, code and field, with all their rows; below each its largest values, and why those were left
     * behind where they were.
     *
     * @return list<array<string, mixed>>
     */
    private function causes(Round $round, int $load): array
    {
        $reader = new CauseReader($round->laneId());
        $largest = $reader->largest($load, self::VALUES);
        $waivers = WaiverBook::newest($round, array_map(fn ($c) => [$load, $c->waive_hash], $largest));
        $values = [];
        foreach ($largest as $c) {
            $waiver = $c->outcome === Outcome::Waived->value ? $waivers["$load $c->waive_hash"] ?? null : null;
            $values["$c->stage $c->code $c->field $c->outcome"][] = ['value' => $c->value, 'message' => $c->message, 'rows' => (int) $c->n]
                + ($waiver === null ? [] : ['because' => $waiver->reason, 'by' => $waiver->user?->name]);
        }

        return array_map(fn ($g) => [
            'stage' => $g->stage,
            'code' => $g->code,
            'field' => $g->field,
            'outcome' => $g->outcome,
            'rows' => (int) $g->n,
            'values' => $values["$g->stage $g->code $g->field $g->outcome"] ?? [],
            'more_values' => max(0, (int) $g->kinds - self::VALUES),
        ], $reader->groups($load));
    }

    /** @return list<array{load: string, field: string, made: int, waiting: int, left_open: int}> */
    private function links(Round $round): array
    {
        return array_map(
            fn ($r) => [
                'load' => $r->load,
                'field' => $r->field,
                'made' => (int) $r->made,
                'waiting' => (int) $r->waiting,
                'left_open' => (int) $r->waived,
            ],
            (new Links($round->laneId()))->counts(),
        );
    }

    /**
     * @param  array<CountProof>  $proofs
     * @param  \Closure(CountProof): bool  $test
     */
    private function all(array $proofs, \Closure $test): bool
    {
        foreach ($proofs as $proof) {
            if (! $test($proof)) {
                return false;
            }
        }

        return true;
    }
}
