<?php

namespace App\Reconciling;

use Baggage\Core\Reconciling\CountProof;

/** Figures of a round as a worker counted them, line by line in the ledger and in the target. */
final readonly class Counted
{
    public const ASKED = 'asked';

    public const DONE = 'counted';

    public const FAILED = 'failed';

    /**
     * @param  string  $state  one of the above
     * @param  array<int, CountProof>  $loads  by load
     * @param  array<string, CountProof>  $entities  with what the target holds
     * @param  array<string, int>  $links  "load field" → references that were set later
     * @param  list<\stdClass>  $toConfirm  of WaiverBook::toConfirm
     * @param  array<int, list<int>>  $lost  of GapFinder::lost
     * @param  array<string, array{gone: list<array{int, int, string}>, foreign: list<string>, before: int}>  $gaps  of GapFinder::gaps
     * @param  string|null  $targetError  why the target could not be counted, if so
     * @param  string|null  $error  why nothing could be counted, if so
     */
    public function __construct(
        public string $state,
        public ?\DateTimeInterface $at,
        public array $loads,
        public array $entities,
        public array $links,
        public array $toConfirm,
        public array $lost,
        public array $gaps,
        public ?string $targetError,
        public ?string $error,
    ) {
    }

    public function isDone(): bool
    {
        return $this->state === self::DONE;
    }

    public function isAsked(): bool
    {
        return $this->state === self::ASKED;
    }
}
