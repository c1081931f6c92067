<?php

namespace Baggage\Core\Crosswalks;

/** The legacy key of a parent as a rule states it; the pass turns it into a target key. */
final readonly class ParentKey
{
    /**
     * @param  list<string|null>  $parts
     * @param  self|null  $else  what counts where the key is nowhere, or its record was left behind on purpose
     * @param  string|null  $record  target key of a record that is there already; no legacy key is looked for then
     */
    public function __construct(public string $space, public array $parts, public ?self $else = null, public ?string $record = null)
    {
    }

    /** A record of the target. */
    public static function record(string $key): self
    {
        return new self('', [], null, $key);
    }

    /** The same with something that counts where the last of it is not there. */
    public function or(self $else): self
    {
        return $this->record !== null ? $this : new self($this->space, $this->parts, $this->else?->or($else) ?? $else);
    }

    /** @return non-empty-list<self> one after another, as they are looked for */
    public function chain(): array
    {
        return [$this, ...$this->else?->chain() ?? []];
    }

    public function __toString(): string
    {
        $says = $this->record === null ? implode(' / ', $this->parts) : "record $this->record";

        return $this->else === null ? $says : "$says, or $this->else";
    }
}
