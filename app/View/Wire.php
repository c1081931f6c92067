<?php

namespace App\View;

use Baggage\Core\Ordering\Reference;

/** A reference in the order chart, from the parent to the record that needs it. */
final readonly class Wire
{
    /**
     * @param  string  $path  of SVG
     * @param  array{int, int}  $end
     * @param  array{int, int}|null  $label
     */
    public function __construct(
        public Reference $reference,
        public string $path,
        public array $end,
        public ?array $label = null,
    ) {
    }

    /** Whether it is set after both records are there; only such a one bears its name. */
    public function isLate(): bool
    {
        return $this->label !== null;
    }
}
