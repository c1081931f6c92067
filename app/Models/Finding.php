<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * @property int $id
 * @property int $extract_id
 * @property int $take_id
 * @property string $code
 * @property ?int $position
 * @property ?string $header
 * @property int $n
 * @property string $message
 * @property list<int> $rows
 * @property FindingDecision $decision
 * @property ?string $note
 * @property ?int $user_id
 * @property \Illuminate\Support\Carbon $updated_at
 */
final class Finding extends Model
{
    protected $guarded = [];

    protected function casts(): array
    {
        return ['rows' => 'array', 'decision' => FindingDecision::class];
    }

    /** " (name, date)", or nothing where nobody decided. */
    public function decidedBy(): string
    {
        return $this->user === null ? '' : " ({$this->user->name}, {$this->updated_at->format('j M Y')})";
    }

    /** @return BelongsTo<Extract, $this> */
    public function extract(): BelongsTo
    {
        return $this->belongsTo(Extract::class);
    }

    /** @return BelongsTo<User, $this> */
    public function user(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }
}
