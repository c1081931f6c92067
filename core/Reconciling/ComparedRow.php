<?php

namespace Baggage\Core\Reconciling;

use Baggage\Core\Rows\Journey;

/** One row whose record is compared with what was sent for it. */
final readonly class ComparedRow
{
    /**
     * @param  Journey|null  $sent  the row as its pass made it, again; null where that cannot be said
     * @param  bool  $isOwn  whether the record is of its making, with every field it has a rule for
     * @param  array<string, string|null>|null  $record  null where the target has none
     * @param  array<string, true>  $left  fields another row wrote later
     * @param  array<string, string|null>  $holds  fields the target wrote otherwise, with what it wrote
     */
    public function __construct(
        public int $row,
        public ?Journey $sent,
        public bool $isOwn,
        public ?array $record,
        public array $left = [],
        public array $holds = [],
    ) {
    }
}
