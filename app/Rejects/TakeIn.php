<?php

namespace App\Rejects;

use App\Decisions\AnswerChanges;
use App\Decisions\CorrectionBook;
use App\Decisions\Numbers;
use App\Loading\DueSoon;
use App\Models\Answer;
use App\Models\Audit;
use App\Models\Extract;
use App\Models\Load;
use App\Models\Round;
use App\Models\Take;
use App\Models\Work;
use App\Staging\StagedRows;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\DB;

/** Makes corrections of what the client answered. A cell that was corrected otherwise meanwhile becomes a conflict and stays as it is. */
final readonly class TakeIn
{
    public function __construct(private CorrectionBook $book)
    {
    }

    /**
     * @param  list<int>|null  $ids  changes; null for all of the load that are open and no conflict
     * @return array{int, int} cells corrected, and those somebody corrected otherwise meanwhile
     *
     * @throws \DomainException
     */
    public function take(Round $round, Load $load, Answer $answer, ?array $ids, string $reason, ?Work $work = null): array
    {
        Repairs::mayBeDecided($round);
        $changes = new AnswerChanges($answer->id, $load->id, $ids);
        $done = (int) $work?->done;
        $otherwise = $feeds = [];
        do {
            // Cells, and how far it is, come together: whoever takes it up after a kill corrects none twice, nor do two at once.
            $of = DB::transaction(function () use ($load, $changes, $reason, $work, $otherwise, $done) {
                Extract::query()->whereKey($load->extract_id)->lockForUpdate()->first(['id']);
                // What says something else by now is looked at first, not met again here.
                $some = $changes->next($otherwise);
                if ($some === []) {
                    return null;
                }
                $take = Take::query()->findOrFail((int) $some[0]->take_id);
                [[$taken, $others], $numbers] = Numbers::noting(fn () => $this->some($take, $some, $reason));
                AnswerChanges::taken($taken, max([0, ...$numbers]), Auth::id());
                $work?->reached($done + count($taken), ['numbers' => [...$work->given['numbers'] ?? [], ...$numbers]]);

                return [count($taken), $others, $this->feeds($take, $some)];
            });
            $done += $of[0] ?? 0;
            array_push($otherwise, ...$of[1] ?? []);
            $feeds += $of[2] ?? [];
        } while ($of !== null);
        if ($done > 0) {
            Repairs::madeAgain(array_values($feeds));
            DueSoon::rows($load->extract);
            Audit::note($round->migration_id, "took in answers to {$load->extract->name}", ['cells' => $done, 'file' => $answer->name]);
        }

        return [$done, count($otherwise)];
    }

    /**
     * Feeds whose rows come together by the columns that were answered.
     *
     * @param  list<\stdClass>  $changes
     * @return array<int, Extract>
     */
    private function feeds(Take $take, array $changes): array
    {
        $feeds = [];
        foreach (array_unique(array_map(fn ($c) => (int) $c->position, $changes)) as $position) {
            foreach ($this->book->feedsMadeBy($take, $take->headers()[$position] ?? null) as $feed) {
                $feeds[$feed->id] = $feed;
            }
        }

        return $feeds;
    }

    /**
     * @param  list<\stdClass>  $changes  of one take
     * @return array{list<int>, list<int>} those whose cells were corrected, and those that say something else by now
     */
    private function some(Take $take, array $changes, string $reason): array
    {
        $now = (new StagedRows($take->id))->numbered(array_values(array_unique(array_map(fn ($c) => (int) $c->row_no, $changes))));
        $width = count($take->columns ?? []);
        $values = $whole = $otherwise = $taken = [];
        foreach ($changes as $change) {
            [$row, $position] = [(int) $change->row_no, (int) $change->position];
            $is = $now[$row][$position] ?? null;
            if ((string) $is !== (string) $change->is_now) {
                $otherwise[(int) $change->id] = $is;

                continue;
            }
            $taken[] = (int) $change->id;
            if (count($now[$row] ?? []) === $width) {
                $values[$position][$row] = $change->becomes;
            } else {
                $whole[$row][$position] = $change->becomes;
            }
        }
        foreach ($values as $position => $news) {
            $this->book->various($take, $position, $news, $reason);
        }
        foreach ($whole as $row => $becomes) {
            $this->book->row($take, $row, AnswerChanges::answered($now[$row] ?? [], $becomes, $width), $reason);
        }
        AnswerChanges::contradict($otherwise);

        return [$taken, array_keys($otherwise)];
    }
}
