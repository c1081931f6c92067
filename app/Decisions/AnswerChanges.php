<?php

namespace App\Decisions;

use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;

/** Reads and decides what was changed in an answer: cell by cell, of one load. */
final readonly class AnswerChanges
{
    private const AT_ONCE = 1_000;

    /**
     * @param  int|null  $load  null for all
     * @param  list<int>|null  $ids  only these; null for all that are open and no conflict
     */
    public function __construct(private int $answer, private ?int $load = null, private ?array $ids = null)
    {
    }

    /** @return array{int, int} cells, and rows they are of, that are still open */
    public function open(): array
    {
        $is = $this->query()->selectRaw('COUNT(*) AS n, COUNT(DISTINCT row_no) AS of')->first();

        return [(int) ($is->n ?? 0), (int) ($is->of ?? 0)];
    }

    /** @return \Generator<list<int>> numbers of the rows, some at a time */
    public function rows(): \Generator
    {
        $after = 0;
        do {
            $rows = array_map(intval(...), $this->query()->where('row_no', '>', $after)->distinct()->orderBy('row_no')
                ->limit(self::AT_ONCE)->pluck('row_no')->all());
            yield $rows;
            $after = (int) end($rows);
        } while (count($rows) === self::AT_ONCE);
    }

    /**
     * @param  list<int>  $rows
     * @return array<int, array<int, string|null>> row → position → what it becomes
     */
    public function over(array $rows): array
    {
        $found = [];
        foreach ($this->query()->whereIntegerInRaw('row_no', $rows)->get(['row_no', 'position', 'becomes']) as $change) {
            $found[(int) $change->row_no][(int) $change->position] = $change->becomes;
        }

        return $found;
    }

    /**
     * A row with answers laid over it.
     *
     * @param  list<string|null>  $cells
     * @param  array<int, string|null>  $becomes  by position
     * @param  int  $width  columns of the take: so many cells it has afterwards
     * @return list<string|null>
     */
    public static function answered(array $cells, array $becomes, int $width): array
    {
        return array_values(array_replace(array_slice(array_pad($cells, $width, null), 0, $width), $becomes));
    }

    /**
     * @param  list<int>  $except
     * @return list<\stdClass> id, row_no, position, take_id, is_now, becomes, kind: the next ones
     */
    public function next(array $except = []): array
    {
        return $this->query()->whereIntegerNotInRaw('id', $except)->orderBy('row_no')->orderBy('position')->limit(self::AT_ONCE)
            ->get()->all();
    }

    /**
     * They are let be: @return int how many of those that were open
     *
     * @param  list<int>  $ids
     */
    public static function leave(int $answer, array $ids, ?int $user): int
    {
        return DB::table('answer_changes')->where('answer_id', $answer)->where('state', 'open')->whereIntegerInRaw('id', $ids)
            ->update(['state' => 'left', 'user_id' => $user]);
    }

    /**
     * They became corrections.
     *
     * @param  list<int>  $ids
     * @param  int  $decision  the number of one of those
     */
    public static function taken(array $ids, int $decision, ?int $user): void
    {
        foreach (array_chunk($ids, 1_000) as $some) {
            DB::table('answer_changes')->whereIntegerInRaw('id', $some)
                ->update(['state' => 'taken', 'decision' => $decision, 'user_id' => $user]);
        }
    }

    /**
     * Their corrections were taken back: they are open again.
     *
     * @param  list<int>  $decisions
     */
    public static function takenBack(array $decisions): void
    {
        DB::table('answer_changes')->whereIntegerInRaw('decision', $decisions)->update(['state' => 'open', 'decision' => null]);
    }

    /**
     * What the cells say by now is neither what they said nor what they are to say.
     *
     * @param  array<int, string|null>  $now  by number of the change
     */
    public static function contradict(array $now): void
    {
        foreach ($now as $id => $is) {
            DB::table('answer_changes')->where('id', $id)->where('state', 'open')->update(['kind' => 'conflict', 'is_now' => $is]);
        }
    }

    /** @return array<int, int> answer → cells of it that wait for a decision, of a round */
    public static function openIn(int $round): array
    {
        return DB::table('answer_changes as c')->join('answers as a', 'a.id', '=', 'c.answer_id')->where('a.round_id', $round)
            ->where('c.state', 'open')->whereIn('c.kind', ['change', 'conflict'])->groupBy('a.id')->selectRaw('a.id, COUNT(*) AS n')
            ->pluck('n', 'id')->map(fn ($n) => (int) $n)->all();
    }

    /** @return list<\stdClass> load_id, kind, state, n: how many of each */
    public static function counts(int $answer): array
    {
        return DB::table('answer_changes')->where('answer_id', $answer)->groupBy('load_id', 'kind', 'state')
            ->selectRaw('load_id, kind, state, COUNT(*) AS n')->orderBy('load_id')->get()->all();
    }

    /**
     * @param  array{int, int}|null  $after  place in the list and number of the last one before
     * @return list<\stdClass> all of a change, with "place": conflicts first, then changes, then what a program did; open ones first
     */
    public static function page(int $answer, ?int $load, ?string $state, ?array $after, int $most): array
    {
        $place = "(FIELD(state, 'open', 'taken', 'left') * 10 + FIELD(kind, 'conflict', 'change', 'program'))";

        return DB::table('answer_changes')
            ->where('answer_id', $answer)
            ->when($load !== null, fn (Builder $q) => $q->where('load_id', $load))
            ->when($state !== null, fn (Builder $q) => $q->where('state', $state))
            ->when($after !== null, fn (Builder $q) => $q->whereRaw("($place > ? OR ($place = ? AND id > ?))", [
                $after[0] ?? 0, $after[0] ?? 0, $after[1] ?? 0,
            ]))
            ->selectRaw("*, $place AS place")
            ->orderBy('place')
            ->orderBy('id')
            ->limit($most)
            ->get()
            ->all();
    }

    private function query(): Builder
    {
        return DB::table('answer_changes')
            ->where('answer_id', $this->answer)
            ->where('state', 'open')
            ->when($this->load !== null, fn (Builder $q) => $q->where('load_id', $this->load))
            ->when($this->ids === null, fn (Builder $q) => $q->where('kind', 'change'))
            ->when($this->ids !== null, fn (Builder $q) => $q->whereIntegerInRaw('id', $this->ids ?? []));
    }
}
