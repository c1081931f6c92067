<?php

namespace App\Files;

use App\Ledger\CauseReader;
use App\Ledger\DueBook;
use App\Models\Answer;
use App\Models\AnswerState;
use App\Models\ClientFile;
use App\Models\Load;
use App\Models\Round;
use App\Models\Take;
use App\Models\User;
use App\Rejects\CauseGroup;
use App\Rejects\CauseList;
use App\Rejects\CauseTasks;
use App\Staging\StagedRows;
use Illuminate\Support\Collection;

/**
 * What the client's people have to answer in a round: causes that were given to somebody, and those whose rows went out in a file that is
 * open; only such as a cell of theirs can answer.
 */
final readonly class Questions
{
    /** Values of one cause that are asked at a time; the file has them all. */
    private const VALUES = 25;

    /** Causes asked about at a time. */
    private const MOST = 40;

    private const ASKED = ['reading', 'mapping', 'checks', 'parents', 'matching', 'writing'];

    /** @param  Collection<int, ClientFile>  $open */
    private function __construct(private Round $round, private User $user, private Collection $open)
    {
    }

    public static function of(Round $round, User $user): self
    {
        return new self($round, $user, $round->files()->whereNull('closed_at')->withCount('answers')->latest('id')->get());
    }

    /** @return Collection<int, ClientFile> those that can be fetched */
    public function files(): Collection
    {
        return $this->open->filter(fn (ClientFile $f) => $f->isWritten())->values();
    }

    /** @return list<Question> those first whose answer frees most rows */
    public function all(): array
    {
        $loads = Load::query()->whereIn('id', $this->round->roundLoads()->pluck('load_id'))->with(['rules', 'entity'])->get()
            ->keyBy('id')->all();
        $takes = Take::ofRound($this->round);
        $lane = $this->round->laneId();
        $tasks = CauseTasks::all(array_keys($loads));
        $choices = new Choices($loads, $takes);
        $answered = $this->answered();
        $found = [];
        foreach ((new CauseList(new CauseReader($lane), new DueBook($lane)))->groups(array_keys($loads)) as $group) {
            $task = $tasks[$group->id()] ?? null;
            if (! in_array($group->stage, self::ASKED, true) || ! $this->isAsked($group, $task)) {
                continue;
            }
            [$positions, $lines] = $choices->of($group->load, $group->code, $group->field);
            if ($positions === [] || count($found) === self::MOST) {
                continue;
            }
            $some = $lines === null ? [] : array_slice($choices->lines, $lines[0], $lines[1] - $lines[0] + 1);
            $found[] = $this->question($group, $loads[$group->load], $takes[$group->load], $positions, $answered, $task, $some);
        }

        return $found;
    }

    /**
     * @param  list<int>  $positions
     * @param  array<int, string>  $answered
     * @param  list<array{string, string, string}>  $choices
     */
    private function question(
        CauseGroup $group,
        Load $load,
        Take $take,
        array $positions,
        array $answered,
        ?\stdClass $task,
        array $choices,
    ): Question {
        $causes = new CauseReader($this->round->laneId());
        $values = $causes->values($group->load, $group->stage, $group->code, $group->field, self::VALUES);
        $ids = array_map(fn ($v) => (int) $v->id, $values);
        $first = $causes->firstRows($ids);
        $cells = (new StagedRows($take->id))->numbered(array_values(array_unique($first)));
        $headers = $take->headers();

        return new Question(
            Words::of($this->round->migration->words)->wrong($group->code, $group->title()),
            $group,
            $load,
            $headers[$positions[0]] ?? '',
            $positions[0],
            $task,
            $choices,
            array_map(fn ($v) => (object) [
                'id' => (int) $v->id,
                'cell' => $cells[$first[(int) $v->id] ?? 0][$positions[0]] ?? '',
                'others' => $this->others($cells[$first[(int) $v->id] ?? 0] ?? [], $headers, $positions),
                'rows' => (int) $v->own,
                'message' => $v->message,
                'answered' => $answered[(int) $v->id] ?? null,
            ], $values),
            count(array_intersect($ids, array_keys($answered))),
            max(0, $group->kinds - count($values)),
        );
    }

    /**
     * Some cells by which the client knows the row.
     *
     * @param  list<string|null>  $cells
     * @param  list<string>  $headers
     * @param  list<int>  $positions
     * @return array<string, string>
     */
    private function others(array $cells, array $headers, array $positions): array
    {
        $found = [];
        foreach ($cells as $i => $cell) {
            if (count($found) < 2 && $i !== $positions[0] && trim((string) $cell) !== '' && isset($headers[$i])) {
                $found[$headers[$i]] = (string) $cell;
            }
        }

        return $found;
    }

    private function isAsked(CauseGroup $group, ?\stdClass $task): bool
    {
        if ($task !== null && (int) $task->user_id === $this->user->id) {
            return true;
        }

        return $this->open->contains(fn (ClientFile $f) => $f->alike === null
            ? in_array($group->load, $f->loads, true)
            : $f->alike === $group->id());
    }

    /** @return array<int, string> cause → what was answered to it on the page, as long as nobody let it be */
    private function answered(): array
    {
        $found = [];
        $answers = Answer::query()->where('round_id', $this->round->id)->whereNull('path')->where('state', '<>', AnswerState::Refused)
            ->orderBy('id')->get();
        foreach ($answers as $answer) {
            foreach ($answer->found['values'] ?? [] as [$cause, , , $value]) {
                $found[(int) $cause] = (string) $value;
            }
        }

        return $found;
    }
}
