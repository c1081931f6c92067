<?php

namespace App\View;

use App\Models\ColumnReference;
use App\Models\ReferenceDecision;
use App\View\Drawing\Line;

/** A reference in the picture of what hangs on what. */
final readonly class ReferenceLine
{
    public function __construct(public ColumnReference $reference, public Line $line)
    {
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
