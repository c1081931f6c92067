<?php

namespace App\Models;

use Baggage\Core\Feeds\Formats;
use Baggage\Core\Reading\Columns;
use Baggage\Core\Reading\ReaderSettings;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\Relations\HasMany;

/**
 * @property int $id
 * @property int $source_id
 * @property string $name
 * @property ?string $origin
 * @property array<string, mixed> $reader
 * @property ?list<array{header: string, name: string}> $columns
 * @property ?int $take_id
 * @property ?list<string> $row_key headers of the columns stated to identify its rows
 * @property ?array{name: string, rows: string} $covering headers, where it is a covering sheet: names of files or tables, and rows
 * @property bool $allow_empty whether a take without rows is right
 * @property ?string $not_loaded why no load reads it
 * @property ?list<array{finding: string, column?: string, is: string, note?: string, by?: int}> $finding_decisions
 */
final class Extract extends Model
{
    protected $guarded = [];

    protected function casts(): array
    {
        return [
            'reader' => 'array',
            'columns' => 'array',
            'row_key' => 'array',
            'covering' => 'array',
            'allow_empty' => 'boolean',
            'finding_decisions' => 'array',
        ];
    }

    /** @return BelongsTo<Source, $this> */
    public function source(): BelongsTo
    {
        return $this->belongsTo(Source::class);
    }

    /** @return HasMany<Take, $this> */
    public function takes(): HasMany
    {
        return $this->hasMany(Take::class);
    }

    /** Whether it is a feed made of other extracts. */
    public function isMade(): bool
    {
        return ($this->reader['kind'] ?? null) === 'feed';
    }

    public function isBeingRead(): bool
    {
        return $this->exists && $this->takes()->whereIn('state', [TakeState::Reading, TakeState::Waiting, TakeState::Stopping])->exists();
    }

    /**
     * The next take, with the next number whoever else makes one at the same moment.
     *
     * @param  array<string, mixed>  $from
     */
    public function newTake(array $from): Take
    {
        return $this->getConnection()->transaction(function () use ($from) {
            self::query()->whereKey($this->id)->lockForUpdate()->firstOrFail();

            return $this->takes()->create(['number' => (int) $this->takes()->max('number') + 1, 'state' => TakeState::Waiting] + $from);
        });
    }

    /** @return HasMany<Finding, $this> */
    public function findings(): HasMany
    {
        return $this->hasMany(Finding::class);
    }

    /** @return HasMany<Load, $this> */
    public function loads(): HasMany
    {
        return $this->hasMany(Load::class);
    }

    /** @return BelongsTo<Take, $this> the take that loads read */
    public function take(): BelongsTo
    {
        return $this->belongsTo(Take::class);
    }

    /**
     * What was decided about a kind of finding in a column, or in the whole; null where nothing was.
     *
     * @return array{finding: string, column?: string, is: string, note?: string, by?: int}|null
     */
    public function decisionOn(string $code, ?string $header): ?array
    {
        foreach ($this->finding_decisions ?? [] as $decision) {
            if ($decision['finding'] === $code && ($decision['column'] ?? null) === $header) {
                return $decision;
            }
        }

        return null;
    }

    public function decide(string $code, ?string $header, string $is, ?string $note, ?int $by): void
    {
        $others = array_filter(
            $this->finding_decisions ?? [],
            fn ($d) => $d['finding'] !== $code || ($d['column'] ?? null) !== $header,
        );
        $this->update([
            'finding_decisions' => [
                ...array_values($others),
                ...$is === 'open'
                    ? []
                    : [
                        array_filter(
                            ['finding' => $code, 'column' => $header, 'is' => $is, 'note' => $note, 'by' => $by],
                            fn ($v) => $v !== null,
                        ),
                    ],
            ],
        ]);
    }

    public function tidyColumns(): Columns
    {
        return Columns::fromArray($this->columns ?? []);
    }

    /** How it is read, this time and the next. */
    public function settings(): ReaderSettings
    {
        return Formats::settings($this->reader);
    }
}
