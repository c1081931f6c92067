<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\Relations\HasMany;
use Illuminate\Support\Facades\DB;

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
 * @property bool $has_new_keys whether rows have other legacy keys since
 * @property list<string> $told how its target is other than described
 * @property ?array{run: int, because: string|null, said: int, tried: int, kinds: list<array<string, mixed>>} $compared with what a dry
 *           run said before it
 * @property ?string $only load, stage, code and field of the cause it is about, where it is about one
 * @property int $log_from the last line of the log of outcomes before it
 * @property ?list<int> $backs_out passes it takes back
 * @property ?int $backed_out_by the pass that took it back
 * @property bool $is_full of a delta: whether all rows are mapped anew
 * @property bool $is_logged whether it is known what it replaced
 * @property int $left_records how many records it left that it was to take back
 * @property int $interrupted how often those who worked on it ended before it did
 * @property ?\Illuminate\Support\Carbon $interrupted_at the last time that was noticed
 * @property ?\Illuminate\Support\Carbon $started_at
 * @property ?\Illuminate\Support\Carbon $finished_at
 * @property ?int $user_id
 */
final class Pass extends Model
{
    public const COLUMNS = [
        'id', 'round_id', 'number', 'kind', 'state', 'lane_id', 'plan_version_id', 'decision', 'stop_requested', 'error', 'attempts',
        'is_prepared', 'has_new_keys', 'told',
        'started_at', 'finished_at', 'user_id', 'interrupted', 'interrupted_at', 'compared', 'only', 'log_from',
        'backs_out', 'backed_out_by', 'is_logged', 'left_records', 'is_full',
    ];

    protected $guarded = [];

    protected function casts(): array
    {
        return [
            'kind' => PassKind::class,
            'state' => PassState::class,
            'stop_requested' => 'boolean',
            'is_prepared' => 'boolean',
            'has_new_keys' => 'boolean',
            'told' => 'array',
            'compared' => 'array',
            'backs_out' => 'array',
            'is_logged' => 'boolean',
            'is_full' => 'boolean',
            'interrupted_at' => 'datetime',
            'started_at' => 'datetime',
            'finished_at' => 'datetime',
        ];
    }

    /** Those who worked on it are gone. Looked at again within a minute, it is the same time: @return bool whether it is another */
    public function noteInterruption(): bool
    {
        $isNew = self::query()
            ->whereKey($this->id)
            ->where(fn ($q) => $q->whereNull('interrupted_at')->orWhere('interrupted_at', '<', now()->subMinute()))
            ->update(['interrupted' => DB::raw('interrupted + 1'), 'interrupted_at' => now()]);
        if ($isNew === 1) {
            $of = "pass $this->number of {$this->round->name}";
            Audit::note((int) $this->round->migration_id, "$of was interrupted, and goes on where it was");
        }

        return $isNew === 1;
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
