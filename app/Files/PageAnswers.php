<?php

namespace App\Files;

use App\Ledger\CauseSet;
use App\Ledger\LedgerReader;
use App\Models\Answer;
use App\Models\AnswerState;
use App\Models\Load;
use App\Models\Round;
use App\Models\Take;
use App\Models\User;
use App\Models\Work;
use App\Models\WorkKind;
use App\Staging\StagedRows;
use Baggage\Core\Writing\Resaved;
use Illuminate\Support\Facades\DB;

/** What the client's people answer on their page: a value for all rows of a cause. It is listed like a file that came back. */
final class PageAnswers
{
    private const AT_ONCE = 1_000;

    /**
     * @param  array<array-key, mixed>  $answers  cause → what the cells of its rows should say
     * @return int answers that say something new
     *
     * @throws \DomainException
     */
    public static function give(Round $round, User $user, Question $question, array $answers): int
    {
        $values = [];
        $rows = 0;
        foreach ($question->values as $value) {
            $is = $answers[$value->id] ?? null;
            if (is_string($is) && $is !== '' && $is !== (string) $value->answered) {
                // Cause, load, position of the cell, and what it should say.
                $values[] = [$value->id, $question->group->load, $question->position, $is];
                $rows += $value->rows;
            }
        }
        if ($values === []) {
            throw new \DomainException('Nothing was answered: write what a cell should say.');
        }
        if ($round->hasEnded()) {
            throw new \DomainException("Round $round->name has ended; what it says stays as it is.");
        }
        $answer = Answer::query()->create([
            'migration_id' => $round->migration_id, 'round_id' => $round->id, 'name' => 'Answers on the page',
            'sent_by' => $user->name, 'state' => AnswerState::Waiting, 'user_id' => $user->id, 'found' => ['values' => $values],
        ]);
        $work = Work::ask($round->migration, WorkKind::Answer, 'Reading answers on the page', ['of' => $answer->id], $rows);
        $rows <= FileBook::AT_ONCE ? TakeAnswer::dispatchSync($work->id) : TakeAnswer::dispatch($work->id);

        return count($values);
    }

    /** @return array<string, mixed> what was found, as of a file that came back */
    public static function listed(Answer $answer): array
    {
        $values = $answer->found['values'] ?? [];
        $counts = ['change' => 0, 'conflict' => 0, 'program' => 0, 'already' => 0, 'errors' => 0, 'remarks' => 0, 'rows' => 0];
        DB::transaction(function () use ($answer, $values, &$counts) {
            DB::table('answer_changes')->where('answer_id', $answer->id)->delete();
            foreach ($values as [$cause, $load, $position, $value]) {
                $of = Load::query()->where('migration_id', $answer->migration_id)->findOrFail($load);
                $take = $answer->round->roundLoads()->where('load_id', $load)->with('take')->firstOrFail()->take;
                self::cause($answer, $of, $take, (int) $cause, (int) $position, (string) $value, $counts);
            }
        });

        return ['found' => $counts + ['values' => $values]];
    }

    /** @param  array<string, int>  $counts */
    private static function cause(Answer $answer, Load $load, Take $take, int $cause, int $position, string $value, array &$counts): void
    {
        $ledger = new LedgerReader($answer->round);
        $after = 0;
        while (($rows = $ledger->rejectedFor($load, CauseSet::one($cause), $after, self::AT_ONCE)) !== []) {
            $after = (int) end($rows);
            $cells = (new StagedRows($take->id))->numbered($rows);
            $lines = [];
            foreach ($rows as $row) {
                $was = $cells[$row][$position] ?? null;
                $counts['rows']++;
                if (Resaved::isSame($was, $value)) {
                    $counts['already']++;

                    continue;
                }
                $counts['change']++;
                $lines[] = ['answer_id' => $answer->id, 'load_id' => $load->id, 'row_no' => $row, 'position' => $position,
                    'take_id' => $take->id, 'was' => $was, 'is_now' => $was, 'becomes' => $value, 'kind' => 'change'];
            }
            DB::table('answer_changes')->insertOrIgnore($lines);
        }
    }
}
