<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * A load of a round with the take it works on.
 *
 * @property int $id
 * @property int $round_id
 * @property int $load_id
 * @property int $take_id
 * @property int $space_id where the load's keys stand in this round
 * @property int $number
 * @property int $feed_rows
 * @property int $source_rows
 */
final class RoundLoad extends Model
{
    protected $guarded = [];

    public $timestamps = false;

    /** @return BelongsTo<Load, $this> */
    public function ofLoad(): BelongsTo
    {
        return $this->belongsTo(Load::class, 'load_id');
    }

    /** @return BelongsTo<KeySpace, $this> */
    public function space(): BelongsTo
    {
        return $this->belongsTo(KeySpace::class);
    }

    /** @return BelongsTo<Take, $this> */
    public function take(): BelongsTo
    {
        return $this->belongsTo(Take::class);
    }
}
