<?php

namespace Tests\Support;

/**
 * What a round must come to, worked out by loops over plain arrays: parties that may be billed to another party, names that
 * replace those of parties by their keys, and boats that need an owner. It knows nothing of
 * stretches, kills, receipts or classes of the application.
 *
 * @phpstan-type Row array{no: string, name: string, country: string, bill_to: string, owner: string}
 */
final class PlainRound
{
    /** @var array<string, array<int, string>> load → row → outcome */
    public array $outcomes = ['party' => [], 'names' => [], 'boat' => []];

    /** @var array<string, array<int, array<string, string|null>>> load → row → record, references as legacy keys */
    public array $records = ['party' => [], 'names' => [], 'boat' => []];

    /** @var array<string, array<int, string>> load → row → the first field that failed */
    public array $failed = ['party' => [], 'names' => [], 'boat' => []];

    /** @param  array<string, array<int, Row>>  $rows  load → row number → row */
    public function __construct(private readonly array $rows)
    {
    }

    /**
     * @param  array{rule: string, codes: array<string, string>}  $plan
     */
    public function first(array $plan): void
    {
        foreach (['party', 'names', 'boat'] as $load) {
            foreach (array_keys($this->rows[$load] ?? []) as $row) {
                $this->outcomes[$load][$row] = 'pending';
            }
        }
        $this->work($plan);
    }

    /** Rows that failed for a field wait again. */
    public function repair(string $field): void
    {
        foreach ($this->failed as $load => $rows) {
            foreach ($rows as $row => $of) {
                if ($of === $field && $this->outcomes[$load][$row] === 'rejected') {
                    $this->outcomes[$load][$row] = 'pending';
                }
            }
        }
    }

    /** @param  array{rule: string, codes: array<string, string>}  $plan */
    public function work(array $plan): void
    {
        foreach ($this->rows['party'] as $row => $is) {
            if ($this->outcomes['party'][$row] === 'pending') {
                $this->party($row, $is, $plan);
            }
        }
        foreach ($this->rows['names'] ?? [] as $row => $is) {
            $held = $this->outcomes['names'][$row] === 'held' && $this->stands('party', trim($is['no']));
            if ($this->outcomes['names'][$row] === 'pending' || $held) {
                $this->rename($row, trim($is['no']), self::named($is['name'], $plan['rule']));
            }
        }
        foreach ($this->rows['boat'] as $row => $is) {
            $held = $this->outcomes['boat'][$row] === 'held' && $this->stands('party', trim($is['owner']));
            if ($this->outcomes['boat'][$row] === 'pending' || $held) {
                $this->boat($row, $is, $plan);
            }
        }
    }

    /** @param  Row  $is */
    private function party(int $row, array $is, array $plan): void
    {
        $name = self::named($is['name'], $plan['rule']);
        $bill = trim($is['bill_to']);
        $record = ['name' => $name, 'country' => $plan['codes'][trim($is['country'])] ?? null, 'bill_to' => $bill === '' ? null : $bill];
        $this->settle('party', $row, trim($is['no']), $record, match (true) {
            trim($is['no']) === '' => 'key',
            $name === null => 'name',
            trim($is['country']) !== '' && $record['country'] === null => 'country',
            trim($is['country']) === '' => 'country',
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
            $this->stands('names', $key) => 'taken',
            default => null,
        };
        unset($this->failed['names'][$row]);
        if ($why !== null) {
            $this->outcomes['names'][$row] = 'rejected';
            $this->failed['names'][$row] = $why;
        } elseif (! $this->stands('party', $key)) {
            $this->outcomes['names'][$row] = 'held';
        } else {
            foreach ($this->rows['party'] as $party => $is) {
                if (trim($is['no']) === $key && $this->outcomes['party'][$party] === 'loaded') {
                    $this->outcomes['names'][$row] = $this->records['party'][$party]['name'] === $name ? 'unchanged' : 'updated';
                    $this->records['party'][$party]['name'] = $name;
                }
            }
        }
    }

    /** @param  Row  $is */
    private function boat(int $row, array $is, array $plan): void
    {
        $name = self::named($is['name'], $plan['rule']);
        $owner = trim($is['owner']);
        $why = match (true) {
            trim($is['no']) === '' => 'key',
            $name === null => 'name',
            $owner === '' || ! $this->known('party', $owner) => 'owner',
            default => null,
        };
        if ($why === null && ! $this->stands('party', $owner)) {
            $this->outcomes['boat'][$row] = 'held';
            unset($this->failed['boat'][$row]);

            return;
        }
        $this->settle('boat', $row, trim($is['no']), ['name' => $name, 'owner' => $owner], $why);
    }

    /** @param  array<string, string|null>  $record */
    private function settle(string $load, int $row, string $key, array $record, ?string $why): void
    {
        $why ??= $this->stands($load, $key) ? 'taken' : null;
        $this->outcomes[$load][$row] = $why === null ? 'loaded' : 'rejected';
        if ($why === null) {
            $this->records[$load][$row] = $record;
            unset($this->failed[$load][$row]);
        } else {
            $this->failed[$load][$row] = $why;
        }
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

    private function stands(string $load, string $key): bool
    {
        foreach ($this->rows[$load] as $row => $is) {
            if (trim($is['no']) === $key && in_array($this->outcomes[$load][$row], ['loaded', 'updated', 'unchanged'], true)) {
                return true;
            }
        }

        return false;
    }
}
