<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * Columns of one extract whose values are the key of another, found in the data or stated by a person.
 *
 * @property int $id
 * @property int $migration_id
 * @property int $extract_id
 * @property list<string> $columns
 * @property int $parent_extract_id
 * @property list<string> $parent_columns
 * @property int $values_total
 * @property int $values_found
 * @property int $orphan_rows
 * @property ?int $number under which its orphan rows are kept; null where the data does not bear it out
 * @property ReferenceDecision $decision
 * @property-read Extract $extract
 * @property-read Extract $parent
 */
final class ColumnReference extends Model
{
    protected $guarded = [];

    protected function casts(): array
    {
        return ['decision' => ReferenceDecision::class, 'columns' => 'array', 'parent_columns' => 'array'];
    }

    /** @return Builder<self> */
    public static function dismissedLast(): Builder
    {
        $query = self::query();
        $query->orderByRaw("decision = 'dismissed', extract_id, id");

        return $query;
    }

    /** @return Builder<self> */
    public static function acceptedFirst(): Builder
    {
        $query = self::query();
        $query->orderByRaw("decision = 'accepted' DESC, id");

        return $query;
    }

    /** @return BelongsTo<Extract, $this> */
    public function extract(): BelongsTo
    {
        return $this->belongsTo(Extract::class);
    }

    /** @return BelongsTo<Extract, $this> */
    public function parent(): BelongsTo
    {
        return $this->belongsTo(Extract::class, 'parent_extract_id');
    }

    /** Share of the different values that the key has, in per cent, never rounded up to 100. */
    public function coverage(): string
    {
        return $this->values_total === 0
            ? '0'
            : ($this->values_found === $this->values_total
                ? '100'
                : number_format(floor((1000 * $this->values_found) / $this->values_total) / 10, 1));
    }
}
