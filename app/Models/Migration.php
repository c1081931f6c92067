<?php

namespace App\Models;

use Baggage\Core\Targets\Schema;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\HasMany;
use Illuminate\Database\Eloquent\Relations\HasManyThrough;

/**
 * @property int $id
 * @property string $name
 * @property string $target_name
 * @property ?string $target_description
 * @property string $installation
 * @property ?string $plan_base the plan as it was last applied from a file, as JSON
 */
final class Migration extends Model
{
    protected $guarded = [];

    protected $hidden = ['plan_base'];

    /** @return HasMany<Source, $this> */
    public function sources(): HasMany
    {
        return $this->hasMany(Source::class);
    }

    /** @return HasMany<Target, $this> */
    public function targets(): HasMany
    {
        return $this->hasMany(Target::class);
    }

    /** @return HasMany<Entity, $this> */
    public function entities(): HasMany
    {
        return $this->hasMany(Entity::class);
    }

    /** @return HasMany<Parameter, $this> */
    public function parameters(): HasMany
    {
        return $this->hasMany(Parameter::class);
    }

    /** @return HasMany<Load, $this> */
    public function loads(): HasMany
    {
        return $this->hasMany(Load::class);
    }

    /** @return HasMany<CodeCrosswalk, $this> */
    public function codeCrosswalks(): HasMany
    {
        return $this->hasMany(CodeCrosswalk::class);
    }

    /** @return HasMany<Round, $this> */
    public function rounds(): HasMany
    {
        return $this->hasMany(Round::class);
    }

    /** @return HasManyThrough<Extract, Source, $this> */
    public function extracts(): HasManyThrough
    {
        return $this->hasManyThrough(Extract::class, Source::class);
    }

    /** @return \Illuminate\Database\Eloquent\Collection<int, Extract> those of which something is frozen, by source */
    public function frozenExtracts(): \Illuminate\Database\Eloquent\Collection
    {
        return $this->extracts()
            ->whereNotNull('take_id')
            ->with('source')
            ->orderBy('source_id')
            ->orderBy('extracts.id')
            ->get();
    }

    /** @return HasManyThrough<Connection, Source, $this> */
    public function connections(): HasManyThrough
    {
        return $this->hasManyThrough(Connection::class, Source::class);
    }

    /** @return HasManyThrough<Pass, Round, $this> */
    public function passes(): HasManyThrough
    {
        return $this->hasManyThrough(Pass::class, Round::class);
    }

    /** @return HasMany<ColumnReference, $this> */
    public function references(): HasMany
    {
        return $this->hasMany(ColumnReference::class);
    }

    /** @return HasMany<ChangeList, $this> */
    public function lists(): HasMany
    {
        return $this->hasMany(ChangeList::class);
    }

    /** @return Builder<Take> */
    public function takes(): Builder
    {
        return Take::query()->whereRelation('extract.source', 'migration_id', $this->id);
    }

    /** Findings in the takes that count which nobody has decided about yet. */
    public function openFindings(): int
    {
        return Finding::query()
            ->join('extracts', 'extracts.take_id', '=', 'findings.take_id')
            ->join('sources', 'sources.id', '=', 'extracts.source_id')
            ->where('sources.migration_id', $this->id)
            ->where('decision', FindingDecision::Open)
            ->count();
    }

    /** What an address names below the migration: its own or nothing. */
    public function resolveChildRouteBinding($childType, $value, $field): ?Model
    {
        return match ($childType) {
            'take' => $this->takes()->whereKey($value)->first(),
            'crosswalk' => $this->codeCrosswalks()->whereKey($value)->first(),
            default => parent::resolveChildRouteBinding($childType, $value, $field),
        };
    }

    public function schema(): Schema
    {
        return Schema::fromArray(
            $this->entities()->orderBy('position')->get()->map(fn (Entity $e) => $e->definition)->values()->all(),
        );
    }
}
