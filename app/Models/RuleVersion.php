<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Support\Facades\Auth;

/**
 * What a rule once said.
 *
 * @property int $id
 * @property int $load_id
 * @property string $field
 * @property ?string $expression
 * @property ?string $empty_reason
 * @property ?string $note
 * @property ?int $user_id
 * @property \Illuminate\Support\Carbon $at
 */
final class RuleVersion extends Model
{
    public $timestamps = false;

    protected $guarded = [];

    protected function casts(): array
    {
        return ['at' => 'datetime'];
    }

    /** @return BelongsTo<User, $this> */
    public function user(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }

    public static function of(Rule $rule, bool $gone = false): void
    {
        self::query()->create([
            'load_id' => $rule->load_id,
            'field' => $rule->field,
            'expression' => $gone ? null : $rule->expression,
            'empty_reason' => $gone ? null : $rule->empty_reason,
            'note' => $gone ? null : $rule->note,
            'user_id' => Auth::id(),
            'at' => now(),
        ]);
    }

    public function says(): string
    {
        return $this->expression ?? ($this->empty_reason === null ? 'no rule' : "left empty: $this->empty_reason");
    }
}
