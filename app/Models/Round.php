<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Collection;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\Relations\HasMany;
use Illuminate\Database\Eloquent\Relations\HasOne;
use Illuminate\Database\Eloquent\Relations\HasOneThrough;

/**
 * @property int $id
 * @property int $migration_id
 * @property string $kind
 * @property string $name
 * @property int $number
 * @property ?array<string, string> $parameters
 * @property ?int $user_id
 * @property ?RoundEnd $ended_as
 * @property ?string $ended_because
 * @property ?int $ended_with number of the last decision that counts in it
 * @property ?\Illuminate\Support\Carbon $ended_at
 * @property ?int $ended_by
 * @property ?array<string, array{after: int|null, other: int}> $figures entity → records in the target at its end
 * @property int $waivers_upto number of the last decision whose waivers were confirmed for it
 * @property \Illuminate\Support\Carbon $created_at
 */
final class Round extends Model
{
    protected $guarded = [];

    protected function casts(): array
    {
        return [
            'parameters' => 'array',
            'ended_as' => RoundEnd::class,
            'ended_at' => 'datetime',
            'figures' => 'array',
        ];
    }

    /** @return Collection<int, self> of a migration with their lanes, the newest first */
    public static function ofMigration(Migration $migration): Collection
    {
        $lane = ['id', 'target_id', 'due_upto', 'is_set_back', 'earlier_lane_id'];
        $found = self::query()
            ->leftJoin('lanes', 'lanes.round_id', '=', 'rounds.id')
            ->where('rounds.migration_id', $migration->id)
            ->orderByDesc('rounds.id')
            ->get(['rounds.*', ...array_map(fn ($c) => "lanes.$c as lane_$c", $lane)]);
        foreach ($found as $round) {
            $of = $round->getAttributes();
            $round->setRawAttributes(array_diff_key($of, array_flip(array_map(fn ($c) => "lane_$c", $lane))), true);
            $round->setRelation('lane', $of['lane_id'] === null ? null : (new Lane)->newFromBuilder(
                ['round_id' => $round->id] + array_combine($lane, array_map(fn ($c) => $of["lane_$c"], $lane)),
            ));
        }

        return $found;
    }

    /** @return BelongsTo<Migration, $this> */
    public function migration(): BelongsTo
    {
        return $this->belongsTo(Migration::class);
    }

    /** @return HasOne<Lane, $this> */
    public function lane(): HasOne
    {
        return $this->hasOne(Lane::class);
    }

    /** @return HasOneThrough<Target, Lane, $this> */
    public function target(): HasOneThrough
    {
        return $this->hasOneThrough(Target::class, Lane::class, 'round_id', 'id', 'id', 'target_id');
    }

    public function laneId(): int
    {
        return $this->lane->id ?? throw new \LogicException("Round $this->name has no lane.");
    }

    /** @return HasMany<ClientFile, $this> */
    public function files(): HasMany
    {
        return $this->hasMany(ClientFile::class);
    }

    /** @return HasMany<Answer, $this> */
    public function answers(): HasMany
    {
        return $this->hasMany(Answer::class);
    }

    /** @return HasMany<Pass, $this> */
    public function passes(): HasMany
    {
        return $this->hasMany(Pass::class);
    }

    /** @return HasMany<RoundLoad, $this> */
    public function roundLoads(): HasMany
    {
        return $this->hasMany(RoundLoad::class);
    }

    /** @return BelongsTo<User, $this> who ended it */
    public function endedBy(): BelongsTo
    {
        return $this->belongsTo(User::class, 'ended_by');
    }

    public function hasEnded(): bool
    {
        return $this->ended_as !== null;
    }

    public function latestPass(): ?Pass
    {
        return $this->passes()->latest('id')->first();
    }

    public function label(): string
    {
        return ucfirst(str_replace('-', ' ', $this->name)).($this->ended_as === null ? '' : ", {$this->ended_as->value}");
    }
}
