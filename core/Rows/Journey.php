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

    /** Target key of the record a person said it is. */
    public ?string $byHand = null;

    /** What it stood on until a row before it had that, in the same stretch. */
    public ?Standing $gaveUp = null;

    /** Target key of the record it stood on that is gone, and is made anew. */
    public ?string $goneRecord = null;

    /** Records the target has more or fewer for it. */
    public int $records = 0;

    /** @var array<string, string|null> the record as it was, where it was changed */
    public array $before = [];

    /** @var array<string, string|null> fields the target wrote otherwise than it was given, with what the record said then */
    public array $holds = [];

    /** @var array<string, ParentKey> parents still to be found, by field */
    public array $parents = [];

    /**
     * References that may be set after their parents are loaded, by field. Whether they are set at once hangs on who was faster.
     *
     * @var array<string, array{entity: string, space: string, key: string, isSet: bool}>
     */
    public array $links = [];

    /** What it stands on from an earlier pass; its record keeps the last good values where the row fails now. */
    public ?Standing $standing = null;

    /** @var list<string>|null fields of its record others changed, which stay as they are; null where nobody looked */
    public ?array $others = null;

    /** The outcome of the row whose record it takes over: a later one that stood only because this one had failed. */
    public ?Outcome $takesOver = null;

    /** @var list<array{int, int}> load and number of rows that give up their legacy key for it, and wait again */
    public array $displaces = [];

    /**
     * @param  array<string, string|null>  $values  the record, by field
     */
    public function __construct(public readonly int $row, public string $legacyKey = '', public array $values = [])
    {
    }

    /** A record it was to change is not its own then. */
    public function reject(Cause $cause): void
    {
        $this->takesNothing();
        $this->outcome = Outcome::Rejected;
        $this->cause = $cause;
    }

    public function hold(Cause $cause, ?int $rootCause): void
    {
        $this->takesNothing();
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

    private function takesNothing(): void
    {
        $this->targetKey = $this->takesOver = null;
        $this->displaces = [];
    }

    /** A row before it has its record or its key now: it goes on as one nobody worked on yet. */
    public function givesUp(): void
    {
        [$this->gaveUp, $this->standing] = [$this->standing ?? $this->gaveUp, null];
    }

    /** Its references wait, whatever is known of their parents now. */
    public function setLater(): void
    {
        foreach ($this->links as $field => $link) {
            $this->links[$field] = ['isSet' => false] + $link;
        }
    }

    public function isOpen(): bool
    {
        return $this->outcome === null;
    }

    /** Whether the record it makes is the one it sent before, and that is still taken to be there. */
    public function isAsSent(): bool
    {
        return $this->standing?->sentHash !== null && ! $this->standing->isWrittenAgain
            && SentHash::of($this) === $this->standing->sentHash;
    }

    /** Whether nothing became of it that was not so before: its line can stay. */
    public function isAsItStood(): bool
    {
        return $this->standing !== null && ! $this->standing->isOlder
            && $this->outcome === $this->standing->outcome
            && $this->targetKey === $this->standing->targetKey
            && $this->legacyKey === $this->standing->legacyKey
            && $this->takesOver === null && $this->displaces === [] && $this->before === [] && $this->records === 0
            && $this->isAsSent();
    }

    /** Whether it fails now, or is left out, and its record keeps the values it had. */
    public function keepsOlder(): bool
    {
        return $this->standing !== null && $this->targetKey === null && $this->outcome !== null && $this->outcome !== Outcome::Removed;
    }
}
