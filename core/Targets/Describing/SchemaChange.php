<?php

namespace Baggage\Core\Targets\Describing;

/** One thing a newer description of a target says differently. */
final readonly class SchemaChange
{
    public const ADDED = 'added';

    public const REMOVED = 'removed';

    public const CHANGED = 'changed';

    /**
     * @param  string|null  $field  null when it is about the entity itself
     * @param  self::ADDED|self::REMOVED|self::CHANGED  $what
     */
    public function __construct(
        public string $entity,
        public ?string $field,
        public string $what,
        public string $from,
        public string $to,
    ) {
    }
}
