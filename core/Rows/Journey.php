<?php

namespace Baggage\Core\Rows;

use Baggage\Core\Crosswalks\ParentKey;

/** One feed row on its way through a batch. Mutable on purpose: each step writes what it found out. */
final class Journey
{
    public ?Outcome $outcome = null;

    public ?Cause $cause = null;

    /** Cause that in the end keeps the row out, where it is another row's. */
    public ?int $rootCause = null;

    public ?string $targetKey = null;

    /** @var list<string> one of each match rule whose fields are filled, in the order of the rules */
    public array $matchKeys = [];

    /** Records the target has more or fewer for it. */
    public int $records = 0;

    /** @var array<string, string|null> the record as it was, where it was changed */
    public array $before = [];

    /** @var array<string, ParentKey> parents still to be found, by field */
    public array $parents = [];

    /** @var array<string, array{entity: string, space: string, key: string}> references to be set after their parents are loaded */
    public array $links = [];

    /**
     * @param  array<string, string|null>  $values  the record, by field
     */
    public function __construct(public readonly int $row, public string $legacyKey = '', public array $values = [])
    {
    }

    /** A record it was to change is not its own then. */
    public function reject(Cause $cause): void
    {
        $this->targetKey = null;
        $this->outcome = Outcome::Rejected;
        $this->cause = $cause;
    }

    public function hold(Cause $cause, ?int $rootCause): void
    {
        $this->targetKey = null;
        $this->outcome = Outcome::Held;
        $this->cause = $cause;
        $this->rootCause = $rootCause;
    }

    /** A person accepted that it stays behind for its cause. */
    public function waive(): void
    {
        $this->outcome = Outcome::Waived;
    }

    public function settle(Outcome $outcome, string $targetKey): void
    {
        $this->outcome = $outcome;
        $this->targetKey = $targetKey;
    }

    public function isOpen(): bool
    {
        return $this->outcome === null;
    }
}
