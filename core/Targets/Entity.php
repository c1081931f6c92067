<?php

namespace Baggage\Core\Targets;

use Baggage\Core\Targets\Conditions\Condition;
use Baggage\Core\Targets\Types\ChoiceType;

/** Something the target stores. */
final readonly class Entity
{
    /** @var array<string, Field> */
    public array $fields;

    /**
     * @param  string  $name  also its table in a SQL target
     * @param  string  $key  the field that holds the target key
     * @param  list<Field>  $fields
     * @param  list<list<string>>  $uniques  field names of each unique key, the primary key left out
     * @param  list<string>  $checks  clauses of its CHECKs as MariaDB states them, see Conditions\Condition
     */
    public function __construct(
        public string $name,
        public string $key,
        array $fields,
        public array $uniques = [],
        public array $checks = [],
    ) {
        $this->fields = array_combine(array_map(fn (Field $f) => $f->name, $fields), $fields);
    }

    /** @param  array<string, mixed>  $a as made by toArray() */
    public static function fromArray(array $a): self
    {
        return new self(
            $a['name'],
            $a['key'],
            array_values(array_map(Field::fromArray(...), $a['fields'])),
            $a['uniques'] ?? [],
            $a['checks'] ?? [],
        );
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return [
            'name' => $this->name,
            'key' => $this->key,
            'fields' => array_map(fn (Field $f) => $f->toArray(), array_values($this->fields)),
            'uniques' => $this->uniques,
        ] + ($this->checks === [] ? [] : ['checks' => $this->checks]);
    }

    /** @return array<string, Field> the fields a load may fill */
    public function writable(): array
    {
        return array_filter($this->fields, fn (Field $f) => ! $f->assigned);
    }

    /** @return array<string, Field> the fields that hold another record's key */
    public function references(): array
    {
        return array_filter($this->fields, fn (Field $f) => $f->refers !== null);
    }

    /** @return list<Condition> what the target's checks say of a field */
    public function conditionsOn(string $field): array
    {
        return array_values(array_filter(Condition::of($this), fn (Condition $c) => in_array($field, $c->fields, true)));
    }

    /** @return list<string>|null the values the target allows in a field, where it lists them */
    public function allowed(string $field): ?array
    {
        $type = ($this->fields[$field] ?? null)?->type;
        if ($type instanceof ChoiceType) {
            return $type->values;
        }
        foreach ($type === null ? [] : $this->conditionsOn($field) as $condition) {
            if ($condition->values() !== null) {
                return $condition->values();
            }
        }

        return null;
    }

    public function isUnique(string $field): bool
    {
        return in_array([$field], $this->uniques, true);
    }

    /** "Meter reading" for `meter_reading`. */
    public function label(): string
    {
        return ucfirst(str_replace('_', ' ', $this->name));
    }

    /** In which unique keys a field stands, and with which others; "the target key" of that. */
    public function uniqueWords(string $field): string
    {
        $words = [];
        foreach ($this->uniques as $fields) {
            if (in_array($field, $fields, true)) {
                $words[] = count($fields) === 1 ? 'alone' : 'with '.implode(', ', array_diff($fields, [$field]));
            }
        }

        return implode('; ', $words).($field === $this->key ? 'the target key' : '');
    }
}
