<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * A repair that was made.
 *
 * @property int $id
 * @property int $migration_id
 * @property ?int $round_id it was made in
 * @property ?int $load_id
 * @property ?int $extract_id
 * @property string $kind
 * @property string $title
 * @property ?string $about the column, field or code crosswalk
 * @property ?string $was
 * @property ?string $becomes
 * @property ?string $reason
 * @property ?int $row_no
 * @property ?array{ids: list<int>, alike: array{string, string, string|null}|null} $causes
 * @property ?array<string, mixed> $before_it what stood there, to be put back
 * @property int $rows
 * @property ?list<int> $numbers of its decisions
 * @property ?int $work_id what made it, where a worker did
 * @property ?array<int, int> $freed pass → rows that went through
 * @property ?int $user_id
 * @property ?int $undone_by
 * @property ?\Illuminate\Support\Carbon $undone_at
 * @property ?string $undone_told what became of it then
 * @property \Illuminate\Support\Carbon $created_at
 */
final class Repair extends Model
{
    protected $guarded = [];

    protected function casts(): array
    {
        return [
            'causes' => 'array', 'before_it' => 'array', 'numbers' => 'array', 'freed' => 'array', 'undone_at' => 'datetime',
        ];
    }

    /** @return BelongsTo<Migration, $this> */
    public function migration(): BelongsTo
    {
        return $this->belongsTo(Migration::class);
    }

    /** @return BelongsTo<User, $this> */
    public function user(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }

    /** @return BelongsTo<User, $this> */
    public function undoneBy(): BelongsTo
    {
        return $this->belongsTo(User::class, 'undone_by');
    }

    /** @return BelongsTo<Extract, $this> */
    public function extract(): BelongsTo
    {
        return $this->belongsTo(Extract::class);
    }

    /** @return BelongsTo<Load, $this> */
    public function ofLoad(): BelongsTo
    {
        return $this->belongsTo(Load::class, 'load_id');
    }

    /** @return list<int> numbers of all its decisions */
    public function decisions(): array
    {
        $byWorker = $this->work_id === null ? [] : Work::query()->find($this->work_id)->given['numbers'] ?? [];

        return array_values(array_unique(array_map(intval(...), [...$this->numbers ?? [], ...$byWorker])));
    }

    /** @return list<int> numbers of the decisions of those that were taken back */
    public static function takenBack(int $migration): array
    {
        $all = self::query()->where('migration_id', $migration)->whereNotNull('undone_at')->get(['numbers', 'work_id']);
        $byWorkers = Work::query()->whereIn('id', $all->pluck('work_id')->filter())->get(['given']);

        return array_values(array_unique(array_map(intval(...), [
            ...$all->flatMap(fn (self $r) => $r->numbers ?? []), ...$byWorkers->flatMap(fn (Work $w) => $w->given['numbers'] ?? []),
        ])));
    }
}
