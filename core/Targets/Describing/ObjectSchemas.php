<?php

namespace Baggage\Core\Targets\Describing;

use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Field;
use Baggage\Core\Targets\Schema;

/**
 * Entities and fields from JSON Schema (draft-07 to 2020-12: definitions, $defs, or one object) or from the schemas among an OpenAPI 3
 * document's components. Every named object with properties is an entity; a property that points at another one is a reference.
 */
final class ObjectSchemas
{
    private const DEEPEST = 12;

    /** @var array<string, array<string, mixed>> */
    private array $named = [];

    /** @param  array<string, mixed>  $document */
    private function __construct(private readonly array $document)
    {
    }

    /**
     * @param  array<string, mixed>  $document  as decoded from JSON or YAML
     *
     * @throws DescriptionError
     */
    public static function read(array $document): Schema
    {
        $self = new self($document);
        $schemas = (array) ($document['components']['schemas'] ?? ($document['$defs'] ?? ($document['definitions'] ?? [])));
        if (isset($document['properties'])) {
            $schemas[self::name((string) ($document['title'] ?? 'record'))] ??= $document;
        }
        foreach ($schemas as $name => $schema) {
            $flat = is_array($schema) ? $self->flat($schema) : [];
            if (is_array($flat['properties'] ?? null) && $flat['properties'] !== []) {
                $self->named[self::name((string) $name)] = $flat;
            }
        }
        if ($self->named === []) {
            throw DescriptionError::noObject();
        }

        return new Schema(array_map($self->entity(...), array_keys($self->named), $self->named));
    }

    /** @param  array<string, mixed>  $schema */
    private function entity(string $name, array $schema): Entity
    {
        $required = array_map(strval(...), (array) ($schema['required'] ?? []));
        $fields = [];
        foreach ($schema['properties'] as $property => $is) {
            $field = is_array($is)
                ? $this->field((string) $property, $is, in_array((string) $property, $required, true))
                : null;
            if ($field !== null) {
                $fields[$field->name] = $field;
            }
        }
        $key = isset($fields['id']) ? 'id' : null;
        foreach ($schema['properties'] as $property => $is) {
            $key = is_array($is) && ($is['x-key'] ?? false) === true ? (string) $property : $key;
        }
        if ($key === null) {
            $fields = ['id' => new Field('id', Field::fromArray(['name' => 'id', 'kind' => 'integer'])->type, false, true)]
                + $fields;
            $key = 'id';
        }

        return new Entity(
            $name,
            $key,
            array_values($fields),
            array_values(
                array_map(
                    fn ($u) => array_values(array_map(strval(...), (array) $u)),
                    (array) ($schema['x-unique'] ?? []),
                ),
            ),
        );
    }

    /** @param  array<string, mixed>  $is */
    private function field(string $name, array $is, bool $required): ?Field
    {
        $target = $this->pointsAt($is);
        $is = $this->flat($is);
        $types = (array) ($is['type'] ?? (isset($is['enum']) ? 'string' : 'object'));
        $nullable = in_array('null', $types, true) || ($is['nullable'] ?? false) === true;
        $type = array_values(array_diff($types, ['null']))[0] ?? 'string';
        if ($target === null && in_array($type, ['object', 'array'], true)) {
            // What is nested has no column of its own; it is an entity where it has a name.
            return null;
        }
        $assigned = ($is['readOnly'] ?? false) === true;
        $given = $is['default'] ?? null;
        $default = match (true) {
            is_bool($given) => $given ? '1' : '0',
            is_scalar($given) => (string) $given,
            default => null,
        };

        return Field::fromArray(
            [
                'name' => $name,
                'required' => $required && ! $nullable && $given === null && ! $assigned,
                'assigned' => $assigned,
                'refers' => $target,
                'default' => $default,
                'note' => isset($is['description']) ? mb_substr((string) $is['description'], 0, 500) : null,
            ] + ($target === null ? self::kind($type, $is) : ['kind' => 'text', 'length' => 64]),
        );
    }

    /**
     * @param  array<string, mixed>  $is
     * @return array<string, mixed> what kind of type, as a description writes it
     */
    private static function kind(string $type, array $is): array
    {
        if (isset($is['enum'])) {
            $values = array_map(fn ($v) => is_scalar($v) ? (string) $v : '', (array) $is['enum']);

            return ['kind' => 'choice', 'values' => array_values(array_filter($values, fn ($v) => $v !== ''))];
        }
        $format = $is['format'] ?? '';

        return match (true) {
            $type === 'boolean' => ['kind' => 'boolean'],
            $type === 'integer' => ['kind' => 'integer'] + self::bounds($is),
            $type === 'number' => ['kind' => 'decimal', 'precision' => 18, 'scale' => self::scale($is)],
            $format === 'date' => ['kind' => 'date'],
            $format === 'date-time' => ['kind' => 'datetime'],
            default => ['kind' => 'text', 'length' => (int) ($is['maxLength'] ?? ($format === 'uuid' ? 36 : 255))],
        };
    }

    /**
     * @param  array<string, mixed>  $is
     * @return string|null the entity it points at, directly or as the one thing allOf, anyOf or oneOf allow besides null
     */
    private function pointsAt(array $is): ?string
    {
        if (isset($is['x-references'])) {
            return self::name((string) $is['x-references']);
        }
        $candidates = [
            $is,
            ...(array) ($is['allOf'] ?? []),
            ...(array) ($is['anyOf'] ?? []),
            ...(array) ($is['oneOf'] ?? []),
        ];
        foreach ($candidates as $candidate) {
            $name = is_array($candidate) && is_string($candidate['$ref'] ?? null)
                ? self::name(basename($candidate['$ref']))
                : null;
            if ($name !== null && isset($this->named[$name])) {
                return $name;
            }
        }

        return null;
    }

    /**
     * A schema with what it points at and what it is all of.
     *
     * @param  array<string, mixed>  $schema
     * @return array<string, mixed>
     */
    private function flat(array $schema, int $depth = 0): array
    {
        if ($depth > self::DEEPEST) {
            throw DescriptionError::endless();
        }
        if (is_string($schema['$ref'] ?? null)) {
            $found = $this->resolve($schema['$ref']);
            unset($schema['$ref']);
            $schema += $this->flat($found, $depth + 1);
        }
        foreach ((array) ($schema['allOf'] ?? []) as $part) {
            $part = is_array($part) ? $this->flat($part, $depth + 1) : [];
            $schema['properties'] = (array) ($part['properties'] ?? []) + (array) ($schema['properties'] ?? []);
            $schema['required'] = [...(array) ($schema['required'] ?? []), ...(array) ($part['required'] ?? [])];
            $schema += $part;
        }

        return $schema;
    }

    /** @return array<string, mixed> */
    private function resolve(string $ref): array
    {
        if (! str_starts_with($ref, '#/')) {
            throw DescriptionError::pointsOutside($ref);
        }
        $at = $this->document;
        foreach (explode('/', substr($ref, 2)) as $step) {
            // RFC 6901, section 4
            $at = is_array($at) ? $at[str_replace(['~1', '~0'], ['/', '~'], rawurldecode($step))] ?? null : null;
        }

        return is_array($at)
            ? $at
            : throw DescriptionError::pointsNowhere($ref);
    }

    /**
     * @param  array<string, mixed>  $is
     * @return array<string, string>
     */
    private static function bounds(array $is): array
    {
        $wide = ($is['format'] ?? '') === 'int64';

        return [
            'min' => (string) ($is['minimum'] ?? ($wide ? '-9223372036854775808' : '-2147483648')),
            'max' => (string) ($is['maximum'] ?? ($wide ? '9223372036854775807' : '2147483647')),
        ];
    }

    /** @param  array<string, mixed>  $is */
    private static function scale(array $is): int
    {
        $step = isset($is['multipleOf']) ? rtrim(number_format((float) $is['multipleOf'], 9, '.', ''), '0') : '';

        return $step === '' ? 4 : strlen(substr((string) strrchr($step, '.'), 1));
    }

    private static function name(string $name): string
    {
        return trim(
            strtolower((string) preg_replace(['/(?<=[a-z0-9])(?=[A-Z])/', '/[^A-Za-z0-9]+/'], ['_', '_'], $name)),
            '_',
        );
    }
}
