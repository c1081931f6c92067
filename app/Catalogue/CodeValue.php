<?php

namespace App\Catalogue;

/** An old value that occurs or is mapped, and what becomes of it. */
final readonly class CodeValue
{
    /** @param  int  $rows  that have it */
    public function __construct(
        public string $old,
        public ?string $new,
        public int $rows,
        public bool $mapped,
        public bool $rejected,
        public ?string $note,
    ) {
    }

    /** value, empty or reject; nothing while nobody has decided. */
    public function decision(): string
    {
        return match (true) {
            ! $this->mapped => '',
            $this->rejected => 'reject',
            default => $this->new === null ? 'empty' : 'value',
        };
    }
}
