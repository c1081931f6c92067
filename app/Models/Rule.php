<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * @property int $id
 * @property int $load_id
 * @property string $field
 * @property ?string $expression
 * @property ?string $empty_reason
 * @property ?string $note
 * @property int $version
 * @property ?int $user_id
 * @property ?\Illuminate\Support\Carbon $updated_at
 */
final class Rule extends Model
{
    protected $guarded = [];

    protected static function booted(): void
    {
        self::saved(
            fn (Rule $rule) => $rule->wasRecentlyCreated || $rule->wasChanged(['expression', 'empty_reason', 'note'])
                ? RuleVersion::of($rule)
                : null,
        );
        self::deleted(fn (Rule $rule) => RuleVersion::of($rule, true));
    }

    /** @return BelongsTo<Load, $this> */
    public function ofLoad(): BelongsTo
    {
        return $this->belongsTo(Load::class, 'load_id');
    }

    /** @return BelongsTo<User, $this> */
    public function user(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }
}
