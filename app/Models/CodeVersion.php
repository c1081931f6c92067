<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * What a crosswalk once said of an old value. The first is what an entry said before it was changed at all.
 *
 * @property int $id
 * @property int $code_crosswalk_id
 * @property string $old_value
 * @property ?string $new_value
 * @property ?CodeDecision $decision null where there was no entry
 * @property ?int $user_id
 * @property \Illuminate\Support\Carbon $at
 */
final class CodeVersion extends Model
{
    public $timestamps = false;

    protected $guarded = [];

    protected function casts(): array
    {
        return ['at' => 'datetime', 'decision' => CodeDecision::class];
    }

    /** @return BelongsTo<User, $this> */
    public function user(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }

    public function says(): string
    {
        return match (true) {
            $this->decision === null => 'no entry',
            $this->decision === CodeDecision::Reject => 'rows rejected',
            $this->new_value === null => 'left empty',
            default => $this->new_value,
        };
    }
}
