<?php

namespace Tests\Support;

/**
 * What a round must come to, worked out by loops over plain arrays: parties that may be billed to another party, names that
 * replace those of parties by their keys, and boats that need an owner. It knows nothing of
 * stretches, kills, receipts or classes of the application.
 *
 * @phpstan-type Row array{no: string, name: string, country: string, bill_to: string, owner: string}
 * @phpstan-type Plan array{rule: string, codes: array<string, string>}
 */
final class PlainRound
{
    public const LOADS = ['party', 'names', 'boat'];

    private const STANDS = ['loaded', 'updated', 'unchanged'];

    /** @var array<string, array<int, string>> load → row → outcome */
    public array $outcomes = ['party' => [], 'names' => [], 'boat' => []];

    /** @var array<string, array<int, array<string, string|null>>> load → row → record, references as legacy keys */
    public array $records = ['party' => [], 'names' => [], 'boat' => []];

    /** @var array<string, array<int, string>> load → row → the first field that failed */
    public array $failed = ['party' => [], 'names' => [], 'boat' => []];

    /** @var array<string, array<int, Plan>> load → row → what it was tried with last */
    private array $tried = ['party' => [], 'names' => [], 'boat' => []];

    /** @var array<string, array<int, array<string, true>>> load → row → columns corrected since it was tried */
    private array $corrected = ['party' => [], 'names' => [], 'boat' => []];

    /** @var array<string, array<int, string>> load → row → what failed when it was tried, in whatever way it was corrected since */
    private array $as = [];

    /** @var array<string, true> load, key, failure and value → left behind */
    private array $waived = [];

    /** @param  array<string, array<int, Row>>  $rows  load → row number → row */
    public function __construct(private array $rows)
    {
    }

    /**
     * @param  Plan  $plan
     * @param  list<string>  $without  loads that are left out
     */
    public function first(array $plan, array $without = []): void
    {
        foreach (self::LOADS as $load) {
            foreach (array_keys($this->rows[$load] ?? []) as $row) {
                $this->outcomes[$load][$row] = 'pending';
            }
        }
        $this->work($plan, $without);
    }

    /** @return list<array{string, string}> load and field that rows with an outcome failed for, but for those about keys */
    public function failures(string $outcome): array
    {
        $found = [];
        foreach ($this->failed as $load => $rows) {
            foreach ($rows as $row => $why) {
                if ($this->outcomes[$load][$row] === $outcome && ! in_array($why, ['key', 'taken'], true)) {
                    $found["$load $why"] = [$load, $why];
                }
            }
        }

        return array_values($found);
    }

    /** A person puts another value over a cell of a row that was left out; it is due then. */
    public function correct(string $load, int $row, string $column, string $value): void
    {
        $this->rows[$load][$row][$column] = $value;
        $this->corrected[$load][$row][$column] = true;
    }

    public function cell(string $load, int $row, string $column): string
    {
        return $this->rows[$load][$row][$column];
    }

    public function isCorrected(string $load, int $row, string $column): bool
    {
        return isset($this->corrected[$load][$row][$column]);
    }

    /** A correction is taken back: whoever was tried with it is due, and one nobody saw is as if it had not been made. */
    public function uncorrect(string $load, int $row, string $column, string $before, bool $wasDue, bool $isSeen): void
    {
        $this->rows[$load][$row][$column] = $before;
        if ($isSeen || $wasDue) {
            $this->corrected[$load][$row][$column] = true;

            return;
        }
        unset($this->corrected[$load][$row][$column]);
        if (($this->corrected[$load][$row] ?? []) === []) {
            unset($this->corrected[$load][$row]);
        }
    }

    /**
     * Rows that were just left behind are rejected again.
     *
     * @param  list<int>  $rows
     */
    public function unwaive(string $load, array $rows): void
    {
        foreach ($rows as $row) {
            unset($this->waived[$this->as[$load][$row]]);
            $this->outcomes[$load][$row] = 'rejected';
        }
    }

    /**
     * Rows that failed for a field stay behind, those whose key names them.
     *
     * @return list<int>
     */
    public function waive(string $load, string $field): array
    {
        $rows = [];
        foreach ($this->failed[$load] as $row => $why) {
            if ($why === $field && $this->outcomes[$load][$row] === 'rejected' && $this->key($load, $row) !== '') {
                $this->waived[$this->as[$load][$row]] = true;
                $this->outcomes[$load][$row] = 'waived';
                $rows[] = $row;
            }
        }

        return $rows;
    }

    /** @return list<int> rows that are rejected again */
    public function takeBack(string $load, string $field): array
    {
        $rows = [];
        foreach ($this->failed[$load] as $row => $why) {
            if ($why === $field && $this->outcomes[$load][$row] === 'waived') {
                unset($this->waived[$this->as[$load][$row]]);
                $this->outcomes[$load][$row] = 'rejected';
                $rows[] = $row;
            }
        }

        return $rows;
    }

    /**
     * Rows that may fare otherwise now.
     *
     * @param  Plan  $plan
     * @return array<string, list<int>> by load
     */
    public function due(array $plan): array
    {
        $due = ['party' => [], 'names' => [], 'boat' => []];
        foreach ($this->outcomes as $load => $rows) {
            foreach ($rows as $row => $outcome) {
                $isLeft = in_array($outcome, ['rejected', 'held'], true);
                $isCorrected = isset($this->corrected[$load][$row]) && ($isLeft || $outcome === 'waived');
                if ($isCorrected || ($isLeft && $this->isDue($load, $row, $outcome, $plan))) {
                    $due[$load][] = $row;
                }
            }
        }

        return $due;
    }

    /** @param  Plan  $plan */
    private function isDue(string $load, int $row, string $outcome, array $plan): bool
    {
        $parent = trim($this->rows[$load][$row][$load === 'boat' ? 'owner' : 'no']);
        if ($outcome === 'held') {
            return $this->stands('party', $parent) || $this->isLeft($parent);
        }
        $then = $this->tried[$load][$row];
        $country = trim($this->rows[$load][$row]['country']);

        return match ($this->failed[$load][$row]) {
            'name' => $then['rule'] !== $plan['rule'],
            'country' => $country === ''
                ? $then['codes'] !== $plan['codes']
                : ($then['codes'][$country] ?? null) !== ($plan['codes'][$country] ?? null),
            'left' => ! $this->isLeft($parent),
            default => false,
        };
    }

    /**
     * @param  Plan  $plan
     * @param  list<string>  $without
     */
    public function work(array $plan, array $without = []): void
    {
        $due = $this->due($plan);
        foreach (array_diff(self::LOADS, $without) as $load) {
            foreach ($this->rows[$load] ?? [] as $row => $is) {
                $outcome = $this->outcomes[$load][$row];
                $parent = trim($is[$load === 'boat' ? 'owner' : 'no']);
                $freed = $load !== 'party' && $outcome === 'held' && $this->stands('party', $parent)
                    || $outcome === 'rejected' && $this->failed[$load][$row] === 'left' && $this->stands('party', $parent);
                if ($outcome === 'pending' || $freed || in_array($row, $due[$load], true)) {
                    unset($this->corrected[$load][$row], $this->failed[$load][$row]);
                    $this->tried[$load][$row] = $plan;
                    match ($load) {
                        'party' => $this->party($row, $is, $plan),
                        'names' => $this->rename($row, trim($is['no']), self::named($is['name'], $plan['rule'])),
                        default => $this->boat($row, $is, $plan),
                    };
                }
            }
        }
    }

    /**
     * @param  Row  $is
     * @param  Plan  $plan
     */
    private function party(int $row, array $is, array $plan): void
    {
        $name = self::named($is['name'], $plan['rule']);
        $bill = trim($is['bill_to']);
        $record = ['name' => $name, 'country' => $plan['codes'][trim($is['country'])] ?? null, 'bill_to' => $bill === '' ? null : $bill];
        $this->settle('party', $row, trim($is['no']), $record, match (true) {
            trim($is['no']) === '' => 'key',
            $name === null => 'name',
            $record['country'] === null => 'country',
            $bill !== '' && ! $this->known('party', $bill) => 'bill_to',
            default => null,
        });
    }

    private function rename(int $row, string $key, ?string $name): void
    {
        $why = match (true) {
            $key === '' => 'key',
            $name === null => 'name',
            ! $this->known('party', $key) => 'no_match',
            $this->isLeft($key) => 'left',
            ! $this->stands('party', $key) => null,
            $this->standsBefore('names', $key, $row) => 'taken',
            default => null,
        };
        if ($why !== null) {
            $this->fail('names', $row, $why);
        } elseif (! $this->stands('party', $key)) {
            $this->outcomes['names'][$row] = 'held';
        } else {
            $this->takeOver('names', $key);
            foreach ($this->rows['party'] as $party => $is) {
                if (trim($is['no']) === $key && $this->outcomes['party'][$party] === 'loaded') {
                    $this->outcomes['names'][$row] = $this->records['party'][$party]['name'] === $name ? 'unchanged' : 'updated';
                    $this->records['party'][$party]['name'] = $name;
                }
            }
        }
    }

    /**
     * @param  Row  $is
     * @param  Plan  $plan
     */
    private function boat(int $row, array $is, array $plan): void
    {
        $name = self::named($is['name'], $plan['rule']);
        $owner = trim($is['owner']);
        $why = match (true) {
            trim($is['no']) === '' => 'key',
            $name === null => 'name',
            $owner === '' || ! $this->known('party', $owner) => 'owner',
            $this->isLeft($owner) => 'left',
            default => null,
        };
        if ($why === null && ! $this->stands('party', $owner)) {
            $this->outcomes['boat'][$row] = 'held';

            return;
        }
        $this->settle('boat', $row, trim($is['no']), ['name' => $name, 'owner' => $owner], $why);
    }

    /** @param  array<string, string|null>  $record */
    private function settle(string $load, int $row, string $key, array $record, ?string $why): void
    {
        $why ??= $this->standsBefore($load, $key, $row) ? 'taken' : null;
        if ($why === null) {
            $this->takeOver($load, $key);
            $this->outcomes[$load][$row] = 'loaded';
            $this->records[$load][$row] = $record;
        } else {
            $this->fail($load, $row, $why);
        }
    }

    /** A later row that stood only because this one had failed waits again, and what changed its record. */
    private function takeOver(string $load, string $key): void
    {
        foreach ($this->rows[$load] as $row => $is) {
            if (trim($is['no']) === $key && in_array($this->outcomes[$load][$row], self::STANDS, true)) {
                $this->outcomes[$load][$row] = 'pending';
                unset($this->records[$load][$row]);
                foreach ($load === 'party' ? $this->rows['names'] ?? [] : [] as $name => $changed) {
                    if (trim($changed['no']) === $key && in_array($this->outcomes['names'][$name], self::STANDS, true)) {
                        $this->outcomes['names'][$name] = 'pending';
                    }
                }
            }
        }
    }

    private function fail(string $load, int $row, string $why): void
    {
        $this->failed[$load][$row] = $why;
        $this->as[$load][$row] = $this->failure($load, $row);
        $this->outcomes[$load][$row] = isset($this->waived[$this->as[$load][$row]]) ? 'waived' : 'rejected';
    }

    /** What a decision about a row is about. */
    private function failure(string $load, int $row): string
    {
        $is = $this->rows[$load][$row];
        $why = $this->failed[$load][$row];
        // A name that fails is blank, whatever blank it is; so is a country without a value.
        $value = in_array($why, ['country', 'bill_to', 'owner'], true) ? trim($is[$why]) : '';

        return "$load {$this->key($load, $row)} $why $value".($why === 'left' ? trim($is[$load === 'boat' ? 'owner' : 'no']) : '');
    }

    private function key(string $load, int $row): string
    {
        return trim($this->rows[$load][$row]['no']);
    }

    private static function named(string $name, string $rule): ?string
    {
        $made = match ($rule) {
            'upper(name)' => mb_strtoupper(trim($name)),
            "first(name, 'unnamed')" => trim($name) === '' ? 'unnamed' : $name,
            default => trim($name),
        };

        return trim($made) === '' ? null : $made;
    }

    private function known(string $load, string $key): bool
    {
        foreach ($this->rows[$load] as $is) {
            if (trim($is['no']) === $key) {
                return true;
            }
        }

        return false;
    }

    /** Whether all rows with the key were left behind on purpose. */
    private function isLeft(string $key): bool
    {
        $outcomes = [];
        foreach ($this->rows['party'] as $row => $is) {
            if (trim($is['no']) === $key) {
                $outcomes[] = $this->outcomes['party'][$row];
            }
        }

        return $outcomes !== [] && array_diff($outcomes, ['waived']) === [];
    }

    private function stands(string $load, string $key): bool
    {
        return $this->standsBefore($load, $key, PHP_INT_MAX);
    }

    private function standsBefore(string $load, string $key, int $before): bool
    {
        foreach ($this->rows[$load] as $row => $is) {
            if ($row < $before && trim($is['no']) === $key && in_array($this->outcomes[$load][$row], self::STANDS, true)) {
                return true;
            }
        }

        return false;
    }
}
