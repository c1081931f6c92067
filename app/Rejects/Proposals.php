<?php

namespace App\Rejects;

use App\Catalogue\CodeColumn;
use App\Catalogue\CodeFit;
use App\Decisions\CorrectionBook;
use App\Decisions\Numbers;
use App\DryRuns\DryRuns;
use App\Ledger\CauseSet;
use App\Ledger\LedgerReader;
use App\Mapping\RuleBook;
use App\Mapping\RuleConflict;
use App\Models\Answer;
use App\Models\CodeCrosswalk;
use App\Models\CodeDecision;
use App\Models\CodeEntry;
use App\Models\DryRun;
use App\Models\Entity;
use App\Models\Extract;
use App\Models\Load;
use App\Models\Repair;
use App\Models\Round;
use App\Models\RoundLoad;
use App\Models\Take;
use App\Models\User;
use App\Models\Work;
use App\Models\WorkKind;
use App\Staging\StagedRows;
use App\Support\Amount;
use Baggage\Core\Expressions\Compiler;
use Baggage\Core\Expressions\ExpressionError;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\DB;

/** Repairs that are tried, and kept as they were tried. */
final readonly class Proposals
{
    /** Rows looked at for whether anything would change. */
    private const LOOKED_AT = 1_000;

    public function __construct(private Repairs $repairs, private RuleBook $rules, private TakeIn $in)
    {
    }

    /**
     * Tries it on its rows and those below them.
     *
     * @param  string|null  $from  where whoever proposes it goes on afterwards
     *
     * @throws \DomainException where it cannot be made, or would change nothing
     */
    public function try(Round $round, Proposed $proposed, ?string $from = null): DryRun
    {
        Repairs::mayBeDecided($round);
        $load = Load::query()->where('migration_id', $round->migration_id)->findOrFail($proposed->load);
        match ($proposed->kind) {
            ProposedKind::Correct => $this->refuseSame($round, $load, $proposed),
            ProposedKind::Row => $this->refuseSameRow($round, $load, $proposed),
            ProposedKind::Code => $this->refuseCode($load, $proposed),
            ProposedKind::Rule, ProposedKind::Parent => $this->refuseRule($load, $proposed),
            ProposedKind::Match, ProposedKind::Stay, ProposedKind::Answers => null,
        };

        return DryRuns::ofRepair($round, $proposed->supposed(), $proposed->title($load->name), [
            'proposed' => $proposed->toArray(),
            'from' => $from,
        ]);
    }

    /**
     * Makes a record for rows without a parent, and tries the rule that gives it to them: both or nothing.
     *
     * @param  string  $code  of the cause: orphan or parent_left
     * @param  array<string, string>  $values  of the record, by field; a DomainException says what is wrong with them
     */
    public function tryRecord(Round $round, Load $load, string $field, string $code, Entity $parent, string $key, array $values): DryRun
    {
        return DB::transaction(function () use ($round, $load, $field, $code, $parent, $key, $values): DryRun {
            DefaultRecords::make($round->migration, $parent, $key, $values);
            $proposed = Proposed::withParent($round, $load, $field, $code, $key, DefaultRecords::SOURCE);

            return $this->try($round, $proposed, "/m/$round->migration_id/rejects");
        });
    }

    /** What a dry run tried; null where it is none of a repair. */
    public static function of(DryRun $run): ?Proposed
    {
        return isset($run->given['proposed']) ? Proposed::fromArray($run->given['proposed']) : null;
    }

    /**
     * Makes it, by a worker where there are many rows.
     *
     * @return string|Work what was done, or who does it
     *
     * @throws \DomainException
     * @throws \App\Support\EditLost
     */
    public function keep(Round $round, DryRun $run): string|Work
    {
        $proposed = self::of($run) ?? throw new \DomainException('This dry run is none of a repair.');
        if ($run->isGoing()) {
            throw new \DomainException('It is still being tried. Look at what would become of it first.');
        }
        $load = Load::query()->where('migration_id', $round->migration_id)->findOrFail($proposed->load);
        // Made and in the list of repairs, or neither; and once, however often it is sent.
        $told = DB::transaction(function () use ($round, $load, $proposed, $run) {
            $now = DryRun::query()->whereKey($run->id)->lockForUpdate()->firstOrFail();
            if (isset($now->given['kept'])) {
                throw new \DomainException('This repair was made already.');
            }
            $repair = new Repair($this->line($round, $load, $proposed, $run->title));
            [$told, $numbers] = Numbers::noting(fn () => $this->make($round, $load, $proposed, $run->title));
            $repair->fill(['numbers' => $numbers, 'work_id' => $told instanceof Work ? $told->id : null])->save();
            $now->update(['given' => ['kept' => true] + $now->given]);

            return $told;
        });

        return $told;
    }

    /** @return array<string, mixed> the repair as it is found in the list of them, and what undoing it needs */
    private function line(Round $round, Load $load, Proposed $proposed, string $title): array
    {
        [$was, $before] = $this->before($round, $load, $proposed);

        return [
            'migration_id' => $round->migration_id,
            'round_id' => $round->id,
            'load_id' => $load->id,
            'extract_id' => $load->extract_id,
            'kind' => $proposed->kind->value,
            'title' => mb_substr($title, 0, 500),
            'about' => mb_substr((string) ($proposed->header ?? $proposed->crosswalk ?? $proposed->field), 0, 190) ?: null,
            'was' => $was === null ? null : mb_substr($was, 0, 4000),
            'becomes' => mb_substr((string) match ($proposed->kind) {
                ProposedKind::Correct, ProposedKind::Code => $proposed->rejects ? 'rejects the row' : $proposed->new ?? 'stays empty',
                ProposedKind::Row => implode(' | ', $proposed->cells ?? []),
                ProposedKind::Rule, ProposedKind::Parent => $proposed->expression,
                ProposedKind::Match => "record $proposed->record",
                ProposedKind::Stay => 'left behind',
                ProposedKind::Answers => 'as answered',
            }, 0, 4000),
            'reason' => $proposed->reason === '' ? null : $proposed->reason,
            'row_no' => $proposed->row,
            'causes' => $proposed->causes?->toArray(),
            'before_it' => $before,
            'rows' => $proposed->rows,
            'user_id' => Auth::id(),
        ];
    }

    /** @return array{string|null, array<string, mixed>|null} what it says now, in words and to be put back */
    private function before(Round $round, Load $load, Proposed $proposed): array
    {
        if ($proposed->kind === ProposedKind::Code) {
            $crosswalk = CodeCrosswalk::query()->where('migration_id', $load->migration_id)->where('name', $proposed->crosswalk)
                ->firstOrFail();
            $entries = $crosswalk->entries()->whereIn('old_value', array_map(trim(...), $proposed->olds))->get()->keyBy('old_value');
            $to = new CodeEntry([
                'new_value' => $proposed->new, 'decision' => $proposed->rejects ? CodeDecision::Reject : CodeDecision::Value,
            ]);
            $codes = array_map(fn (string $old) => [
                'old' => trim($old), 'is' => ($entries[trim($old)] ?? null)?->decision->value,
                'new' => ($entries[trim($old)] ?? null)?->new_value,
            ], $proposed->olds);

            return [implode(', ', array_slice($proposed->olds, 0, 20)), ['codes' => $codes, 'to' => CodeEntry::said($to)]];
        }
        if (in_array($proposed->kind, [ProposedKind::Rule, ProposedKind::Parent], true)) {
            $from = $load->rules()->where('field', $proposed->field)->value('expression');

            return [$from, ['from' => $from, 'to' => $proposed->expression]];
        }
        if ($proposed->kind === ProposedKind::Answers) {
            return [Answer::query()->find($proposed->answer)?->name, null];
        }
        $row = $proposed->row ?? ($proposed->causes === null ? null : (new LedgerReader($round))
            ->rejectedFor($load, $proposed->causes, 0, 1)[0] ?? null);
        $take = self::take($round, $load);
        $cells = $row === null ? [] : (new StagedRows($take->id))->numbered([$row])[$row] ?? [];
        $at = $proposed->header === null ? null : $take->tidyColumns()->find($proposed->header)?->position;
        $more = $proposed->rows > 1 ? ', and what the others say' : '';

        return [match ($proposed->kind) {
            ProposedKind::Correct => $at === null ? null : ($cells[$at] ?? '').$more,
            ProposedKind::Row => implode(' | ', array_map(strval(...), $cells)),
            default => null,
        }, null];
    }

    private function make(Round $round, Load $load, Proposed $proposed, string $title): string|Work
    {
        Repairs::mayBeDecided($round);
        $causes = $proposed->causes;
        $isMuch = ($causes !== null || $proposed->answer !== null) && $proposed->rows > RepairRows::AT_ONCE;
        if ($isMuch && in_array($proposed->kind, [ProposedKind::Correct, ProposedKind::Stay, ProposedKind::Answers], true)) {
            return $this->ask($round, $load, $proposed, $title);
        }

        return match ($proposed->kind) {
            ProposedKind::Answers => RepairRows::takenIn($this->in->take(
                $round, $load, Answer::query()->findOrFail($proposed->answer), $proposed->changes, $proposed->reason,
            )),
            ProposedKind::Correct => $causes === null
                ? 'The correction is kept.'.self::madeAgain($this->repairs->correctCell(
                    $round, $load, (int) $proposed->row, (string) $proposed->header, (string) $proposed->new, $proposed->reason,
                    $proposed->was,
                ))
                : Amount::of($this->repairs->correctValue(
                    $round, $load, $causes, (string) $proposed->header, (string) $proposed->new, $proposed->reason, null, $proposed->seen,
                ), 'row').' corrected.',
            ProposedKind::Row => 'The row is kept as it is to be.'.self::madeAgain($this->repairs->correctRow(
                $round, $load, (int) $proposed->row, $proposed->cells ?? [], $proposed->reason, $proposed->was,
            )),
            ProposedKind::Code => $this->giveCodes($round, $proposed),
            ProposedKind::Rule, ProposedKind::Parent => $this->changeRule($load, $proposed),
            ProposedKind::Match => $this->repairs->match(
                $round, $load, (int) $proposed->row, (string) $proposed->record, $proposed->reason,
            ),
            ProposedKind::Stay => $causes === null
                ? $this->repairs->waiveRow($round, $load, (int) $proposed->row, $proposed->reason)
                : Amount::of($this->repairs->waive($round, $load, $causes, $proposed->reason), 'row').' waived.',
        };
    }

    private function ask(Round $round, Load $load, Proposed $proposed, string $title): Work
    {
        $kind = match ($proposed->kind) {
            ProposedKind::Stay => WorkKind::Waive,
            ProposedKind::Answers => WorkKind::TakeIn,
            default => WorkKind::CorrectValue,
        };
        $work = Work::ask($round->migration()->firstOrFail(), $kind, $title, [
            'round' => $round->id,
            'load' => $load->id,
            'causes' => $proposed->causes?->toArray(),
            'header' => $proposed->header,
            'new' => $proposed->new,
            'reason' => $proposed->reason,
            'seen' => $proposed->seen,
            'answer' => $proposed->answer,
            'changes' => $proposed->changes,
        ], $proposed->rows);
        RepairRows::dispatch($work->id);

        return $work;
    }

    private function giveCodes(Round $round, Proposed $proposed): string
    {
        $migration = $round->migration()->firstOrFail();
        $crosswalk = $migration->codeCrosswalks()->where('name', $proposed->crosswalk)->firstOrFail();
        DB::transaction(function () use ($migration, $crosswalk, $proposed) {
            foreach ($proposed->olds as $old) {
                $this->repairs->mapCode(
                    $migration, $crosswalk, $old, $proposed->new, $proposed->rejects, count($proposed->olds) === 1 ? $proposed->was : null,
                );
            }
            if ($proposed->reason !== '') {
                $olds = array_map(trim(...), $proposed->olds);
                $crosswalk->entries()->whereIn('old_value', $olds)->update(['note' => mb_substr($proposed->reason, 0, 190)]);
            }
        });

        return count($proposed->olds) === 1 ? $proposed->title('').'.' : Amount::of(count($proposed->olds), 'code').' given.';
    }

    private function changeRule(Load $load, Proposed $proposed): string
    {
        $rule = $load->rules()->where('field', $proposed->field)->first();
        try {
            $this->rules->write(
                $load, (string) $proposed->field, $proposed->version, $proposed->expression, null,
                $proposed->reason === '' ? $rule?->note : $proposed->reason, User::query()->find(Auth::id()),
            );
        } catch (RuleConflict) {
            throw new \DomainException("Somebody changed the rule of $proposed->field since. Look at it, and try again.");
        } catch (ExpressionError $e) {
            throw new \DomainException($e->getMessage());
        }

        return "The rule of $proposed->field is kept.";
    }

    /** @throws \DomainException */
    private function refuseSame(Round $round, Load $load, Proposed $proposed): void
    {
        $take = self::take($round, $load);
        $rows = $proposed->row !== null
            ? [$proposed->row]
            : (new LedgerReader($round))->rejectedFor($load, $proposed->causes ?? CauseSet::some([]), 0, self::LOOKED_AT);
        $otherwise = CorrectionBook::otherwise($take, $rows, (string) $proposed->header, $proposed->new);
        if ($otherwise === [] && count($rows) < self::LOOKED_AT) {
            $where = $proposed->row === null ? 'in all of these rows' : "in row $proposed->row";
            throw new \DomainException("$proposed->header says that already $where; nothing would change.");
        }
    }

    /** @throws \DomainException */
    private function refuseSameRow(Round $round, Load $load, Proposed $proposed): void
    {
        $take = self::take($round, $load);
        $row = (int) $proposed->row;
        $cells = (new StagedRows($take->id))->numbered([$row])[$row] ?? throw new \DomainException("The extract has no row $row.");
        [$width, $is] = [count($take->columns ?? []), count($proposed->cells ?? [])];
        if ($is !== $width) {
            throw new \DomainException("The row needs $width cells, one for each column, not $is.");
        }
        if (array_map(strval(...), $cells) === array_map(strval(...), $proposed->cells ?? [])) {
            throw new \DomainException("Row $row says that already; nothing would change.");
        }
    }

    /** @throws \DomainException */
    private function refuseCode(Load $load, Proposed $proposed): void
    {
        $crosswalk = CodeCrosswalk::query()->where('migration_id', $load->migration_id)->where('name', $proposed->crosswalk)->firstOrFail();
        $field = explode(', ', (string) $proposed->field)[0];
        $why = $proposed->rejects || $field === '' ? null : CodeFit::of([
            new CodeColumn($load->id, $load->name, $load->entity_id, $field, null, 0),
        ])->refusal($proposed->new);
        if ($why !== null) {
            $what = $proposed->new === null ? 'it empty' : "\"$proposed->new\"";
            throw new \DomainException("The target would not take $what. $why.");
        }
        $is = new CodeEntry([
            'new_value' => $proposed->new, 'decision' => $proposed->rejects ? CodeDecision::Reject : CodeDecision::Value,
        ]);
        $olds = array_map(trim(...), $proposed->olds);
        $says = $crosswalk->entries()->whereIn('old_value', $olds)->get()->map(fn (CodeEntry $e) => CodeEntry::said($e))->countBy();
        if ($olds === [] || ($says[CodeEntry::said($is)] ?? 0) === count(array_unique($olds))) {
            throw new \DomainException('"'.($olds[0] ?? '').'" '.CodeEntry::said($is).' already; nothing would change.');
        }
    }

    /** @throws \DomainException */
    private function refuseRule(Load $load, Proposed $proposed): void
    {
        $expression = (string) $proposed->expression;
        if ($load->rules()->where('field', $proposed->field)->value('expression') === $expression) {
            throw new \DomainException("That is the rule of $proposed->field already; nothing would change.");
        }
        try {
            (new Compiler($load->extract->tidyColumns()))->compile($expression);
        } catch (ExpressionError $e) {
            throw new \DomainException("The rule is not understood: {$e->getMessage()}");
        }
    }

    /** @throws \DomainException */
    private static function take(Round $round, Load $load): Take
    {
        $of = $round->roundLoads()->where('load_id', $load->id)->with('take')->first();

        return $of instanceof RoundLoad ? $of->take : throw new \DomainException("$load->name is not in this round.");
    }

    /** @param  list<Extract>  $feeds */
    private static function madeAgain(array $feeds): string
    {
        return $feeds === [] ? '' : ' '.implode(' and ', array_map(fn (Extract $f) => $f->name, $feeds))
            .' come together by it, so the next take of '.(count($feeds) === 1 ? 'it is' : 'them is')
            .' being made; this round stays with the one it has.';
    }
}
