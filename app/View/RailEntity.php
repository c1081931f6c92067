<?php

namespace App\View;

use Baggage\Core\Reconciling\CountProof;

/** An entity in the rail. */
final readonly class RailEntity
{
    /** @param  CountProof|null  $proof  of all its loads; null where none fills it */
    public function __construct(
        public string $name,
        public ?CountProof $proof = null,
    ) {
    }

    public function label(): string
    {
        return Say::label($this->name);
    }

    public function rows(): int
    {
        return $this->proof->feedRows ?? 0;
    }
}
