<?php

namespace Tests\Support;

use Baggage\Core\Crosswalks\SpaceName;
use Baggage\Core\Loading\CrosswalkStore;
use Baggage\Core\Loading\Holder;
use Baggage\Core\Loading\KeyState;
use Baggage\Core\Loading\OpenReferences;
use Baggage\Core\Loading\Waivers;
use Baggage\Core\Mapping\LoadDefinition;
use Baggage\Core\Matching\MatchIndex;
use Baggage\Core\Rows\Cause;
use Baggage\Core\Rows\Journey;
use Baggage\Core\Rows\Outcome;

/**
 * What a round knows, kept in memory: outcomes, key crosswalk, match keys, open references.
 *
 * @phpstan-type Line array{entity: string, space: string, key: string, outcome: Outcome, target: string|null, cause: Cause|null, pass: int}
 */
final class MemoryLane implements CrosswalkStore, MatchIndex, OpenReferences
{
    /** @var array<int, array<int, Line>> load → row → line */
    public array $lines = [];

    /** @var array<string, string> entity and match key → target key */
    public array $matches = [];

    /** @var array<string, int> entity → records of others the target held when the lane began */
    public array $others = [];

    /** @var array<string, array{load: int, row: int, field: string, child: string, entity: string, space: string, key: string}> */
    public array $open = [];

    /** @var array<string, true> load, legacy key and cause → left behind */
    public array $waived = [];

    /** @var array<int, list<int>> load → rows that may fare otherwise now */
    public array $due = [];

    /** @var array<int, array<int, true>> load → rows that were corrected since they were tried */
    public array $corrected = [];

    /** @var array<string, array<int, array{to: int, by?: int}>> pass, load and kind → where it begins → a stretch that is not recorded */
    public array $stretches = [];

    /** @var array<string, int> pass, load and kind → the last row that was claimed */
    public array $cursors = [];

    /** @var array<string, int> pass and load → up to which row it is known what rows claim */
    public array $told = [];

    /** @var array<string, array<string, true>> pass and entity → claims that were told */
    public array $seen = [];

    /** @var array<string, list<int>> pass and load → rows that share a claim with an earlier one */
    public array $contested = [];

    /** @var array<string, true> pass and load whose rows all go one after another */
    public array $allInTurn = [];

    /** @var array<string, array<string, array{int, int}>> pass, entity and space → legacy key → load and row of a key announced */
    public array $late = [];

    /** @var array<string, int> pass and load → the last row whose key is announced */
    public array $announced = [];

    /** Called with "record" before anything is written and with "recorded" after; what it throws is what happens. */
    public ?\Closure $fault = null;

    /** @param  \ArrayObject<int, true>  $alive  workers that were not killed */
    public function book(int $pass, LoadDefinition $load, bool $retry, int $last, int $worker, \ArrayObject $alive): MemoryBook
    {
        return new MemoryBook($this, $pass, $load, $retry, $last, $worker, $alive);
    }

    public function states(string $entity, string $space, array $keys): array
    {
        $found = [];
        foreach ($this->lines as $load => $lines) {
            foreach ($lines as $row => $line) {
                [$key, $target] = [$line['key'], $line['target']];
                $asked = [$line['entity'], $line['space']] === [$entity, $space] && in_array($key, $keys, true);
                if ($asked) {
                    $found[$key] = KeyState::better($found[$key] ?? null, new KeyState($line['outcome'], $target, $load, $row));
                }
            }
        }

        foreach ($this->late as $of => $late) {
            foreach (str_ends_with($of, " $entity $space") ? array_intersect_key($late, array_flip($keys)) : [] as $key => [$load, $row]) {
                $found[$key] ??= new KeyState(Outcome::Pending, null, $load, $row);
            }
        }

        return $found;
    }

    public function holders(string $entity, array $keys): array
    {
        $found = [];
        foreach ($this->lines as $load => $lines) {
            foreach ($lines as $row => $line) {
                $stands = $line['entity'] === $entity && ! SpaceName::isOfRows($line['space']) && in_array($line['target'], $keys, true);
                if ($stands && $line['outcome'] !== Outcome::Merged) {
                    $found[(string) $line['target']] = new Holder($load, $row, $line['key'], $line['outcome']);
                }
            }
        }

        return $found;
    }

    public function find(string $entity, array $keys): array
    {
        $hits = [];
        foreach ($keys as $key) {
            if (isset($this->matches["$entity $key"])) {
                $hits[$key] = $this->matches["$entity $key"];
            }
        }

        return $hits;
    }

    public function waivers(int $load): Waivers
    {
        return new class($this, $load) implements Waivers
        {
            public function __construct(private readonly MemoryLane $lane, private readonly int $load)
            {
            }

            public function covering(array $rejected): array
            {
                $isWaived = fn (Journey $j) => isset($this->lane->waived["$this->load $j->legacyKey {$j->cause?->decided()}"]);

                return array_values(array_map(fn (Journey $j) => $j->row, array_filter($rejected, $isWaived)));
            }
        };
    }

    public function ready(int $load, string $field, int $after, int $most): array
    {
        $ready = [];
        foreach ($this->open as $o) {
            $target = $this->states($o['entity'], $o['space'], [$o['key']])[$o['key']]->targetKey ?? null;
            if ([$o['load'], $o['field']] === [$load, $field] && $o['row'] > $after && $target !== null) {
                $ready[] = [$o['row'], $o['child'], $target];
            }
        }
        sort($ready);

        return array_slice($ready, 0, $most);
    }

    public function made(int $load, string $field, array $rows): void
    {
        ($this->fault ?? fn () => null)('record');
        foreach ($rows as $row) {
            unset($this->open["$load $row $field"]);
        }
    }

    /** @return list<int> rows of a load with an outcome, in row order */
    public function rows(int $load, Outcome ...$of): array
    {
        $rows = array_keys(array_filter($this->lines[$load] ?? [], fn (array $l) => in_array($l['outcome'], $of, true)));
        sort($rows);

        return $rows;
    }

    /** @param  list<Journey>  $journeys */
    public function write(int $pass, int $load, string $entity, string $space, array $journeys): void
    {
        foreach ($journeys as $j) {
            $this->displace($entity, $j);
            unset($this->corrected[$load][$j->row]);
            $this->lines[$load][$j->row] = [
                'entity' => $entity, 'space' => $space, 'key' => $j->legacyKey, 'outcome' => $j->outcome ?? Outcome::Pending,
                'target' => $j->targetKey, 'cause' => $j->cause, 'pass' => $pass,
            ];
            if ($j->targetKey === null) {
                continue;
            }
            foreach ($j->outcome === Outcome::Merged ? [] : $j->matchKeys as $key) {
                $this->matches["$entity $key"] ??= $j->targetKey;
            }
            foreach ($j->outcome === Outcome::Merged ? [] : array_filter($j->links, fn ($l) => ! $l['isSet']) as $field => $link) {
                $this->open["$load $j->row $field"] = $link
                    + ['load' => $load, 'row' => $j->row, 'field' => $field, 'child' => $j->targetKey];
            }
        }
    }

    /** Rows whose record or key another has now wait again. */
    private function displace(string $entity, Journey $by): void
    {
        $rows = $by->displaces;
        foreach ($by->takesOver === null ? [] : $this->lines as $load => $lines) {
            foreach ($lines as $row => $line) {
                if ($line['entity'] === $entity && $line['target'] === $by->targetKey) {
                    $rows[] = [$load, $row];
                }
            }
        }
        foreach ($rows as [$load, $row]) {
            [$this->lines[$load][$row]['outcome'], $this->lines[$load][$row]['target']] = [Outcome::Pending, null];
            $this->open = array_filter($this->open, fn (array $o) => [$o['load'], $o['row']] !== [$load, $row]);
        }
        if ($by->takesOver !== null) {
            $this->matches = array_diff($this->matches, [$by->targetKey]);
        }
    }
}
