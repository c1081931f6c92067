<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Support\Facades\Auth;

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

    protected static function booted(): void
    {
        self::updating(fn (CodeEntry $entry) => $entry->isDirty(['new_value', 'decision']) ? $entry->rememberFirst() : null);
        self::deleting(fn (CodeEntry $entry) => $entry->rememberFirst());
        self::deleted(fn (CodeEntry $entry) => CodeVersion::query()->create(
            $entry->only(['code_crosswalk_id', 'old_value']) + ['user_id' => Auth::id()],
        ));
        self::saved(fn (CodeEntry $entry) => $entry->wasRecentlyCreated || $entry->wasChanged(['new_value', 'decision'])
            ? CodeVersion::query()->create($entry->only(['code_crosswalk_id', 'old_value', 'new_value', 'decision', 'user_id']))
            : null);
    }

    protected function casts(): array
    {
        return ['decision' => CodeDecision::class];
    }

    /** What becomes of a code, in words; empty where nobody said. */
    public static function said(?self $entry): string
    {
        return match (true) {
            $entry === null => '',
            $entry->decision === CodeDecision::Reject => 'rejects the row',
            $entry->new_value === null => 'stays empty',
            default => "becomes $entry->new_value",
        };
    }

    /** What an entry says that came with many others, from a plan, is written down when it is changed for the first time. */
    private function rememberFirst(): void
    {
        $of = $this->only(['code_crosswalk_id', 'old_value']);
        if (! CodeVersion::query()->where($of)->exists()) {
            CodeVersion::query()->create($of + [
                'new_value' => $this->getOriginal('new_value'),
                'decision' => $this->getOriginal('decision'),
                'user_id' => $this->getOriginal('user_id'),
                'at' => $this->getOriginal('updated_at') ?? now(),
            ]);
        }
    }

    /** @return BelongsTo<CodeCrosswalk, $this> */
    public function crosswalk(): BelongsTo
    {
        return $this->belongsTo(CodeCrosswalk::class, 'code_crosswalk_id');
    }
}
