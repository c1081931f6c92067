<?php

namespace Baggage\Core\Targets;

/** One attribute of a target entity. */
final readonly class Field
{
    /**
     * @param  bool  $required  the target refuses a record without it
     * @param  bool  $assigned  the target gives the value itself (its own key, a generated column)
     * @param  string|null  $refers  the entity whose key it holds
     */
    public function __construct(
        public string $name,
        public FieldType $type,
        public bool $required = false,
        public bool $assigned = false,
        public ?string $refers = null,
        public ?string $default = null,
        public ?string $note = null,
    ) {
    }

    /** @param  array<string, mixed>  $a as made by toArray() */
    public static function fromArray(array $a): self
    {
        $type = match ($a['kind'] ?? null) {
            'text' => new Types\TextType((int) ($a['length'] ?? 255)),
            'integer' => new Types\IntegerType(
                (string) ($a['min'] ?? '-2147483648'),
                (string) ($a['max'] ?? '2147483647'),
            ),
            'decimal' => new Types\DecimalType((int) $a['precision'], (int) $a['scale']),
            'date' => new Types\DateType,
            'datetime' => new Types\DateType(true),
            'boolean' => new Types\BooleanType,
            'choice' => new Types\ChoiceType(array_values(array_map('strval', (array) $a['values']))),
            'set' => new Types\SetType(array_values(array_map('strval', (array) $a['values']))),
            default => throw new \InvalidArgumentException(
                'A field has a type of kind text, integer, decimal, date, datetime, boolean, choice or set.',
            ),
        };

        return new self(
            (string) $a['name'],
            $type,
            (bool) ($a['required'] ?? false),
            (bool) ($a['assigned'] ?? false),
            $a['refers'] ?? null,
            $a['default'] ?? null,
            $a['note'] ?? null,
        );
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return ['name' => $this->name]
            + $this->type->toArray()
            + array_filter(
                [
                    'required' => $this->required,
                    'assigned' => $this->assigned,
                    'refers' => $this->refers,
                    'default' => $this->default,
                    'note' => $this->note,
                ],
                fn ($v) => $v !== false && $v !== null,
            );
    }

    /** @return list<string> the values it takes, where it takes one of a few */
    public function choices(): array
    {
        return $this->type instanceof Types\ChoiceType ? $this->type->values : [];
    }

    /** Type and constraints in a few words. */
    public function describe(): string
    {
        return implode(
            ', ',
            array_filter([
                $this->refers ?? $this->type->label(),
                $this->required ? 'required' : '',
                $this->default !== null ? "default $this->default" : '',
            ]),
        );
    }
}
