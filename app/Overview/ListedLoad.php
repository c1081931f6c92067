<?php

namespace App\Overview;

/** A load as pages list it. */
final readonly class ListedLoad
{
    /**
     * @param  string  $space  name of its key space
     * @param  string  $source  code
     * @param  int|null  $take  that counts now
     * @param  int  $ruled  fields with a rule
     * @param  int  $empty  fields left empty with a reason
     * @param  int  $undecided  columns of its extract
     */
    public function __construct(
        public int $id,
        public string $name,
        public int $entityId,
        public string $entity,
        public string $space,
        public int $extractId,
        public string $extract,
        public string $source,
        public ?int $take,
        public int $rows,
        public int $sourceRows,
        public int $fields,
        public int $ruled,
        public int $empty,
        public int $undecided,
        public string $policy,
    ) {
    }

    /** @param  array<string, mixed>  $line  of its properties */
    public static function fromArray(array $line): self
    {
        return new self(...$line);
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return get_object_vars($this);
    }
}
