<?php

namespace App\Reckoning;

use App\Models\Reckoning;
use Baggage\Core\Reconciling\Figures;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;

/** Reads what a reckoning found: groups of a total, and rows that differ, the largest first. */
final readonly class Differences
{
    public function __construct(private Reckoning $reckoning)
    {
    }

    /**
     * Groups of a total, those that differ most first.
     *
     * @param  array{float, string}|null  $after  weight and name of the last before
     * @param  string  $begins  what their names begin with
     * @return list<array{name: string, weight: float, figures: Figures}>
     */
    public function groups(int $total, ?array $after, int $most, bool $differing = false, string $begins = ''): array
    {
        $found = DB::table('total_groups')->where('reckoning_id', $this->reckoning->id)->where('total', $total)
            ->when($differing, fn (Builder $q) => $q->where('weight', '>', 0))
            ->when($begins !== '', fn (Builder $q) => $q->where('name', 'like', addcslashes($begins, '%_\\').'%'))
            ->when($after !== null, fn (Builder $q) => $q->where(fn (Builder $w) => $w->where('weight', '<', $after[0] ?? 0)
                ->orWhere(fn (Builder $s) => $s->where('weight', $after[0] ?? 0)->where('name', '>', $after[1] ?? ''))))
            ->orderByDesc('weight')->orderBy('name')->limit($most)->get(['name', 'weight', 'figures']);

        return array_values($found->map(fn (\stdClass $g) => [
            'name' => (string) $g->name, 'weight' => (float) $g->weight,
            'figures' => Figures::fromArray(json_decode($g->figures, true, 8, JSON_THROW_ON_ERROR)),
        ])->all());
    }

    public function group(int $total, string $name): ?Figures
    {
        $json = DB::table('total_groups')->where('reckoning_id', $this->reckoning->id)->where('total', $total)->where('name', $name)
            ->value('figures');

        return $json === null ? null : Figures::fromArray(json_decode($json, true, 8, JSON_THROW_ON_ERROR));
    }

    public function groupCount(int $total): int
    {
        return DB::table('total_groups')->where('reckoning_id', $this->reckoning->id)->where('total', $total)->count();
    }

    /**
     * Rows that make a difference of a total, the largest first.
     *
     * @param  string|null  $group  null for any
     * @param  array{float, int}|null  $after  weight and number of the last before
     * @return list<\stdClass> number, load_id, item, name, legacy, target, weight
     */
    public function rows(int $total, ?string $group, ?array $after, int $most): array
    {
        return $this->lines($total)
            ->when($group !== null, fn (Builder $q) => $q->where('name', $group))
            ->when($after !== null, fn (Builder $q) => $q->where(fn (Builder $w) => $w->where('weight', '<', $after[0] ?? 0)
                ->orWhere(fn (Builder $s) => $s->where('weight', $after[0] ?? 0)->where('number', '<', $after[1] ?? 0))))
            ->orderByDesc('weight')->orderByDesc('number')->limit($most)->get()->all();
    }

    /**
     * Rows of a kind of difference.
     *
     * @param  int|null  $row  this one alone
     * @return list<\stdClass> number, load_id, item, name, class, happened, legacy (what was sent), target
     */
    public function compared(int $load, string $field, string $class, string $happened, int $after, int $most, ?int $row = null): array
    {
        return $this->lines(null)->where('load_id', $load)->where('name', $field)->where('class', $class)->where('happened', $happened)
            ->when($row !== null, fn (Builder $q) => $q->where('item', $row))
            ->where('number', '>', $after)->orderBy('number')->limit($most)->get()->all();
    }

    /** @return list<\stdClass> what was found of one row */
    public function ofRow(int $load, int $row): array
    {
        return $this->lines(null)->where('load_id', $load)->where('item', $row)->orderBy('number')->get()->all();
    }

    private function lines(?int $total): Builder
    {
        return DB::table('differing_rows')->where('reckoning_id', $this->reckoning->id)
            ->when($total !== null, fn (Builder $q) => $q->where('total', $total));
    }
}
