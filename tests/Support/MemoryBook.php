<?php

namespace Tests\Support;

use Baggage\Core\Loading\LoadLedger;
use Baggage\Core\Loading\Stretch;
use Baggage\Core\Rows\Outcome;

/** A load's part of a lane kept in memory, as one pass writes it. */
final readonly class MemoryBook implements LoadLedger
{
    public function __construct(
        private MemoryLane $lane,
        private int $pass,
        private int $load,
        private string $entity,
        private string $space,
        private bool $retry,
    ) {
    }

    public function position(): int
    {
        return $this->lane->positions["$this->pass $this->load"] ?? 0;
    }

    public function record(Stretch $stretch, array $journeys): void
    {
        ($this->lane->fault ?? fn () => null)('record');
        $this->lane->write($this->pass, $this->load, $this->entity, $this->space, $journeys);
        $this->lane->positions["$this->pass $this->load"] = $stretch->to;
        ($this->lane->fault ?? fn () => null)('recorded');
    }

    public function due(int $after, int $most): array
    {
        $due = [...$this->lane->rows($this->load, Outcome::Pending), ...$this->lane->due[$this->load] ?? []];
        foreach ($this->lane->rows($this->load, Outcome::Held, Outcome::Rejected) as $row) {
            $cause = $this->lane->lines[$this->load][$row]['cause'];
            if ($cause?->parentEntity === null) {
                continue;
            }
            $parent = $this->lane->states((string) $cause?->parentEntity, (string) $cause?->parentSpace, [(string) $cause?->value]);
            if (($parent[(string) $cause?->value] ?? null)?->targetKey !== null) {
                $due[] = $row;
            }
        }
        $due = array_unique($due);
        sort($due);

        return array_slice(array_values(array_filter($due, fn (int $row) => $row > $after)), 0, $most);
    }

    public function announced(): ?int
    {
        return $this->retry ? null : $this->lane->announced["$this->pass $this->load"] ?? null;
    }

    public function announce(array $keys): void
    {
        ($this->lane->fault ?? fn () => null)('record');
        foreach ($keys as $row => $key) {
            $this->lane->lines[$this->load][$row] = [
                'entity' => $this->entity, 'space' => $this->space, 'key' => $key, 'outcome' => Outcome::Pending,
                'target' => null, 'cause' => null, 'pass' => $this->pass,
            ];
        }
        $this->lane->announced["$this->pass $this->load"] = (int) array_key_last($keys);
    }
}
