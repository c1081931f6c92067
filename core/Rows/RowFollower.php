<?php

namespace Baggage\Core\Rows;

use Baggage\Core\Reading\Columns;

/** Looks for rows by their keys in a take, whose rows it is shown once, in order. */
final class RowFollower
{
    /** @var array<string, list<int>> columns as JSON → their positions */
    private array $positions = [];

    /** @var array<string, list<int|string>> identity of a key → who asked for it */
    private array $byKey = [];

    /** @var array<string, array<int, list<int|string>>> hash → place → who asked for it */
    private array $byPlace = [];

    /** @var array<string, int> hash → rows with it so far */
    private array $seen = [];

    /** @var array<int|string, list<int>> who asked → the first rows found */
    private array $rows = [];

    /** @param  array<int|string, RowKey>  $wanted  by who asks for it */
    public static function lookingFor(array $wanted, Columns $columns): self
    {
        $self = new self;
        $at = $columns->byHeader();
        foreach ($wanted as $who => $key) {
            $identity = $key->identity();
            if ($identity === null) {
                $self->byPlace[$key->hash][$key->place ?? 1][] = $who;
                $self->seen[$key->hash] = 0;

                continue;
            }
            $headers = (array) $key->columns;
            if (array_diff($headers, array_map(strval(...), array_keys($at))) === []) {
                $self->byKey[$identity][] = $who;
                $self->positions[(string) json_encode($headers)] = array_map(fn (string $h) => $at[$h], $headers);
            }
        }

        return $self;
    }

    /**
     * @param  string  $hash  of the row, 16 hexadecimal digits
     * @param  list<string|null>  $cells
     */
    public function see(int $row, string $hash, array $cells): void
    {
        foreach ($this->positions as $headers => $positions) {
            $values = array_map(fn (int $i) => $cells[$i] ?? null, $positions);
            $key = new RowKey(json_decode($headers, true), $values, $hash);
            foreach ($this->byKey[(string) $key->identity()] ?? [] as $who) {
                if (count($this->rows[$who] ?? []) < 2) {
                    $this->rows[$who][] = $row;
                }
            }
        }
        if (isset($this->seen[$hash])) {
            foreach ($this->byPlace[$hash][++$this->seen[$hash]] ?? [] as $who) {
                $this->rows[$who][] = $row;
            }
        }
    }

    /** The row somebody asked for; null where it is not there, or there twice. */
    public function row(int|string $who): ?int
    {
        $rows = $this->rows[$who] ?? [];

        return count($rows) === 1 ? $rows[0] : null;
    }

    /** Whether the key is there more than once. */
    public function isRepeated(int|string $who): bool
    {
        return count($this->rows[$who] ?? []) > 1;
    }
}
