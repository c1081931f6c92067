<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * A round in one of its targets: what it writes there, its key crosswalk and its outcomes.
 *
 * @property int $id
 * @property int $round_id
 * @property int $target_id
 * @property int $due_upto number of the last decision its due rows were worked out with
 * @property SetBack $is_set_back
 * @property ?int $earlier_lane_id whose key crosswalk it takes over
 */
final class Lane extends Model
{
    protected $guarded = [];

    public $timestamps = false;

    protected function casts(): array
    {
        return ['is_set_back' => SetBack::class];
    }

    /** @return BelongsTo<Round, $this> */
    public function round(): BelongsTo
    {
        return $this->belongsTo(Round::class);
    }

    /** @return BelongsTo<Lane, $this> */
    public function earlier(): BelongsTo
    {
        return $this->belongsTo(self::class, 'earlier_lane_id');
    }

    /** @return BelongsTo<Target, $this> */
    public function target(): BelongsTo
    {
        return $this->belongsTo(Target::class);
    }
}
