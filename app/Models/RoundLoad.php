<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Builder;
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

    /** With what the client states of its take. */
    public const STATED = ['round_loads.*', 'takes.stated_rows'];

    /** @return Builder<self> of a round, each with its take beside it */
    public static function stated(Round $round): Builder
    {
        $of = self::query()->where('round_loads.round_id', $round->id);
        $of->join('takes', 'takes.id', '=', 'round_loads.take_id');

        return $of;
    }

    /** Rows the client states of its take; null where they state none, or it was asked for without. */
    public function statedRows(): ?int
    {
        $stated = $this->getAttribute('stated_rows');

        return $stated === null ? null : (int) $stated;
    }

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
