<?php

namespace Baggage\Core\Loading;

/** What a target did for one row, as it remembers it in its receipts. */
final readonly class Answer
{
    /**
     * @param  string|null  $targetKey  of the record created, changed or found the same
     * @param  array<string, string|null>  $before  the writable record as it was, where it was changed or removed
     * @param  array<string, string|null>  $holds  fields the target wrote otherwise than it was given, with what the record says
     */
    public function __construct(
        public int $row,
        public Done $done,
        public ?string $targetKey = null,
        public ?Said $said = null,
        public array $before = [],
        public array $holds = [],
    ) {
    }
}
