<?php

namespace Baggage\Core\Crosswalks;

/** A maintained table old value → new value. Old values are compared exactly, blanks around them aside. */
final readonly class CodeCrosswalk
{
    /**
     * @param  array<array-key, string|null>  $entries  old value → new value, null for "left empty on purpose"
     * @param  list<string>  $rejected  old values whose rows are rejected on purpose
     * @param  Otherwise  $otherwise  what becomes of old values without an entry
     * @param  string|null  $otherwiseValue  the value they all get, where that is so
     */
    public function __construct(
        public string $name,
        private array $entries,
        private array $rejected = [],
        private Otherwise $otherwise = Otherwise::Reject,
        private ?string $otherwiseValue = null,
    ) {
    }

    /** @param  array<string, mixed>  $a as made by toArray() */
    public static function fromArray(array $a): self
    {
        return new self(
            $a['name'],
            array_combine(array_column($a['entries'], 0), array_column($a['entries'], 1)),
            $a['rejected'],
            Otherwise::from($a['otherwise']),
            $a['otherwise_value'],
        );
    }

    /** @return array<string, mixed> entries as pairs in the order of their old values, so that what says the same is the same */
    public function toArray(): array
    {
        [$entries, $rejected] = [$this->entries, $this->rejected];
        ksort($entries, SORT_STRING);
        sort($rejected, SORT_STRING);

        return [
            'name' => $this->name,
            'entries' => array_map(null, array_map(strval(...), array_keys($entries)), array_values($entries)),
            'rejected' => $rejected,
            'otherwise' => $this->otherwise->value,
            'otherwise_value' => $this->otherwiseValue,
        ];
    }

    /** The same where it says something else of an old value. */
    public function saying(string $old, ?string $new, bool $rejects): self
    {
        $entries = array_diff_key($this->entries, [trim($old) => null]);
        $rejected = array_values(array_diff($this->rejected, [trim($old)]));

        return new self(
            $this->name,
            $rejects ? $entries : $entries + [trim($old) => $new],
            $rejects ? [...$rejected, trim($old)] : $rejected,
            $this->otherwise,
            $this->otherwiseValue,
        );
    }

    public function knows(string $old): bool
    {
        return array_key_exists(trim($old), $this->entries) || $this->rejects($old);
    }

    public function rejects(string $old): bool
    {
        return in_array(trim($old), $this->rejected, true);
    }

    public function newValue(string $old): ?string
    {
        return $this->entries[trim($old)] ?? null;
    }

    public function otherwise(): Otherwise
    {
        return $this->otherwise;
    }

    public function otherwiseValue(): ?string
    {
        return $this->otherwise === Otherwise::Value ? $this->otherwiseValue : null;
    }
}
