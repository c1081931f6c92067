<?php

namespace Baggage\Core\Mapping;

/** A rule that may be right for a field, and why. */
final readonly class Suggestion
{
    /** @param  bool  $isSure  whether nothing else comes near it: only then it is ticked */
    public function __construct(
        public string $field,
        public string $column,
        public string $expression,
        public string $reason,
        public float $weight,
        public bool $isSure = true,
    ) {
    }

    public function with(bool $isSure): self
    {
        return new self($this->field, $this->column, $this->expression, $this->reason, $this->weight, $isSure);
    }
}
