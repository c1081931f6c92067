<?php

namespace App\View\Tables;

use App\Support\Csv;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\StreamedResponse;

/** Rows of a table as its address says: sorted and filtered by its columns, a page at a time, and all of them as .csv. */
final class Table
{
    public const PAGE = 50;

    /** From so many rows on its columns have fields to filter by. */
    private const MANY = 20;

    /** @var list<mixed>|null those that pass the filters, in order */
    private ?array $passing = null;

    /**
     * @param  string  $name  before its part of the address
     * @param  list<Column>  $columns
     * @param  list<mixed>  $all
     * @param  array<string, string>  $asked  its part of the address
     */
    private function __construct(
        public readonly string $name,
        public readonly array $columns,
        private readonly array $all,
        private readonly array $asked,
        private readonly string $address,
        private readonly int $size,
    ) {
    }

    /**
     * @param  list<Column>  $columns
     * @param  iterable<mixed>  $rows
     */
    public static function of(Request $request, string $name, array $columns, iterable $rows, int $size = self::PAGE): self
    {
        $asked = [];
        foreach ($request->query() as $key => $value) {
            if (str_starts_with((string) $key, "$name-") && is_string($value)) {
                $asked[substr((string) $key, strlen($name) + 1)] = $value;
            }
        }

        return new self(
            $name,
            $columns,
            is_array($rows) ? array_values($rows) : iterator_to_array($rows, false),
            $asked,
            $request->fullUrl(),
            $size,
        );
    }

    /** @return list<mixed> rows of the page that is shown */
    public function rows(): array
    {
        return array_slice($this->passing(), ($this->page() - 1) * $this->size, $this->size);
    }

    /** Rows that pass the filters. */
    public function count(): int
    {
        return count($this->passing());
    }

    public function total(): int
    {
        return count($this->all);
    }

    public function page(): int
    {
        return max(1, min($this->pages(), (int) ($this->asked['page'] ?? 1)));
    }

    public function pages(): int
    {
        return max(1, (int) ceil($this->count() / $this->size));
    }

    /** Whether there is more than the eye takes in: then columns have fields to filter by. */
    public function isLong(): bool
    {
        return $this->total() > self::MANY || $this->isFiltered();
    }

    public function isFiltered(): bool
    {
        return $this->tests() !== [];
    }

    public function typed(Column $column): string
    {
        return $column->key === '' ? '' : ($this->asked[$column->key] ?? '');
    }

    /** "ascending", "descending", or null where it is not sorted by the column. */
    public function order(Column $column): ?string
    {
        [$key, $isDown] = $this->sort();

        return $column->key === '' || $column->key !== $key ? null : ($isDown ? 'descending' : 'ascending');
    }

    /** Address of the table sorted by a column; by the same once more the other way round, then as it was. */
    public function sortedBy(Column $column): string
    {
        $next = match ($this->order($column)) {
            null => $column->isNumber ? "-$column->key" : $column->key,
            'ascending' => $column->isNumber ? null : "-$column->key",
            default => $column->isNumber ? $column->key : null,
        };

        return $this->at(['sort' => $next, 'page' => null]);
    }

    public function atPage(int $page): string
    {
        return $this->at(['page' => $page === 1 ? null : (string) $page]);
    }

    public function asCsv(): string
    {
        return $this->at(['csv' => '1', 'page' => null]);
    }

    public function unfiltered(): string
    {
        return $this->at(['page' => null] + array_fill_keys(array_column($this->columns, 'key'), null));
    }

    /** @return array<string, string> what a form with its filters has to keep of the address */
    public function kept(): array
    {
        parse_str((string) parse_url($this->address, PHP_URL_QUERY), $query);
        $own = array_map(fn (string $key) => "$this->name-$key", [...array_column($this->columns, 'key'), 'page', 'csv']);

        return array_filter(array_diff_key($query, array_flip($own)), is_string(...));
    }

    public function path(): string
    {
        return (string) parse_url($this->address, PHP_URL_PATH);
    }

    public function isAskedAsCsv(): bool
    {
        return isset($this->asked['csv']);
    }

    public function csv(): StreamedResponse
    {
        $shown = array_values(array_filter($this->columns, fn (Column $c) => $c->value !== null));

        return Csv::file($this->name, function () use ($shown) {
            yield array_column($shown, 'label');
            foreach ($this->passing() as $row) {
                yield array_map(fn (Column $c) => $c->value === null ? null : ($c->value)($row), $shown);
            }
        });
    }

    /** @param  array<string, string|null>  $changes  null to leave out */
    private function at(array $changes): string
    {
        parse_str((string) parse_url($this->address, PHP_URL_QUERY), $query);
        foreach ($changes as $key => $value) {
            $query["$this->name-$key"] = $value;
        }
        unset($query["$this->name-csv"]);
        if (isset($changes['csv'])) {
            $query["$this->name-csv"] = '1';
        }
        $query = http_build_query(array_filter($query, fn ($v) => $v !== null));

        return $this->path().($query === '' ? '' : "?$query");
    }

    /** @return array{string, bool} column and whether from the largest */
    private function sort(): array
    {
        $asked = $this->asked['sort'] ?? '';

        return [ltrim($asked, '-'), str_starts_with($asked, '-')];
    }

    /** @return list<array{Column, Test}> */
    private function tests(): array
    {
        $tests = [];
        foreach ($this->columns as $column) {
            $test = Test::of($this->typed($column), $column->isNumber);
            if ($test !== null) {
                $tests[] = [$column, $test];
            }
        }

        return $tests;
    }

    /** @return list<mixed> */
    private function passing(): array
    {
        if ($this->passing !== null) {
            return $this->passing;
        }
        $rows = $this->all;
        foreach ($this->tests() as [$column, $test]) {
            $rows = array_values(array_filter($rows, fn ($row) => $test->fits(($column->value)($row))));
        }
        [$key, $isDown] = $this->sort();
        $by = $key === '' ? null : collect($this->columns)->firstWhere('key', $key);

        return $this->passing = $by === null ? $rows : self::sorted($rows, $by, $isDown);
    }

    /**
     * @param  list<mixed>  $rows
     * @return list<mixed> as they were where two are alike; those without a value last, whichever way round
     */
    private static function sorted(array $rows, Column $by, bool $isDown): array
    {
        $keyed = array_map(fn ($row) => [($by->value)($row), $row], $rows);
        usort($keyed, function (array $a, array $b) use ($by, $isDown) {
            [$x, $y] = [$a[0] === '' ? null : $a[0], $b[0] === '' ? null : $b[0]];
            if ($x === null || $y === null) {
                return ($x === null) <=> ($y === null);
            }
            $order = $by->isNumber ? (float) $x <=> (float) $y : strnatcasecmp((string) $x, (string) $y);

            return $isDown ? -$order : $order;
        });

        return array_column($keyed, 1);
    }
}
