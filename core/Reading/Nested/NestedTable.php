<?php

namespace Baggage\Core\Reading\Nested;

use Baggage\Core\Reading\Columns;
use Baggage\Core\Reading\Limits;
use Baggage\Core\Reading\RawRow;
use Baggage\Core\Reading\ReadingError;
use Baggage\Core\Reading\Remark;
use Baggage\Core\Reading\Table;

/**
 * Makes rows of nested records: objects become columns with dotted headers, a list becomes its JSON text in one cell. A list
 * may also be read as a table of its own, whose rows carry the columns of their record that were asked for.
 *
 * The records are gone through twice: first for the columns and the count, then for the rows.
 */
final class NestedTable implements Table
{
    private ?Columns $columns = null;

    /** @var array<string, int> header → position */
    private array $positions = [];

    /** @var array<string, true> paths that hold a list in at least one record */
    private array $lists = [];

    private int $counted = 0;

    /** @param  list<string>  $carry */
    public function __construct(
        private readonly Records $records,
        private readonly string $list = '',
        private readonly array $carry = [],
    ) {
    }

    public function columns(): Columns
    {
        if ($this->columns !== null) {
            return $this->columns;
        }
        $headers = [];
        foreach ($this->rowsOf() as [, $flat]) {
            $this->counted++;
            $headers += $flat;
            Limits::now()->refuseWide(count($headers));
        }
        if ($this->counted === 0) {
            throw ReadingError::broken(
                $this->list === ''
                    ? 'There are no records at this path.'
                    : "No record has anything in its list \"$this->list\".",
            );
        }
        $names = [];
        foreach (array_map(strval(...), array_keys($headers)) as $header) {
            for ($path = $header; ($dot = strrpos($path, '.')) !== false; $path = substr($path, 0, $dot)) {
                if (isset($this->lists[substr($path, 0, $dot)])) {
                    continue 2;
                }
            }
            $names[] = $header;
        }
        $this->positions = array_flip($names);

        return $this->columns = Columns::fromHeaders($names);
    }

    /** @return list<string> lists inside the records, each a table of its own; known after columns() */
    public function lists(): array
    {
        return array_map(strval(...), array_keys($this->lists));
    }

    public function rows(): \Generator
    {
        $width = $this->columns()->count();
        $empty = array_fill(0, $width, null);
        foreach ($this->rowsOf() as [$line, $flat]) {
            $cells = $empty;
            foreach ($flat as $header => $value) {
                $header = (string) $header;
                if (isset($this->positions[$header])) {
                    $single = isset($this->lists[$header]) && ! str_starts_with((string) $value, '[') && $value !== null;
                    $cells[$this->positions[$header]] = $single ? self::json([$value]) : $value;
                } elseif (($owner = $this->owner($header)) !== null) {
                    // Elsewhere a list, here a single object: its parts go into the one cell as they are.
                    $at = $this->positions[$owner];
                    $cells[$at] = self::json([
                        ...(array) json_decode($cells[$at] ?? '[]', true),
                        [substr($header, strlen($owner) + 1) => $value],
                    ]);
                }
            }
            yield new RawRow($line, array_values($cells));
        }
    }

    private function owner(string $header): ?string
    {
        for ($path = $header; ($dot = strrpos($path, '.')) !== false; $path = substr($path, 0, $dot)) {
            if (isset($this->lists[($found = substr($path, 0, $dot))], $this->positions[$found])) {
                return $found;
            }
        }

        return null;
    }

    /** @return \Generator<array{int, array<array-key, string|null>}> */
    private function rowsOf(): \Generator
    {
        foreach ($this->records->each() as $line => $record) {
            if ($this->list === '') {
                $flat = [];
                $this->flatten($record, '', $flat);
                yield [$line, $flat];

                continue;
            }
            $inner = $record;
            foreach (explode('.', $this->list) as $key) {
                $inner = is_array($inner) ? $inner[$key] ?? null : null;
            }
            if ($inner === null) {
                continue;
            }
            $carried = [];
            if ($this->carry !== []) {
                $flat = [];
                $lists = $this->lists;
                $this->flatten($record, '', $flat);
                $this->lists = $lists;
                foreach ($this->carry as $column) {
                    $carried["parent.$column"] = $flat[$column] ?? null;
                }
            }
            foreach (is_array($inner) && array_is_list($inner) ? $inner : [$inner] as $i => $element) {
                $flat = $carried + ['position' => (string) ($i + 1)];
                is_array($element) ? $this->flatten($element, '', $flat) : ($flat['value'] = self::text($element));
                yield [$line, $flat];
            }
        }
    }

    /**
     * @param  array<array-key, mixed>  $value
     * @param  array<array-key, string|null>  $flat
     */
    private function flatten(array $value, string $prefix, array &$flat): void
    {
        foreach ($value as $key => $inner) {
            $path = $prefix === '' ? (string) $key : "$prefix.$key";
            if (! is_array($inner)) {
                $flat[$path] = self::text($inner);
            } elseif (array_is_list($inner)) {
                $this->lists[$path] = true;
                $flat[$path] = $inner === [] ? null : self::json($inner);
            } else {
                $this->flatten($inner, $path, $flat);
            }
        }
    }

    private static function text(mixed $value): ?string
    {
        return match (true) {
            $value === null => null,
            is_bool($value) => $value ? 'true' : 'false',
            default => (string) $value,
        };
    }

    /** @param  array<array-key, mixed>  $value */
    private static function json(array $value): string
    {
        return json_encode($value, JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES | JSON_THROW_ON_ERROR);
    }

    public function sourceRows(): int
    {
        return $this->counted;
    }

    public function countedBy(): string
    {
        return 'by a first walk through the records';
    }

    public function remarks(): array
    {
        $remarks = array_map(fn (string $r) => new Remark('header', $r), $this->columns()->remarks);
        foreach ($this->lists() as $list) {
            $remarks[] = new Remark(
                'nested_list',
                "\"$list\" holds lists; they stand in one cell here and can be frozen as an extract of their own.",
            );
        }

        return $remarks;
    }
}
