<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\Relations\HasMany;

/**
 * @property int $id
 * @property int $round_id
 * @property int $number
 * @property PassKind $kind
 * @property PassState $state
 * @property int $lane_id
 * @property int $plan_version_id
 * @property int $decision
 * @property bool $stop_requested
 * @property ?string $error
 * @property int $attempts
 * @property bool $is_prepared
 * @property list<string> $told how its target is other than described
 * @property ?\Illuminate\Support\Carbon $started_at
 * @property ?\Illuminate\Support\Carbon $finished_at
 * @property ?int $user_id
 */
final class Pass extends Model
{
    public const COLUMNS = [
        'id', 'round_id', 'number', 'kind', 'state', 'lane_id', 'plan_version_id', 'decision', 'stop_requested', 'error', 'attempts',
        'is_prepared', 'told', 'started_at', 'finished_at', 'user_id',
    ];

    protected $guarded = [];

    protected function casts(): array
    {
        return [
            'kind' => PassKind::class,
            'state' => PassState::class,
            'stop_requested' => 'boolean',
            'is_prepared' => 'boolean',
            'told' => 'array',
            'started_at' => 'datetime',
            'finished_at' => 'datetime',
        ];
    }

    /** @return BelongsTo<Round, $this> */
    public function round(): BelongsTo
    {
        return $this->belongsTo(Round::class);
    }

    /** @return BelongsTo<Lane, $this> */
    public function lane(): BelongsTo
    {
        return $this->belongsTo(Lane::class);
    }

    /** @return BelongsTo<KeptPlan, $this> what it goes by */
    public function plan(): BelongsTo
    {
        return $this->belongsTo(KeptPlan::class, 'plan_version_id');
    }

    /** @return HasMany<PassLoad, $this> */
    public function passLoads(): HasMany
    {
        return $this->hasMany(PassLoad::class);
    }

    /** @return BelongsTo<User, $this> */
    public function user(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }

    protected $dateFormat = 'Y-m-d H:i:s.v';

    public function isGoing(): bool
    {
        return $this->state === PassState::Queued || $this->state === PassState::Running;
    }

    /** Its state in words: one that somebody stopped is paused, one that broke off is stopped. */
    public function stateInWords(): string
    {
        return match (true) {
            $this->state === PassState::Stopped && $this->error === null => 'paused',
            $this->state === PassState::Finished && $this->stop_requested => 'ended before all rows',
            default => $this->state->value,
        };
    }

    public function canResume(): bool
    {
        return $this->state === PassState::Stopped || $this->state === PassState::Failed;
    }
}
