<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Collection;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Support\Facades\Auth;

/**
 * A piece of work that a worker does for somebody.
 *
 * @property int $id
 * @property int $migration_id
 * @property ?int $user_id
 * @property WorkKind $kind
 * @property string $title
 * @property array<string, mixed> $given what it was asked with
 * @property WorkState $state
 * @property int $total rows, as far as they are known
 * @property int $done
 * @property int $attempts
 * @property ?string $told what came of it
 * @property ?string $file name of the file it made
 * @property ?\Illuminate\Support\Carbon $created_at
 * @property bool $stop_requested
 * @property bool $seen whether somebody was shown what came of it
 */
final class Work extends Model
{
    protected $guarded = [];

    protected function casts(): array
    {
        return ['kind' => WorkKind::class, 'state' => WorkState::class, 'given' => 'array', 'seen' => 'boolean'];
    }

    /** @param  array<string, mixed>  $given */
    public static function ask(Migration $migration, WorkKind $kind, string $title, array $given, int $total): self
    {
        return self::query()->create([
            'migration_id' => $migration->id,
            'user_id' => Auth::id(),
            'kind' => $kind,
            'title' => mb_substr($title, 0, 255),
            'given' => $given,
            'state' => WorkState::Queued,
            'total' => $total,
        ]);
    }

    /**
     * What is going on in a migration, and what came of one's own since one looked; it is shown once, a file until it is fetched or old.
     *
     * @return Collection<int, self>
     */
    public static function toShow(Migration $migration): Collection
    {
        $found = self::query()
            ->where('migration_id', $migration->id)
            ->where(fn (Builder $q) => $q
                ->whereIn('state', [WorkState::Queued, WorkState::Running])
                ->orWhere(fn (Builder $own) => $own->where('user_id', Auth::id())->where('seen', false)))
            ->orderBy('id')
            ->get();
        $shown = $found->filter(fn (self $w) => ! $w->isGoing() && $w->file === null);
        if ($shown->isNotEmpty()) {
            self::query()->whereIn('id', $shown->pluck('id'))->update(['seen' => true]);
        }

        return $found;
    }

    /** Whether anything is being repaired that a pass would go by. */
    public static function isRepairing(int $migration): bool
    {
        return self::query()
            ->where('migration_id', $migration)
            ->whereIn('state', [WorkState::Queued, WorkState::Running])
            ->get(['kind'])
            ->contains(fn (self $w) => $w->kind->isRepair());
    }

    /** Whether somebody asked since that it ends. */
    public function isToStop(): bool
    {
        return (bool) self::query()->whereKey($this->id)->toBase()->value('stop_requested');
    }

    public function isGoing(): bool
    {
        return $this->state->isGoing();
    }

    /** @param  array<string, mixed>  $given  where to go on, for whoever takes it up again */
    public function reached(int $done, array $given = []): void
    {
        $this->update(['done' => $done, 'given' => $given + $this->given]);
    }
}
