<?php

namespace App\Feeds;

use App\Decisions\Following;
use App\Models\Extract;
use App\Models\Take;
use App\Staging\StagedRows;
use App\Staging\ValueHashes;
use Baggage\Core\Feeds\Arithmetic;
use Baggage\Core\Feeds\Combination;
use Baggage\Core\Feeds\Comparison;
use Baggage\Core\Feeds\FeedFormat;
use Baggage\Core\Reading\Columns;
use Baggage\Core\Reading\RawRow;
use Baggage\Core\Reading\ReadingError;
use Baggage\Core\Reading\Table;
use Illuminate\Support\Facades\DB;

/** Rows made out of the frozen rows of other extracts, with the corrections that lie over them. */
final class FeedTable implements Table
{
    private const PAGE = 2_000;

    private ?Columns $columns = null;

    private Arithmetic $arithmetic;

    private ?ValueHashes $hashes = null;

    /**
     * @param  list<Extract>  $extracts
     * @param  list<StagedRows>  $staged  their rows
     */
    private function __construct(
        private readonly FeedFormat $format,
        private readonly Take $take,
        private readonly Comparison $comparison,
        private readonly array $extracts,
        private readonly array $staged,
    ) {
    }

    /** @throws ReadingError */
    public static function of(FeedFormat $format, Take $take): self
    {
        $extracts = $staged = [];
        $migration = $take->extract()->firstOrFail()->source?->migration_id;
        foreach ($format->of as $name) {
            [$code, $extract] = explode('/', $name, 2);
            $found = Extract::query()
                ->where('name', $extract)
                ->whereHas('source', fn ($q) => $q->where('migration_id', $migration)->where('code', $code))
                ->with(['take', 'source'])
                ->first() ?? throw ReadingError::broken("There is no extract $name to make the feed of.");
            if ($found->take === null) {
                throw ReadingError::broken("Nothing of $name is frozen yet. Freeze it first, then make the feed.");
            }
            if ($found->id === $take->extract_id) {
                throw ReadingError::broken('A feed cannot be made of itself.');
            }
            $extracts[] = $found;
            Following::complete($found->take);
            $staged[] = new StagedRows((int) $found->take_id);
        }

        return new self($format, $take, Comparison::named($format->compared), $extracts, $staged);
    }

    public function columns(): Columns
    {
        if ($this->columns !== null) {
            return $this->columns;
        }
        $headers = array_map(fn (Extract $e) => array_column($e->columns ?? [], 'header'), $this->extracts);
        $second = $this->extracts[1]->name ?? '';

        return $this->columns = Columns::fromHeaders(
            match ($this->format->combination) {
                Combination::Join => [
                    ...$headers[0],
                    ...array_map(fn ($h) => "$second $h", $headers[1]),
                    "$second matches",
                ],
                Combination::Position => [...$headers[0], ...array_map(fn ($h) => "$second $h", $headers[1])],
                Combination::Stack => ['from', ...array_values(array_unique(array_merge(...$headers)))],
                Combination::Distinct => [...$this->format->columns, 'rows'],
            },
        );
    }

    public function rows(): \Generator
    {
        $this->arithmetic = new Arithmetic;
        foreach ($this->extracts as $i => $extract) {
            $this->arithmetic->extracts[] = [
                'name' => $this->format->of[$i], 'rows' => (int) $extract->take?->rows, 'take' => (int) $extract->take_id,
            ];
        }
        try {
            yield from match ($this->format->combination) {
                Combination::Join => $this->joined(),
                Combination::Stack => $this->stacked(),
                Combination::Position => $this->sideBySide(),
                Combination::Distinct => $this->distinct(),
            };
        } finally {
            $this->hashes?->clear();
            $this->take->update(['arithmetic' => $this->arithmetic->toArray()]);
        }
    }

    public function sourceRows(): int
    {
        return $this->arithmetic->rows;
    }

    public function countedBy(): string
    {
        return 'by the arithmetic of the extracts it is made of';
    }

    public function remarks(): array
    {
        return [];
    }

    /** @return \Generator<RawRow> */
    private function joined(): \Generator
    {
        [$left, $right] = $this->joinPositions();
        $this->hash(1, $right);
        $this->countThrough($left);
        if ($this->arithmetic->multiplied > 0 && ! $this->format->multiplies) {
            throw ReadingError::broken(
                number_format($this->arithmetic->multiplied)
                    ." rows of {$this->format->of[0]} have several partners in {$this->format->of[1]}, so the feed would have "
                    .number_format($this->arithmetic->rows).' rows instead of '
                    .number_format((int) $this->extracts[0]->take?->rows)
                    .'. Join by more columns, or accept that it multiplies rows.',
            );
        }
        $blank = array_fill(0, count($this->extracts[1]->columns ?? []), null);
        $width = count($this->extracts[0]->columns ?? []);
        foreach ($this->pages(0) as $rows) {
            $partners = $this->partners($rows, $left);
            $others = $this->staged[1]->numbered(
                array_values(array_unique(array_merge(...array_map(fn ($p) => $p ?? [], array_values($partners))))),
            );
            foreach ($rows as $number => $cells) {
                $cells = array_slice(array_pad($cells, $width, null), 0, $width);
                $found = $partners[$number] ?? [];
                foreach ($found === [] ? [null] : $found as $partner) {
                    $beside = $partner === null
                        ? $blank
                        : array_slice(array_pad($others[$partner] ?? [], count($blank), null), 0, count($blank));
                    yield new RawRow($number, [...$cells, ...$beside, (string) count($found)]);
                }
            }
        }
    }

    /**
     * Before a row is kept, so that nothing is multiplied unseen.
     *
     * @param  list<int>  $left  columns joined by
     */
    private function countThrough(array $left): void
    {
        $all = (int) $this->extracts[1]->take?->rows;
        $used = str_repeat("\0", intdiv((int) $this->extracts[1]->take?->lastRow(), 8) + 1);
        foreach ($this->pages(0) as $rows) {
            foreach ($this->partners($rows, $left) as $number => $partners) {
                $this->arithmetic->partners($number, count($partners ?? []), $partners === null);
                foreach ($partners ?? [] as $partner) {
                    $used[$partner >> 3] = chr(ord($used[$partner >> 3]) | (1 << ($partner & 7)));
                }
            }
        }
        $bits = 0;
        foreach (count_chars($used, 1) as $byte => $n) {
            $bits += substr_count(decbin($byte), '1') * $n;
        }
        $this->arithmetic->unused = $all - $bits;
    }

    /** @return \Generator<RawRow> */
    private function stacked(): \Generator
    {
        $headers = array_slice(array_column($this->columns()->toArray(), 'header'), 1);
        foreach ($this->extracts as $i => $extract) {
            $at = $extract->tidyColumns()->byHeader();
            foreach ($this->pages($i) as $rows) {
                foreach ($rows as $number => $cells) {
                    $this->arithmetic->rows++;
                    yield new RawRow($number, [
                        $this->format->of[$i],
                        ...array_map(fn ($h) => isset($at[$h]) ? $cells[$at[$h]] ?? null : null, $headers),
                    ]);
                }
            }
        }
    }

    /** @return \Generator<RawRow> */
    private function sideBySide(): \Generator
    {
        $counts = array_map(fn (Extract $e) => (int) $e->take?->rows, $this->extracts);
        $widths = array_map(fn (Extract $e) => count($e->columns ?? []), $this->extracts);
        $this->arithmetic->rows = max($counts);
        $this->arithmetic->alone = max(0, $counts[0] - $counts[1]);
        $this->arithmetic->unused = max(0, $counts[1] - $counts[0]);
        for ($after = 0; $after < max($counts); $after += self::PAGE) {
            // The first beside the first, as their files have them, whatever numbers they have.
            $pages = array_map(fn (StagedRows $s) => array_values($s->inFile($after, self::PAGE)), $this->staged);
            for ($n = 0; $n < min(self::PAGE, max($counts) - $after); $n++) {
                $cells = [];
                foreach ($widths as $i => $width) {
                    array_push($cells, ...array_slice(array_pad($pages[$i][$n] ?? [], $width, null), 0, $width));
                }
                yield new RawRow($after + $n + 1, $cells);
            }
        }
    }

    /** @return \Generator<RawRow> */
    private function distinct(): \Generator
    {
        $positions = $this->positions(0, $this->format->columns);
        $this->arithmetic->blank = (int) $this->extracts[0]->take?->rows - $this->hash(0, $positions);
        DB::statement(
            'CREATE OR REPLACE TEMPORARY TABLE feed_values (row_no INT UNSIGNED PRIMARY KEY, n INT UNSIGNED NOT '
                .'NULL) ENGINE=InnoDB SELECT MIN(row_no) AS row_no, COUNT(*) AS n FROM value_hashes WHERE side = 1 GROUP BY key_hash',
        );
        $this->arithmetic->rows = (int) DB::scalar('SELECT COUNT(*) FROM feed_values');
        $this->arithmetic->repeated = (int) $this->extracts[0]->take?->rows - $this->arithmetic->rows;
        for ($after = 0; ;) {
            $firsts = array_column(
                DB::select('SELECT row_no, n FROM feed_values WHERE row_no > ? ORDER BY row_no LIMIT '.self::PAGE, [
                    $after,
                ]),
                'n',
                'row_no',
            );
            if ($firsts === []) {
                break;
            }
            foreach ($this->staged[0]->numbered(array_keys($firsts)) as $number => $cells) {
                yield new RawRow($number, [
                    ...array_map(fn ($i) => $cells[$i] ?? null, $positions),
                    (string) $firsts[$number],
                ]);
            }
            $after = (int) array_key_last($firsts);
        }
        DB::statement('DROP TEMPORARY TABLE feed_values');
    }

    /** @return \Generator<array<int, list<string|null>>> */
    private function pages(int $extract): \Generator
    {
        for (
            $after = 0;
            ($rows = $this->staged[$extract]->after($after, self::PAGE)) !== [];
            $after = (int) array_key_last($rows)
        ) {
            yield $rows;
        }
    }

    /**
     * Writes the hashes of an extract's keys.
     *
     * @param  list<int>  $positions
     * @return int rows that have one
     */
    private function hash(int $extract, array $positions): int
    {
        $this->hashes = ValueHashes::begin();
        $all = 0;
        foreach ($this->pages($extract) as $rows) {
            $lines = '';
            $n = 0;
            foreach ($rows as $number => $cells) {
                $hash = $this->comparison->hash(array_map(fn ($i) => $cells[$i] ?? null, $positions));
                if ($hash !== null) {
                    $lines .= ValueHashes::line(1, $hash, $number);
                    $n++;
                }
            }
            $this->hashes->load($lines, $n);
            $all += $n;
        }
        $this->hashes->index();

        return $all;
    }

    /**
     * @param  array<int, list<string|null>>  $rows
     * @param  list<int>  $positions
     * @return array<int, list<int>|null> row → rows of the second extract with the same key; null when its key is blank
     */
    private function partners(array $rows, array $positions): array
    {
        $hashes = $partners = [];
        foreach ($rows as $number => $cells) {
            $hashes[$number] = $this->comparison->hash(array_map(fn ($i) => $cells[$i] ?? null, $positions));
        }
        $wanted = array_values(array_unique(array_filter($hashes)));
        $found = [];
        if ($wanted !== []) {
            foreach (
                DB::select(
                    'SELECT LOWER(HEX(key_hash)) AS hash, row_no FROM value_hashes WHERE side = 1 AND key_hash IN ('
                        .implode(',', array_map(fn ($p) => "x'$p'", $wanted)).') ORDER BY row_no',
                ) as $row
            ) {
                $found[$row->hash][] = (int) $row->row_no;
            }
        }
        foreach ($hashes as $number => $hash) {
            $partners[$number] = $hash === null ? null : $found[$hash] ?? [];
        }

        return $partners;
    }

    /** @return array{list<int>, list<int>} */
    private function joinPositions(): array
    {
        return [
            $this->positions(0, array_map(strval(...), array_keys($this->format->on))),
            $this->positions(1, array_values($this->format->on)),
        ];
    }

    /**
     * @param  list<string>  $names
     * @return list<int>
     */
    private function positions(int $extract, array $names): array
    {
        return array_map(
            fn (string $name) => $this->extracts[$extract]->tidyColumns()->find($name)->position
                ?? throw ReadingError::broken("{$this->format->of[$extract]} has no column \"$name\"."),
            $names,
        );
    }
}
