<?php

namespace App\Ledger;

use Baggage\Core\Rows\Outcome;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;

/** Causes of one load that something is done about: some by their numbers, or all that are alike. */
final readonly class CauseSet
{
    /**
     * @param  list<int>  $ids
     * @param  array{string, string, string|null}|null  $alike  stage, code and field
     */
    private function __construct(public array $ids, public ?array $alike)
    {
    }

    public static function one(int $id): self
    {
        return new self([$id], null);
    }

    /** @param  list<int>  $ids */
    public static function some(array $ids): self
    {
        return new self($ids, null);
    }

    public static function alike(string $stage, string $code, ?string $field): self
    {
        return new self([], [$stage, $code, $field]);
    }

    /** @param  array{ids?: list<int>, alike?: array{string, string, string|null}|null}  $a  as made by toArray() */
    public static function fromArray(array $a): self
    {
        return new self($a['ids'] ?? [], $a['alike'] ?? null);
    }

    /** @return array{ids: list<int>, alike: array{string, string, string|null}|null} */
    public function toArray(): array
    {
        return ['ids' => $this->ids, 'alike' => $this->alike];
    }

    /** Those of a lane and load. */
    public function query(int $lane, int $load): Builder
    {
        return DB::table('causes')
            ->where('lane_id', $lane)
            ->where('load_id', $load)
            ->when($this->alike === null, fn (Builder $q) => $q->whereIntegerInRaw('id', $this->ids))
            ->when($this->alike !== null, fn (Builder $q) => $q
                ->where('stage', $this->alike[0] ?? '')
                ->where('code', $this->alike[1] ?? '')
                ->whereRaw('field <=> ?', [$this->alike[2] ?? null]));
    }

    /** @return list<int> numbers of those that keep rows with an outcome */
    public function with(int $lane, int $load, Outcome $outcome): array
    {
        return $this->query($lane, $load)
            ->whereIn('id', DB::table('cause_tallies')->where('lane_id', $lane)->where('outcome', $outcome->value)->where('n', '>', 0)
                ->select('cause_id'))
            ->orderBy('id')
            ->pluck('id')
            ->map(fn ($id) => (int) $id)
            ->all();
    }

    /** Rows they keep out, as tallied. */
    public function rows(int $lane, int $load, Outcome $outcome): int
    {
        return (int) DB::table('cause_tallies')
            ->where('lane_id', $lane)
            ->where('outcome', $outcome->value)
            ->whereIn('cause_id', $this->query($lane, $load)->select('id'))
            ->sum('n');
    }
}
