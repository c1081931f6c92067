<?php

namespace App\Models;

use App\Support\Written;
use Baggage\Core\Targets\Schema;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsToMany;
use Illuminate\Database\Eloquent\Relations\HasMany;
use Illuminate\Database\Eloquent\Relations\HasManyThrough;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\Cache;

/**
 * @property int $id
 * @property string $words the language of files for the client
 * @property string $name
 * @property string $target_name
 * @property ?string $target_description
 * @property string $installation
 * @property int $begun_by number of a user; 0 for the command line
 */
final class Migration extends Model
{
    protected $guarded = [];

    /** @var array{string|null, int} its overview, and how often this process had written then */
    private array $overview = [null, -1];

    /** Columns of a migration on its pages: not the plan it was made from, which can be long. */
    private const LISTED = ['id', 'name', 'target_name', 'target_description', 'installation', 'words', 'created_at', 'updated_at'];

    /**
     * With its overview as it was kept, so that a page asks once. What nobody gave somebody is not there for them, by its number
     * either.
     */
    public function resolveRouteBinding($value, $field = null): ?self
    {
        $user = Auth::user();
        if (! $user instanceof User) {
            return null;
        }
        if ($user->roleIn((int) $value) === null) {
            self::refused((int) $value, $user);

            return null;
        }
        /** @var self|null $found */
        $found = self::query()
            ->leftJoin('overviews as o', 'o.migration_id', '=', 'migrations.id')
            ->where('migrations.id', $value)
            ->select(array_map(fn ($c) => "migrations.$c", self::LISTED))
            ->selectRaw(
                'IF(EXISTS (SELECT 1 FROM overview_marks m WHERE m.migration_id = migrations.id), NULL, o.value) AS overview',
            )
            ->first();
        if ($found !== null) {
            $of = $found->getAttributes();
            $found->overview = [$of['overview'], Written::times()];
            $found->setRawAttributes(array_diff_key($of, ['overview' => 1]), true);
        }

        return $found;
    }

    /**
     * The migration of a name: for a person among those they are a member of, so that nobody learns of another's.
     *
     * @param  User|int|null  $among  the person, or the number of the migration where the command line is told which
     *
     * @throws \DomainException where several have the name
     */
    public static function named(string $name, User|int|null $among): ?self
    {
        $query = self::query()->where('name', $name);
        if ($among !== null) {
            $query->whereKey($among instanceof User ? array_keys($among->roles()) : $among);
        }
        $found = $query->get()->sortBy('id')->values();
        if ($found->count() > 1) {
            throw new \DomainException("{$found->count()} migrations are named \"$name\", with the numbers "
                .$found->pluck('id')->implode(', ').': say which is meant.');
        }

        return $found->first();
    }

    /** Its own people read that somebody else asked for it; where there is none, the administrators do. Once a minute. */
    private static function refused(int $id, User $user): void
    {
        if (Cache::add("refused:$user->id:$id", true, 60)) {
            $of = self::query()->whereKey($id)->value('id');
            Audit::note($of, 'was refused: not of this migration', ['request' => request()->method().' '.request()->path()]);
        }
    }

    /** Its overview as it was when the request came in; null when something was written since. */
    public function overview(): ?string
    {
        return $this->overview[1] === Written::times() ? $this->overview[0] : null;
    }

    /** The plan as it was last applied from a file, as JSON. */
    public function planBase(): ?string
    {
        return self::query()->whereKey($this->id)->toBase()->value('plan_base');
    }

    /** @return BelongsToMany<User, $this> */
    public function users(): BelongsToMany
    {
        return $this->belongsToMany(User::class, 'memberships');
    }

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

    /** @return HasMany<ControlTotal, $this> */
    public function totals(): HasMany
    {
        return $this->hasMany(ControlTotal::class);
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

    /** @return HasMany<Repair, $this> */
    public function repairs(): HasMany
    {
        return $this->hasMany(Repair::class);
    }

    /** @return HasMany<DryRun, $this> */
    public function dryRuns(): HasMany
    {
        return $this->hasMany(DryRun::class);
    }

    /** @return HasMany<ClientFile, $this> */
    public function files(): HasMany
    {
        return $this->hasMany(ClientFile::class);
    }

    /** @return HasMany<Answer, $this> */
    public function answers(): HasMany
    {
        return $this->hasMany(Answer::class);
    }

    /** @return HasMany<Work, $this> */
    public function works(): HasMany
    {
        return $this->hasMany(Work::class);
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
