<?php

namespace Baggage\Core\Matching;

/** Which fields, and how written, make two records of an entity the same. */
final readonly class MatchRule
{
    /** @param  array<string, Normaliser>  $on field → how it is compared */
    public function __construct(public string $name, public array $on)
    {
    }

    /** @param  array{name: string, on: array<string, string>}  $a */
    public static function fromArray(array $a): self
    {
        return new self($a['name'], array_map(fn (string $n) => Normaliser::from($n), $a['on']));
    }

    /** @return array{name: string, on: array<string, string>} */
    public function toArray(): array
    {
        return ['name' => $this->name, 'on' => array_map(fn (Normaliser $n) => $n->value, $this->on)];
    }

    /** Equal for rules that compare alike, whatever they are called. */
    public function identity(): string
    {
        return hash('xxh128', (string) json_encode($this->toArray()['on']));
    }

    /**
     * @param  array<string, string|null>  $values
     * @return string|null 32 hexadecimal digits, others for other rules; null when a field is blank, so that blanks never match
     */
    public function key(array $values): ?string
    {
        $parts = [];
        foreach ($this->on as $field => $normaliser) {
            $part = $normaliser->key($values[$field] ?? null);
            if ($part === null) {
                return null;
            }
            $parts[] = "$field\x1E$normaliser->value\x1E$part";
        }

        return $parts === [] ? null : hash('xxh128', implode("\x1F", $parts));
    }
}
