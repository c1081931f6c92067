<?php

namespace App\Models;

use Baggage\Core\Crosswalks\KeyNormalisation;
use Baggage\Core\Mapping\GonePolicy;
use Baggage\Core\Mapping\OthersPolicy;
use Baggage\Core\Mapping\WritePolicy;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\Relations\HasMany;
use Illuminate\Support\Collection;

/**
 * @property int $id
 * @property int $migration_id
 * @property int $entity_id
 * @property int $extract_id
 * @property string $name
 * @property int $position
 * @property list<string> $key_columns
 * @property ?string $key_space null: the code of its source
 * @property KeyNormalisation $key_normalisation
 * @property ?string $scope
 * @property ?string $scope_reason
 * @property WritePolicy $policy
 * @property GonePolicy $gone what becomes of records of rows that are delivered no more
 * @property OthersPolicy $others what becomes of what others changed in its records
 * @property ?list<string> $match_rules names of rules of its entity, in the order they are tried
 * @property ?string $note
 */
final class Load extends Model
{
    /** What its settings are, and what each is called. */
    public const SETTINGS = [
        'key_columns' => 'Legacy key',
        'key_space' => 'Key space',
        'key_normalisation' => 'Keys are compared',
        'scope' => 'Only rows where',
        'scope_reason' => 'The others are left out because',
        'policy' => 'Write policy',
        'gone' => 'Rows delivered no more',
        'others' => 'What others changed',
        'match_rules' => 'Match rules',
    ];

    protected $guarded = [];

    /** @var array<string, mixed> */
    protected $attributes = ['gone' => 'review', 'others' => 'overwrite'];

    protected function casts(): array
    {
        return [
            'key_columns' => 'array',
            'key_normalisation' => KeyNormalisation::class,
            'policy' => WritePolicy::class,
            'gone' => GonePolicy::class,
            'others' => OthersPolicy::class,
            'match_rules' => 'array',
        ];
    }

    /**
     * Loads of one entity that name one key space share their legacy keys: those that compare them otherwise do as this one from now on.
     *
     * @return list<string> their names
     */
    public function compareAlike(): array
    {
        $others = self::query()
            ->whereKeyNot($this->id)
            ->where('entity_id', $this->entity_id)
            ->where('key_normalisation', '<>', $this->key_normalisation)
            ->with('extract.source')
            ->get()
            ->filter(fn (self $l) => $l->keySpace() === $this->keySpace());
        $others->each(fn (self $l) => $l->update(['key_normalisation' => $this->key_normalisation]));

        return $others->pluck('name')->all();
    }

    /** The name of the key space it writes or reads: its source's code unless stated. */
    public function keySpace(): string
    {
        return $this->key_space ?? $this->extract->source->code;
    }

    /** Whether its key space is worth saying: not the one its rows bring along. */
    public function namesSpace(): bool
    {
        return $this->key_space !== null || $this->reads();
    }

    /** Whether it only changes records that are in its key space already. */
    public function reads(): bool
    {
        return $this->policy->readsKeys(($this->match_rules ?: []) !== []);
    }

    /** @return Collection<int, MatchRule> the rules it matches by, in the order they are tried */
    public function matches(): Collection
    {
        $all = $this->entity->matchRules->keyBy('name');

        return collect($this->match_rules ?? [])->map(fn (string $name) => $all[$name] ?? null)->filter()->values();
    }

    /** @return BelongsTo<Migration, $this> */
    public function migration(): BelongsTo
    {
        return $this->belongsTo(Migration::class);
    }

    /** @return BelongsTo<Entity, $this> */
    public function entity(): BelongsTo
    {
        return $this->belongsTo(Entity::class);
    }

    /** @return BelongsTo<Extract, $this> */
    public function extract(): BelongsTo
    {
        return $this->belongsTo(Extract::class);
    }

    /** @return HasMany<RuleVersion, $this> */
    public function versions(): HasMany
    {
        return $this->hasMany(RuleVersion::class);
    }

    /** @return HasMany<Rule, $this> */
    public function rules(): HasMany
    {
        return $this->hasMany(Rule::class);
    }
}
