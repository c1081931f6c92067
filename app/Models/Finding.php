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
 * @property string $decision
 * @property ?string $note
 * @property ?int $user_id
 * @property \Illuminate\Support\Carbon $updated_at
 */
final class Finding extends Model
{
    /** What can be decided about a finding, and how it is said. */
    public const DECISIONS = [
        'open' => 'open',
        'accepted' => 'accepted as it is',
        'at_source' => 'to be fixed at source',
        'by_rule' => 'handled by a rule',
    ];

    protected $guarded = [];

    protected function casts(): array
    {
        return ['rows' => 'array'];
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
