<?php

namespace App\Models;

use App\Support\When;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Support\Collection;

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
        return $this->user === null ? '' : " ({$this->user->name}, ".When::said($this->updated_at, 'day').')';
    }

    /** What was decided, and why. */
    public function said(): string
    {
        return $this->decision->label().($this->note === null ? '' : ": $this->note");
    }

    /** In a few signs what was decided, to see whether it is still what somebody was looking at. */
    public function state(): string
    {
        return "{$this->decision->value}|$this->note";
    }

    /** @return Builder<self> those nobody decided on first, of these the most frequent */
    public static function openFirst(): Builder
    {
        $query = self::query();
        $query->orderByRaw("decision = 'open' DESC, n DESC, id");

        return $query;
    }

    /**
     * @param  Collection<int, int>  $takes
     * @return Collection<int, int> extract → findings nobody decided on
     */
    public static function openPerExtract(Collection $takes): Collection
    {
        return self::query()
            ->whereIn('take_id', $takes)
            ->where('decision', FindingDecision::Open)
            ->groupBy('extract_id')
            ->selectRaw('extract_id, COUNT(*) AS n')
            ->pluck('n', 'extract_id');
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
