<?php

namespace App\View;

use App\Ledger\RowFilter;
use App\Models\Answer;
use App\Models\AnswerState;
use App\Models\CheckState;
use App\Models\CodeCrosswalk;
use App\Models\DryRun;
use App\Models\Extract;
use App\Models\Load;
use App\Models\LoadCheck;
use App\Models\MatchRule;
use App\Models\Pass;
use App\Models\PassKind;
use App\Models\PassLoad;
use App\Models\Take;
use App\Models\TakeState;
use App\Models\Work;
use App\Overview\ListedCrosswalk;
use App\Reconciling\Counted;
use App\Rejects\Proposed;
use App\Rejects\ProposedKind;
use App\Support\Amount;
use App\Support\When;
use App\Targets\TargetCount;
use Baggage\Core\Crosswalks\Otherwise;
use Baggage\Core\Feeds\Combination;
use Baggage\Core\Profiling\ColumnProfile;
use Baggage\Core\Reading\Column;
use Baggage\Core\Reconciling\CountProof;
use Baggage\Core\Rows\Outcome;
use Illuminate\Support\Collection;

/** Sentences with figures in them. Every view has it as $tell. */
final class Tell
{
    public const NO_COLUMN = [
        'used' => 'No rule uses a column yet.',
        'left' => 'No column is left behind.',
        'undecided' => 'Every column of the extract is used or left behind.',
    ];

    public const NO_KEY = 'No column, nor two or three together, identify the rows, or they are still being looked for.';

    /** By whether the key is blank. */
    public const KEY_ROWS = [
        'Rows of one key stand together, the first of them too. The key is compared without blanks around it.',
        'At least one of its cells is blank.',
    ];

    public function __construct(private readonly Say $say)
    {
    }

    /** @param  array<string, int|null>  $counts  entity → records in the target; null where it has no such table */
    public function records(array $counts, string $entity): string
    {
        return match (true) {
            isset($counts[$entity]) => number_format($counts[$entity]),
            array_key_exists($entity, $counts) => 'no table',
            default => '',
        };
    }

    /** @param  list<int>  $rows  the first of them */
    public function rowNumbers(array $rows, int $all): string
    {
        return implode(', ', array_map(number_format(...), $rows)).($all > count($rows) ? ' and others' : '');
    }

    /** @param  array<array-key, array<string, mixed>>  $missing  old values without a new one */
    public function missingCodes(CodeCrosswalk $crosswalk, array $missing, int $refused): string
    {
        if ($missing === []) {
            return $refused === 0 ? 'every old value has a new one' : $this->say->count($refused, 'new value').' the target does not take';
        }
        $instead = match ($crosswalk->otherwise) {
            Otherwise::Reject => '',
            Otherwise::Leave => '; they all leave the field empty',
            Otherwise::Value => "; they all become \"$crosswalk->otherwise_value\"",
        };
        $rows = number_format(array_sum(array_column($missing, 'rows')));

        return $this->say->count(count($missing), 'old value')." without a new one, in $rows rows$instead"
            .($refused === 0 ? '' : ', and '.$this->say->count($refused, 'new value').' the target does not take');
    }

    public function openCodes(ListedCrosswalk $crosswalk): string
    {
        return match (true) {
            $crosswalk->isMissing() => 'not there',
            $crosswalk->unmapped > 0 => number_format($crosswalk->unmapped).' unmapped',
            default => number_format($crosswalk->refused).' not allowed',
        };
    }

    public function proofs(int $broken): string
    {
        return $broken === 0 ? 'Every row is accounted for and every count proof holds.'
            : $this->say->count($broken, 'count proof does', 'count proofs do').' not hold.';
    }

    /** Why a row became what it is, of a line of the ledger. */
    public function because(object $line): string
    {
        $waits = $line->outcome === 'pending' && $line->message ? 'waits to be loaded; was: ' : '';

        return $waits.$line->message.($line->field ? ", $line->field" : '');
    }

    /** When and why a cell was corrected, and whether that still holds. */
    /** @param  \stdClass  $correction  of Staging\Corrections */
    public function correction(\stdClass $correction): string
    {
        return ($correction->who === null ? '' : "$correction->who, ").When::said($correction->created_at, 'short')
            .($correction->reason ? ": $correction->reason" : '');
    }

    /** What a match rule compares. */
    public function matchRule(MatchRule $rule): string
    {
        return implode('; ', array_map(fn ($how, $field) => "$field, ".$this->say->normaliser($how), $rule->on, array_keys($rule->on)));
    }

    public function policyOf(Load $load): string
    {
        $matched = $load->matches()->isEmpty() ? '' : ', matched by '.$load->matches()->pluck('name')->join(', then ');

        return ucfirst($load->policy->label()).$matched;
    }

    /** @return array<string, string> which fields are shown → what the link says */
    public function fieldTabs(int $all, int $ruled, int $open): array
    {
        return [
            'all' => 'All '.$this->say->count($all, 'field'),
            'mapped' => "$ruled with a rule",
            'open' => "$open without a decision",
        ];
    }

    /** @return array<string, string> which columns are shown → what the link says */
    public function columnTabs(int $undecided, int $left, int $used): array
    {
        return ['undecided' => "$undecided undecided", 'left' => "$left left behind", 'used' => "$used used"];
    }

    /** @return array<string, string> part of an extract → what the link says */
    public function extractTabs(Extract $extract, Take $take, int $findings, int $open): array
    {
        return [
            'columns' => $this->say->count(count($extract->columns ?? []), 'column'),
            'findings' => $findings === 0 ? 'No findings' : $this->say->count($findings, 'finding').", $open open",
            'keys' => 'Keys and references',
            'rows' => $this->say->count((int) $take->rows, 'row'),
            'takes' => $this->say->count($take->number, 'take'),
        ];
    }

    public function tried(LoadCheck $check): string
    {
        return $check->state === CheckState::Queued ? 'waits for a worker'
            : number_format($check->rows_done).' of '.number_format($check->rows_total).' rows tried';
    }

    /** Why rows are held, of a line of the list of parents. */
    public function heldBecause(object $held, string $because): string
    {
        $says = $because !== '' && ! str_starts_with($because, 'Waits') ? ': '.lcfirst($because) : '';

        return str_replace('parent_', '', $held->code).$says;
    }

    /**
     * @param  array<string, int>  $counts
     * @return array<string, array{string, int}> part of Rejects → what it is called, and how much is in it; those with nothing are left out
     */
    public function rejectParts(array $counts, bool $isCutover): array
    {
        $left = $counts['references'] + $counts['open references'];

        return array_filter([
            'causes' => ['Causes of rejected rows', $counts['rejected']],
            'held' => ['Held rows', $counts['held']],
            'left' => ['Left out on purpose', $counts['waived'] + $counts['excluded'] + $counts['merged']],
            'references' => ['References that wait', $counts['references']],
            'corrections' => ['Corrections to decide', $counts['corrections']],
            'repairs' => ['Repairs', $counts['repairs']],
            'files' => ['Files for the client', $counts['files']],
        ], fn (array $of, string $part) => $of[1] > 0 || $part === 'causes' || $part === 'files' || ($part === 'left' && $isCutover)
            || ($part === 'references' && $left > 0), ARRAY_FILTER_USE_BOTH);
    }

    /** When the figures of a proof were counted, and what is going on about it. */
    public function counted(?Counted $counted, ?Pass $pass): string
    {
        $at = $counted?->at === null ? '' : ' It was counted last on '.When::said($counted->at, 'counted').'.';

        return match (true) {
            $pass?->isGoing() => "Pass $pass->number is writing: these are its running tallies. They are counted when it ends.",
            $counted === null => 'These are the tallies kept while loading; nobody has counted them yet.',
            $counted->isAsked() => 'These are the tallies kept while loading. Ledger and target are being counted now.'.$at,
            $counted->isDone() => 'Ledger and target were counted on '.When::said($counted->at, 'counted').'.',
            default => 'These are the tallies kept while loading.'.$at,
        };
    }

    /** When the records of a target were counted, and of one entity how many there were. */
    public function targetCounted(?TargetCount $counted, ?string $entity): string
    {
        $n = $entity === null ? null : $counted->records[$entity] ?? null;

        return match (true) {
            $counted?->isGoing => 'Its records are being counted; load the page again to see them.',
            $counted?->at === null => '',
            $n !== null => "It held {$this->say->count($n, 'record')} on ".When::said($counted->at, 'counted').'.',
            default => 'Its records were counted on '.When::said($counted->at, 'counted').'.',
        };
    }

    /** @param  array{kind: string, bars: list<int>, from: string, to: string}  $strip */
    public function strip(array $strip): string
    {
        $of = 'of '.number_format(array_sum($strip['bars'])).' rows spread over the take';

        return match ($strip['kind']) {
            'dates' => "Years {$strip['from']} to {$strip['to']}, $of",
            'amounts' => "Amounts {$strip['from']} to {$strip['to']}, $of",
            'lengths' => "Lengths {$strip['from']} to {$strip['to']}, $of",
            default => count($strip['bars'])." values, from {$strip['from']} to the rarest, {$strip['to']}, $of",
        };
    }

    /** How far a round is, in a few words. */
    public function glance(CountProof $proof, ?Pass $pass): string
    {
        $done = number_format($proof->feedRows - $proof->open()).' of '.number_format($proof->feedRows).' rows done';
        $open = [];
        foreach ([Outcome::Rejected, Outcome::Held] as $outcome) {
            $proof->count($outcome) === 0 ?: ($open[] = number_format($proof->count($outcome))." $outcome->value");
        }

        return match (true) {
            $pass === null => 'not begun',
            $pass->isGoing() => "pass $pass->number runs: $done",
            $pass->canResume() => "pass $pass->number {$pass->stateInWords()}: $done",
            $open === [] => $done,
            default => $done.', '.implode(', ', $open),
        };
    }

    /** What a list of rows is of. */
    public function rowsTitle(RowFilter $filter): string
    {
        return match (true) {
            $filter->isStanding => 'rows that stand as they are',
            $filter->isOlder => 'rows left out whose record stands with older values',
            $filter->outcome !== null => "{$filter->outcome->value} rows",
            default => 'rows',
        };
    }

    /** Which rows a list is of. */
    public function rowsOf(RowFilter $filter): string
    {
        return match (true) {
            $filter->waits !== null => "Their reference $filter->waits waits for a record that is not there yet.",
            $filter->open !== null => "Their reference $filter->open was left open on purpose.",
            $filter->made !== null => "Their reference $filter->made was set when both records were there.",
            $filter->root !== null => 'Held, in the end, by rows that are rejected for one cause.',
            $filter->alike !== null => match ($filter->which) {
                RowFilter::BELOW => 'Held, in the end, by rows that are rejected alike: ',
                RowFilter::DUE => 'What they failed for was changed, so they are due: ',
                default => 'Rejected alike: ',
            }.str_replace('_', ' ', $filter->alike[2]).($filter->alike[3] === null ? '' : ", {$filter->alike[3]}").'.',
            $filter->isStanding => 'Loaded, updated or unchanged: each stands on a record of its own.',
            $filter->isOlder => 'They failed, or left the scope, since their record was made: it keeps the last good values.',
            $filter->outcome !== null => ucfirst($filter->outcome->value).": {$filter->outcome->meaning()}.",
            default => 'Every row that has an outcome in this round.',
        };
    }

    public function workLeft(Work $work): string
    {
        return self::rate($work->done, $work->total, $work->created_at);
    }

    public function dryRunLeft(DryRun $run): string
    {
        return $run->began_at === null ? '' : self::rate($run->done, $run->total, $run->began_at);
    }

    private static function rate(int $done, int $total, ?\DateTimeInterface $since): string
    {
        $rate = $done / max(1, $since === null ? 0 : time() - $since->getTimestamp());

        return number_format((int) $rate).' rows/s, '
            .($rate > 0 ? PassProgress::time((int) ceil(max(0, $total - $done) / $rate)).' left' : 'unknown time left');
    }

    /** Whether a pass did what the dry run before it said. */
    public function compared(Pass $pass): string
    {
        $of = $pass->compared ?? [];
        if (($of['because'] ?? null) !== null) {
            return "The dry run before it says nothing of this pass: $of[because].";
        }
        $kinds = array_map(
            fn (array $k) => number_format((int) $k['n'])." said to be $k[said] ".((int) $k['n'] === 1 ? 'is' : 'are')." $k[is]"
                .($k['because'] === null ? '' : " ($k[because])"),
            $of['kinds'] ?? [],
        );
        $tried = ($of['said'] ?? 0) === ($of['tried'] ?? 0)
            ? ''
            : ' It tried '.$this->say->count((int) ($of['tried'] ?? 0), 'row').', the dry run '.number_format((int) ($of['said'] ?? 0)).'.';

        return $kinds === []
            ? "It did what the dry run said.$tried"
            : 'Otherwise than the dry run said: '.implode('; ', $kinds).".$tried";
    }

    public function answerState(Answer $answer): string
    {
        return match ($answer->state) {
            AnswerState::Waiting => 'being read',
            AnswerState::Asking => 'asks which columns are which',
            AnswerState::Listed => 'read',
            AnswerState::Refused => 'not taken in',
        };
    }

    /** What was found in an answer. */
    public function answerFound(Answer $answer): string
    {
        $of = $answer->found ?? [];
        if (! isset($of['rows'])) {
            return 'Some of its columns are called otherwise than they were.';
        }
        $parts = array_filter([
            $this->say->count($of['rows'], 'row').' read',
            $this->say->count($of['change'], 'cell').' changed',
            $of['conflict'] > 0 ? $this->say->count($of['conflict'], 'cell').' in conflict with what was corrected here' : '',
            $of['already'] > 0 ? $this->say->count($of['already'], 'cell').' said so here already' : '',
            $of['remarks'] > 0 ? $this->say->count($of['remarks'], 'remark').' kept' : '',
        ]);

        return ucfirst(implode(', ', $parts)).'.';
    }

    /** @return list<string> what was odd in it, and what was not taken from it */
    public function answerOdd(Answer $answer): array
    {
        $of = $answer->found ?? [];
        $said = [
            'added' => 'without a reference: added by the client, they belong in the next delivery',
            'damaged' => 'with a reference that is none: not read',
            'elsewhere' => 'of another file: take that one in by itself',
            'twice' => 'for a second time: only the first one was read',
        ];
        $odd = array_values($of['odd'] ?? []);
        foreach ($of['places'] ?? [] as $kind => [$n, $places]) {
            $where = implode('; ', array_slice($places, 0, 5)).(count($places) > 5 ? ' …' : '');
            $odd[] = $this->say->count($n, 'row').' '.($said[$kind] ?? '')." ($where).";
        }
        foreach ($of['missing'] ?? [] as $sheet => $titles) {
            $odd[] = "$sheet: without ".implode(', ', $titles).'. Nothing of that was changed.';
        }
        foreach ($of['extra'] ?? [] as $sheet => $titles) {
            $odd[] = "$sheet: with ".implode(', ', $titles).', which did not go out. It was not read.';
        }
        if (($of['keys'] ?? 0) >= 3) {
            $odd[] = 'In '.$this->say->count($of['keys'], 'row').' the key itself was changed. Where columns were sorted apart from each '
                .'other, cells stand in rows that are not theirs: look at them before anything is taken in.';
        }
        if (($of['program'] ?? 0) > 0) {
            $odd[] = $this->say->count($of['program'], 'cell').' look'.($of['program'] === 1 ? 's' : '')
                .' changed by the program it was saved with alone, as lost zeros and days turned round. Tick those that were meant.';
        }
        if (($of['errors'] ?? 0) > 0) {
            $odd[] = $this->say->count($of['errors'], 'cell shows', 'cells show').' an error, as #N/A: not read.';
        }
        if (($of['unknown'] ?? 0) > 0) {
            $odd[] = $this->say->count($of['unknown'], 'row').' this file never had: not read.';
        }

        return array_map(strval(...), $odd);
    }

    /** What a change of a cell is, and what became of it. */
    public function change(\stdClass $change): string
    {
        return match (true) {
            $change->state === 'taken' => 'taken in',
            $change->state === 'left' => 'let be',
            $change->kind === 'conflict' => 'corrected here otherwise',
            $change->kind === 'program' => 'made by the program',
            default => 'changed',
        };
    }

    /** What the button says that makes a repair. */
    public function keeps(Proposed $proposed): string
    {
        $rows = $this->say->count($proposed->rows, 'row');

        return match ($proposed->kind) {
            ProposedKind::Correct => "Correct $rows",
            ProposedKind::Row => 'Keep the row so',
            ProposedKind::Code => count($proposed->olds) === 1
                ? 'Give the code'
                : 'Give '.$this->say->count(count($proposed->olds), 'code'),
            ProposedKind::Rule => 'Keep the rule',
            ProposedKind::Parent => "Give $rows this parent",
            ProposedKind::Match => 'Match the row',
            ProposedKind::Answers => 'Take them in',
            ProposedKind::Stay => "Waive $rows",
        };
    }

    /** How far the reading of a take is, how fast, and how long it will go on. */
    public function reading(Take $take): string
    {
        $seconds = $take->taken_at === null ? 0 : max(1, (int) $take->taken_at->diffInSeconds(now()));
        $share = $take->bytes > 0 ? $take->bytes_read / $take->bytes : 0;
        $bytes = number_format($take->bytes_read).' of '.number_format($take->bytes).' bytes';

        return ($take->bytes_read > 0 ? ", $bytes" : '')
            .($seconds > 1 && $take->rows ? ', '.number_format(intdiv($take->rows, $seconds)).' rows/s' : '')
            .($seconds > 2 && $share > 0.02 ? ', '.$this->say->time((int) ceil($seconds / $share - $seconds)).' left' : '');
    }

    public function take(Take $take): string
    {
        return $take->state === TakeState::Waiting
            ? 'waits for a worker'
            : 'reading, '.number_format($take->rows ?? 0).' rows'.$this->reading($take);
    }

    public function countedExactly(): string
    {
        return '; counted exactly among the first '.number_format(ColumnProfile::BOUND).' different values';
    }

    /** @param  list<string>|null  $key  headers of the key that tells the rows of two takes apart */
    public function toldApart(?array $key): string
    {
        return $key ? 'Rows are told apart by '.implode(' + ', $key).'.'
            : 'No key tells the rows apart in both takes, so they are held against each other by what they say: '
                .'a changed row is one gone and one added.';
    }

    /** @param  list<Extract>  $extracts */
    public function feed(Combination $combination, array $extracts): string
    {
        $names = array_map(fn (Extract $e) => $e->name, $extracts);

        return match ($combination->value) {
            'join' => "$names[0] with $names[1]",
            'distinct' => "values of $names[0]",
            default => implode(' and ', $names),
        };
    }

    public function columns(int $all, int $shown): string
    {
        return $this->say->count($all, 'column').($shown < $all ? ", the first $shown shown" : '');
    }

    /**
     * The columns rows are shown with: the first ones, and the one it is about.
     *
     * @param  list<Column>  $columns
     * @return list<Column>
     */
    public function columnsBeside(array $columns, ?int $position): array
    {
        return $position === null ? array_slice($columns, 0, 24)
            : array_values(array_filter($columns, fn (Column $c) => $c->position === $position || $c->position < 12));
    }

    /**
     * @param  list<Column>  $columns
     * @param  list<string>  $key  headers
     * @return list<Column> those of the key first
     */
    public function keyFirst(array $columns, array $key): array
    {
        usort($columns, fn (Column $a, Column $b) => [! in_array($a->header, $key, true), $a->position]
            <=> [! in_array($b->header, $key, true), $b->position]);

        return $columns;
    }

    /**
     * What a pass is about.
     *
     * @param  Collection<int, Pass>  $passes  of its round
     */
    public function pass(Pass $pass, Collection $passes): string
    {
        $backs = $passes->whereIn('id', $pass->backs_out ?? [])->sortBy('number')->pluck('number');

        return match (true) {
            $pass->kind === PassKind::First => 'all loads',
            $pass->kind === PassKind::BackOut && $backs->isEmpty() => 'was to take back passes',
            $pass->kind === PassKind::BackOut => 'takes back pass '.$backs->join(', ', ' and '),
            $pass->kind === PassKind::Delta && $pass->is_full => 'a delta, all rows looked at anew',
            $pass->kind === PassKind::Delta => 'a delta: what differs',
            $pass->only !== null => 'rows of one cause that were due',
            default => 'rows that were due',
        };
    }

    /** What became of the records listed with a pass. */
    public function left(Pass $pass): string
    {
        return $pass->kind === PassKind::Delta
            ? 'somebody else had changed: what they said was written over, and taking the pass back says it again'
            : 'left as they are, with their rows';
    }

    /** Whether it stands, and nothing is in the way of taking it back. */
    public function mayBeBackedOut(Page $page, Pass $pass): bool
    {
        return $pass->kind !== PassKind::BackOut && $pass->backed_out_by === null && $pass->is_logged
            && ! $page->round?->hasEnded() && ! $page->pass?->isGoing() && ! $page->pass?->canResume();
    }

    /** @param  Collection<int, Pass>  $passes  of its round */
    public function andLater(Pass $pass, Collection $passes): string
    {
        $later = $this->standing($passes)->filter(fn (Pass $p) => $p->number > $pass->number)->sortBy('number')->pluck('number');

        return $later->isEmpty() ? '' : ', and with it pass '.$later->join(', ', ' and ');
    }

    /** @param  Collection<int, Pass>  $passes  of its round */
    public function wouldBackOut(Pass $pass, Collection $passes): string
    {
        $counts = ['loaded' => 0, 'updated' => 0];
        foreach ($this->standing($passes)->filter(fn (Pass $p) => $p->number >= $pass->number) as $one) {
            foreach (array_keys($counts) as $outcome) {
                $counts[$outcome] += $one->passLoads->sum(fn (PassLoad $l) => $l->counts[$outcome] ?? 0);
            }
        }

        return 'At most '.Amount::of($counts['loaded'], 'record').' would be removed and '.number_format($counts['updated'])
            .' get back what they said.';
    }

    /**
     * @param  Collection<int, Pass>  $passes
     * @return Collection<int, Pass> those that were not taken back
     */
    private function standing(Collection $passes): Collection
    {
        return $passes->filter(fn (Pass $p) => $p->kind !== PassKind::BackOut && $p->backed_out_by === null);
    }
}
