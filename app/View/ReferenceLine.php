<?php

namespace App\View;

use App\Models\ColumnReference;
use App\Models\ReferenceDecision;

/** A reference in the picture of what hangs on what; x and y are where its number of orphans ends. */
final readonly class ReferenceLine
{
    public function __construct(
        public ColumnReference $reference,
        public string $path,
        public int $x,
        public int $y,
    ) {
    }

    public function label(): string
    {
        return implode(' + ', $this->reference->columns)." of {$this->reference->extract->name}";
    }

    public function isAccepted(): bool
    {
        return $this->reference->decision === ReferenceDecision::Accepted;
    }
}
