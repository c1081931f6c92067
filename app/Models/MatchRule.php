<?php

namespace App\Models;

use Baggage\Core\Matching\MatchRule as Definition;
use Illuminate\Database\Eloquent\Model;

/**
 * When two records of an entity are the same; loads that fill it list the rules they go by.
 *
 * @property int $id
 * @property int $entity_id
 * @property string $name
 * @property array<string, string> $on field → how it is compared
 */
final class MatchRule extends Model
{
    protected $guarded = [];

    public $timestamps = false;

    protected function casts(): array
    {
        return ['on' => 'array'];
    }

    public function definition(): Definition
    {
        return Definition::fromArray(['name' => $this->name, 'on' => $this->on]);
    }

    /**
     * The rule of an entity that compares so; where there is none it is made, named after its fields.
     *
     * @param  array<string, string>  $on
     */
    public static function comparing(int $entity, array $on, ?string $name = null): self
    {
        foreach (self::query()->where('entity_id', $entity)->orderBy('id')->get() as $rule) {
            if ($rule->on === $on && ($name === null || $rule->name === $name)) {
                return $rule;
            }
        }

        $name ??= self::free($entity, implode(' + ', array_keys($on)));

        return self::query()->create(['entity_id' => $entity, 'name' => $name, 'on' => $on]);
    }

    private static function free(int $entity, string $name): string
    {
        $name = mb_substr($name, 0, 90);
        for ($n = 1; self::query()->where('entity_id', $entity)->where('name', $n === 1 ? $name : "$name $n")->exists(); $n++);

        return $n === 1 ? $name : "$name $n";
    }
}
