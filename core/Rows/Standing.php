<?php

namespace Baggage\Core\Rows;

/** What a row that is worked on again stands on. */
final readonly class Standing
{
    /**
     * @param  Outcome  $outcome  what the record is to the lane, whatever became of the row since
     * @param  string|null  $sentHash  of the record as it was sent, 32 hexadecimal digits
     * @param  bool  $isOlder  whether its line says something else since: its cells failed, or it was gone
     * @param  bool  $isWrittenAgain  whether somebody wants its record written again, whatever was done to it since
     */
    public function __construct(
        public Outcome $outcome,
        public string $targetKey,
        public ?string $sentHash,
        public string $legacyKey,
        public bool $isOlder = false,
        public bool $isWrittenAgain = false,
    ) {
    }
}
