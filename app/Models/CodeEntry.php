<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * @property int $id
 * @property int $code_crosswalk_id
 * @property string $old_value
 * @property ?string $new_value null for left empty on purpose
 * @property CodeDecision $decision
 * @property ?string $note
 * @property ?int $user_id
 */
final class CodeEntry extends Model
{
    protected $guarded = [];

    protected $attributes = ['decision' => CodeDecision::Value->value];

    protected function casts(): array
    {
        return ['decision' => CodeDecision::class];
    }

    /** @return BelongsTo<CodeCrosswalk, $this> */
    public function crosswalk(): BelongsTo
    {
        return $this->belongsTo(CodeCrosswalk::class, 'code_crosswalk_id');
    }
}
