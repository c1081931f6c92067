<?php

namespace Baggage\Core\Reconciling;

/** One row as it is counted: what it said and says, what its record was made of, and what the record says. */
final readonly class CountedRow
{
    /**
     * @param  int  $row  its number
     * @param  Part|null  $part  null where it is delivered no more, beside the sum
     * @param  list<string|null>|null  $raw  cells as read; null where the take has no such row
     * @param  list<string|null>|null  $now  the same with corrections laid over them
     * @param  list<string|null>|null  $made  cells its record was made of; null where it has none
     * @param  string|null  $targetKey  of its record
     * @param  array<string, string|null>|null  $record  null where the target has none under that key
     * @param  string  $legacyKey  in stored form
     */
    public function __construct(
        public int $row,
        public ?Part $part,
        public ?array $raw,
        public ?array $now,
        public ?array $made,
        public ?string $targetKey,
        public ?array $record,
        public string $legacyKey = '',
    ) {
    }

    /** Where the figure of its record belongs: beside the sum, or among what is taken as it is. */
    public function madeAs(): ?string
    {
        return match (true) {
            $this->made === null => null,
            $this->part === null => Figures::GONE,
            $this->part === Part::Older => Figures::THEN,
            default => $this->part->value,
        };
    }
}
