<?php

namespace App\Models;

use Baggage\Core\Reading\Columns;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * @property int $id
 * @property int $extract_id
 * @property int $number
 * @property TakeState $state
 * @property string $file
 * @property string $file_name
 * @property int $bytes
 * @property int $bytes_read
 * @property ?int $staged_bytes of its rows
 * @property ?string $checksum
 * @property ?int $rows
 * @property ?int $last_row number of its last row, where rows kept the numbers they had in the take before
 * @property ?int $source_rows
 * @property ?string $counted_by
 * @property ?int $stated_rows what the client says there are
 * @property ?string $stated_by who noted it, or the covering sheet it stood on
 * @property ?list<array{header: string, name: string}> $columns
 * @property ?array<string, mixed> $parameters
 * @property ?array<string, mixed> $compared
 * @property ?array<string, mixed> $recipe
 * @property ?array<string, mixed> $reader how it was read
 * @property ?array<string, mixed> $arithmetic
 * @property ?list<array<string, mixed>> $profile
 * @property ?string $error
 * @property int $attempts
 * @property ?array<string, int> $study_attempts by step
 * @property ?\Illuminate\Support\Carbon $taken_at
 * @property ?int $user_id
 */
final class Take extends Model
{
    /** Columns of a take that lists need: not its profile, which is long. */
    public const LISTED = 'id,extract_id,number,state,file,file_name,bytes,bytes_read,checksum,rows,last_row,source_rows,counted_by,'
        .'columns,parameters,reader,taken_at,user_id,stated_rows,stated_by';

    protected $guarded = [];

    protected function casts(): array
    {
        return [
            'state' => TakeState::class,
            'profile' => 'array',
            'columns' => 'array',
            'parameters' => 'array',
            'compared' => 'array',
            'recipe' => 'array',
            'reader' => 'array',
            'arithmetic' => 'array',
            'study_attempts' => 'array',
            'taken_at' => 'datetime',
        ];
    }

    /** @return array<int, self> load → the take of its feed that a round works on */
    public static function ofRound(Round $round): array
    {
        return self::query()
            ->join('round_loads', 'round_loads.take_id', '=', 'takes.id')
            ->where('round_loads.round_id', $round->id)
            ->get([...array_map(fn (string $c) => "takes.$c", explode(',', self::LISTED)), 'round_loads.load_id as load'])
            ->keyBy(fn (self $t) => (int) $t->getAttribute('load'))
            ->all();
    }

    /**
     * @param  list<int>  $extracts
     * @return array<int, self> extract → its newest take, whatever became of it
     */
    public static function newestOf(array $extracts): array
    {
        $newest = self::query()->whereIn('extract_id', $extracts)->groupBy('extract_id')->selectRaw('MAX(id)');

        return self::query()
            ->whereIn('id', $newest)
            ->get(['id', 'extract_id', 'number', 'state', 'file_name', 'error'])
            ->keyBy('extract_id')
            ->all();
    }

    /** Number of its last row. */
    public function lastRow(): int
    {
        return $this->last_row ?? (int) $this->rows;
    }

    /** What the source itself says of the number of rows. */
    public function ownCount(): string
    {
        return $this->counted_by === null ? 'The source has no count of its own.'
            : ucfirst($this->counted_by).' there are '.number_format((int) $this->source_rows).' rows.';
    }

    /** What the client says of the number of rows; '' where they say nothing. */
    public function statedCount(): string
    {
        return $this->stated_rows === null ? ''
            : 'The client states '.number_format($this->stated_rows).' rows ('.$this->stated_by.')'
                .($this->stated_rows === $this->rows
                    ? ', and so many were read.'
                    : ', but '.number_format((int) $this->rows).' were read.');
    }

    /** @return list<array<string, mixed>>|null its profile, also where the take was listed without it */
    public function facts(): ?array
    {
        if (! array_key_exists('profile', $this->attributes)) {
            $this->attributes['profile'] = self::query()->whereKey($this->id)->toBase()->value('profile');
        }

        return $this->profile;
    }

    /** @return list<string> of its columns */
    public function headers(): array
    {
        return array_column($this->columns ?? [], 'header');
    }

    public function tidyColumns(): Columns
    {
        return Columns::fromArray($this->columns ?? []);
    }

    /** @return BelongsTo<Extract, $this> */
    public function extract(): BelongsTo
    {
        return $this->belongsTo(Extract::class);
    }
}
