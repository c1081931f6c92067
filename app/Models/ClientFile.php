<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\Relations\HasMany;
use Illuminate\Support\Carbon;

/**
 * A file of rejected rows for the client: which rows, as they were at which decision, to whom it went and when.
 *
 * @property int $id
 * @property int $migration_id
 * @property int $round_id
 * @property string $code by which it is known when it comes back
 * @property string $title
 * @property string $format xlsx or csv
 * @property string $words the language it speaks
 * @property list<int> $loads
 * @property ?string $alike the cause, where it is about one
 * @property int $decision the last one that is laid over its cells
 * @property int $row_count
 * @property int $elsewhere rows that were in other open files when it was written
 * @property ?int $work_id who writes it
 * @property ?int $user_id
 * @property ?string $to_whom
 * @property ?Carbon $sent_on
 * @property ?Carbon $closed_at
 * @property Carbon $created_at
 */
final class ClientFile extends Model
{
    protected $table = 'files';

    protected $guarded = [];

    protected function casts(): array
    {
        return ['loads' => 'array', 'sent_on' => 'date', 'closed_at' => 'datetime'];
    }

    /** The day it was sent, ISO 8601. */
    public function sentOn(): ?string
    {
        return $this->sent_on?->toDateString();
    }

    /** Where it lies. */
    public function path(): string
    {
        return config('baggage.vault')."/files/$this->id.$this->format";
    }

    /** Its name on the machine of whoever fetches it. */
    public function name(): string
    {
        return trim((string) preg_replace('/[^\p{L}\p{N}]+/u', '-', mb_strtolower($this->title)), '-')."-$this->code.$this->format";
    }

    public function isWritten(): bool
    {
        return is_file($this->path());
    }

    /** @return BelongsTo<Migration, $this> */
    public function migration(): BelongsTo
    {
        return $this->belongsTo(Migration::class);
    }

    /** @return BelongsTo<Round, $this> */
    public function round(): BelongsTo
    {
        return $this->belongsTo(Round::class);
    }

    /** @return BelongsTo<User, $this> */
    public function user(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }

    /** @return HasMany<Answer, $this> */
    public function answers(): HasMany
    {
        return $this->hasMany(Answer::class, 'file_id');
    }
}
