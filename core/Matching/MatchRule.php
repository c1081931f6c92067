<?php

namespace Baggage\Core\Matching;

/** Which fields, and how written, make two records of an entity the same. */
final readonly class MatchRule
{
    /** @param  array<string, Normaliser>  $on field → how it is compared */
    public function __construct(public array $on)
    {
    }

    /** @param  array<string, string>  $a field → normaliser */
    public static function fromArray(array $a): ?self
    {
        return $a === [] ? null : new self(array_map(fn (string $n) => Normaliser::from($n), $a));
    }

    /** @return array<string, string> */
    public function toArray(): array
    {
        return array_map(fn (Normaliser $n) => $n->value, $this->on);
    }

    /**
     * @param  array<string, string|null>  $values
     * @return string|null 32 hexadecimal digits; null when a field is blank, so that blanks never match
     */
    public function key(array $values): ?string
    {
        $parts = [];
        foreach ($this->on as $field => $normaliser) {
            $part = $normaliser->key($values[$field] ?? null);
            if ($part === null) {
                return null;
            }
            $parts[] = $part;
        }

        return hash('xxh128', implode("\x1F", $parts));
    }
}
