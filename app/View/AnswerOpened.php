<?php

namespace App\View;

use App\Decisions\AnswerChanges;
use App\Files\RowRemarks;
use App\Models\Answer;
use App\Models\Take;
use App\Models\Work;
use App\Models\WorkKind;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Auth;

/** An answer as it is opened: what was changed in it, cell by cell, and what was odd. */
final readonly class AnswerOpened
{
    private const MOST = 100;

    private function __construct(private Page $page, private Answer $answer)
    {
    }

    public static function of(Page $page, Answer $answer): self
    {
        return new self($page, $answer);
    }

    /** @return array<string, mixed> */
    public function data(Request $request): array
    {
        Work::query()->where('migration_id', $this->answer->migration_id)->where('kind', WorkKind::Answer)->where('user_id', Auth::id())
            ->where('seen', false)->get()->filter(fn (Work $w) => ($w->given['of'] ?? null) === $this->answer->id && ! $w->isGoing())
            ->each(fn (Work $w) => $w->update(['seen' => true]));
        $load = $request->integer('load') ?: null;
        $state = in_array($request->query('state'), ['open', 'taken', 'left'], true) ? (string) $request->query('state') : null;
        $after = preg_match('/^(\d{1,3}):(\d{1,10})$/', (string) $request->query('after'), $m) === 1 ? [(int) $m[1], (int) $m[2]] : null;
        $changes = AnswerChanges::page($this->answer->id, $load, $state, $after, self::MOST + 1);
        $last = count($changes) > self::MOST ? $changes[self::MOST - 1] : null;
        $changes = array_slice($changes, 0, self::MOST);

        return [
            'page' => $this->page,
            'answer' => $this->answer,
            'found' => $this->answer->found ?? [],
            'counts' => $this->counts(),
            'remarks' => RowRemarks::ofAnswer($this->answer->id),
            'extracts' => $this->page->all()->keyBy('extractId')->all(),
            'load' => $load,
            'state' => $state,
            'changes' => collect($changes)->groupBy('load_id'),
            'next' => $last === null ? null : "$last->place:$last->id",
            'headers' => Take::query()->whereIn('id', array_unique(array_map(fn ($c) => (int) $c->take_id, $changes)))->get()
                ->mapWithKeys(fn (Take $t) => [$t->id => $t->headers()])->all(),
        ];
    }

    /** @return array<int, array{name: string, open: int, conflict: int, program: int, taken: int, left: int}> by load */
    private function counts(): array
    {
        $all = [];
        foreach (AnswerChanges::counts($this->answer->id) as $of) {
            $load = (int) $of->load_id;
            $all[$load] ??= ['name' => $this->page->all()->get($load)->name ?? '', 'open' => 0, 'conflict' => 0, 'program' => 0,
                'taken' => 0, 'left' => 0];
            $all[$load][$of->state !== 'open' ? $of->state : ($of->kind === 'change' ? 'open' : $of->kind)] += (int) $of->n;
        }

        return $all;
    }
}
