<?php

namespace App\Reckoning;

use App\Support\BulkRows;
use Baggage\Core\Reconciling\Amount;
use Baggage\Core\Reconciling\ControlTotal;
use Baggage\Core\Reconciling\Figures;
use Baggage\Core\Reconciling\TotalCount;
use Baggage\Core\Reconciling\TotalKind;
use Baggage\Core\Reconciling\TotalStore;
use Illuminate\Support\Facades\DB;

/** Writes what a reckoning finds that may be more than fits in memory: groups of totals, values, and rows that differ. */
final class TotalBook implements TotalStore
{
    /** Rows kept of each total, the largest differences; of a comparison of each kind of difference. */
    public const MOST = 10_000;

    private const AT_ONCE = 1_000;

    /** Characters of a value that are kept. */
    private const VALUE = 1_000;

    /** Below every difference: rows that differ and come to the same together. */
    private const EVEN = 1e-9;

    private const SIDES = ['legacy' => 0, 'target' => 1, self::BOTH => 2];

    private const GROUP = '(reckoning_id, total, name, figures, weight)';

    /** Different values where there are none. */
    private const NONE = ['legacy' => '0', 'target' => '0'];

    /** @var array<int, array{ControlTotal, Amount}> by number of the total */
    private array $totals = [];

    private string $rows = '';

    private int $pending = 0;

    /** @var array<array-key, int> total, or field and class → rows kept */
    private array $kept = [];

    private string $values = '';

    private bool $hasValues = false;

    public function __construct(private readonly int $reckoning)
    {
    }

    public function about(int $number, ControlTotal $total, Amount $amount): void
    {
        if ($this->totals === []) {
            // Filled without its index, which is made once all is there.
            DB::statement('CREATE OR REPLACE TEMPORARY TABLE group_parts (id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
                total INT UNSIGNED NOT NULL, name VARCHAR(190) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL,
                figures TEXT NOT NULL, KEY by_name (total, name, id)) ENGINE=MyISAM');
            DB::statement('ALTER TABLE group_parts DISABLE KEYS');
        }
        $this->totals[$number] = [$total, $amount];
        if ($total->kind === TotalKind::Distinct && ! $this->hasValues) {
            DB::statement('CREATE OR REPLACE TEMPORARY TABLE distinct_values (total INT UNSIGNED NOT NULL, side TINYINT NOT NULL,
                name BINARY(16) NOT NULL, value BINARY(16) NOT NULL) ENGINE=MyISAM');
            $this->hasValues = true;
        }
    }

    public function groups(int $total, array $groups): void
    {
        $lines = '';
        foreach ($groups as $name => $figures) {
            $json = json_encode($figures->toArray(), JSON_THROW_ON_ERROR | JSON_INVALID_UTF8_SUBSTITUTE);
            $lines .= BulkRows::line([$total, mb_scrub((string) $name), $json]);
        }
        BulkRows::load(DB::connection(), 'group_parts', '(total, name, figures)', $lines, count($groups));
    }

    /** @return list<string|int> a line of total_groups */
    private function group(int $number, string $name, Figures $figures): array
    {
        $total = $this->totals[$number][0];
        $difference = $figures->difference($total->kind);
        $weight = $figures->holds($total->kind, $total->tolerance) ? 0.0 : max(self::EVEN, abs((float) ($difference ?? 1)));
        if ($total->parentField !== null && ! $figures->foots($total->tolerance)) {
            $weight = max($weight, abs((float) $figures->crossTarget()));
        }

        return [
            $this->reckoning, $number, $name, json_encode($figures->toArray(), JSON_THROW_ON_ERROR | JSON_INVALID_UTF8_SUBSTITUTE),
            (string) ($weight === 0.0 && $figures->differ > 0 ? self::EVEN / 2 : $weight),
        ];
    }

    public function value(int $total, string $side, string $group, string $value): void
    {
        $this->values .= $total."\t".self::SIDES[$side]."\t".hash('xxh128', $group)."\t".hash('xxh128', $value)."\n";
        if (strlen($this->values) > 1_000_000) {
            $this->putValues();
        }
    }

    private function putValues(): void
    {
        $columns = '(total, side, @n, @v) SET name = UNHEX(@n), value = UNHEX(@v)';
        BulkRows::load(DB::connection(), 'distinct_values', $columns, $this->values, substr_count($this->values, "\n"));
        $this->values = '';
    }

    public function differs(int $total, int $load, int $row, string $group, ?string $legacy, ?string $target): void
    {
        $amount = $this->totals[$total][1];
        $isNumber = fn (?string $v) => $v !== null && is_numeric($v);
        $weight = match (true) {
            $isNumber($legacy) && $isNumber($target) => abs((float) $target - (float) $legacy),
            $isNumber($legacy) => abs((float) $legacy),
            $isNumber($target) => abs((float) $target),
            default => 1.0,
        };
        $this->put($total, [$this->reckoning, $total, $load, $row, $group, '', '', $legacy, $target], $weight);
        if ($this->kept[$total] > 2 * self::MOST) {
            $this->letSmallestGo($total);
        }
    }

    /** A field of a record that says something else than was sent. */
    public function compared(int $load, int $row, string $field, string $class, string $happened, ?string $sent, ?string $is): void
    {
        $of = "$load $field $class $happened";
        if (($this->kept[$of] ?? 0) < self::MOST) {
            $this->put($of, [$this->reckoning, 0, $load, $row, $field, $class, $happened, $sent, $is], 0.0);
        }
    }

    /** @param  list<string|int|null>  $line */
    private function put(int|string $of, array $line, float $weight): void
    {
        $line = array_map(fn ($v) => is_string($v) ? mb_substr(mb_scrub($v), 0, self::VALUE) : $v, $line);
        $this->rows .= BulkRows::line([...$line, (string) $weight]);
        $this->kept[$of] = ($this->kept[$of] ?? 0) + 1;
        if (++$this->pending === self::AT_ONCE) {
            $this->flush();
        }
    }

    public function flush(): void
    {
        $columns = '(reckoning_id, total, load_id, item, name, class, happened, legacy, target, weight)';
        BulkRows::load(DB::connection(), 'differing_rows', $columns, $this->rows, $this->pending);
        [$this->rows, $this->pending] = ['', 0];
    }

    private function letSmallestGo(int $total): void
    {
        $this->flush();
        $least = DB::table('differing_rows')->where('reckoning_id', $this->reckoning)->where('total', $total)
            ->orderByDesc('weight')->orderByDesc('number')->offset(self::MOST - 1)->limit(1)->get(['weight', 'number'])->first();
        if ($least !== null) {
            DB::delete('DELETE FROM differing_rows WHERE reckoning_id = ? AND total = ? AND (weight < ? OR (weight = ? AND number < ?))', [
                $this->reckoning, $total, $least->weight, $least->weight, $least->number,
            ]);
        }
        $this->kept[$total] = self::MOST;
    }

    /**
     * All is counted: groups are put together, and what has to be seen whole is put to the totals.
     *
     * @param  list<TotalCount>  $counts
     * @return array<int, array{int, int}> total → groups that do not hold, and those whose children do not add up to the field of their
     *                                     parent
     */
    public function finish(array $counts): array
    {
        array_map(fn (TotalCount $c) => $c->flush(), $counts);
        $this->flush();
        $this->hasValues ? $this->putValues() : null;
        DB::statement('ALTER TABLE group_parts ENABLE KEYS');
        $broken = [];
        foreach ($counts as $count) {
            $numbers = $count->total->kind === TotalKind::Distinct ? $this->numbers($count->number) : null;
            $broken[$count->number] = $this->together($count, $numbers);
            if ($numbers !== null) {
                $count->whole->extremes = $numbers[''] + self::NONE;
            }
        }

        return $broken;
    }

    /** @return array<string, array<string, string>> hash of a group, '' for the whole → different values on each side */
    private function numbers(int $total): array
    {
        $numbers = ['' => []];
        $of = 'COUNT(DISTINCT CASE WHEN side <> 1 THEN value END) AS legacy, COUNT(DISTINCT CASE WHEN side <> 0 THEN value END) AS target
            FROM distinct_values WHERE total = ?';
        foreach ([
            ...DB::select("SELECT LOWER(HEX(name)) AS name, $of GROUP BY name", [$total]),
            ...DB::select("SELECT '' AS name, $of", [$total]),
        ] as $line) {
            $numbers[$line->name] = ['legacy' => (string) $line->legacy, 'target' => (string) $line->target];
        }

        return $numbers;
    }

    /**
     * Parts of groups, read in the order of their names.
     *
     * @param  array<string, array<string, string>>|null  $numbers
     * @return array{int, int}
     */
    private function together(TotalCount $count, ?array $numbers): array
    {
        $broken = [0, 0];
        $lines = '';
        $n = 0;
        foreach ($this->merged($count) as $name => $figures) {
            if ($numbers !== null) {
                $figures->extremes = ($numbers[hash('xxh128', (string) $name)] ?? []) + self::NONE;
            }
            $count->join($figures);
            $broken[0] += $figures->holds($count->total->kind, $count->total->tolerance) ? 0 : 1;
            $broken[1] += $count->total->parentField === null || $figures->foots($count->total->tolerance) ? 0 : 1;
            $lines .= BulkRows::line($this->group($count->number, (string) $name, $figures));
            if (++$n === self::AT_ONCE) {
                BulkRows::load(DB::connection(), 'total_groups', self::GROUP, $lines, $n);
                [$lines, $n] = ['', 0];
            }
        }
        BulkRows::load(DB::connection(), 'total_groups', self::GROUP, $lines, $n);

        return $broken;
    }

    /** @return \Generator<string, Figures> each group by its name */
    private function merged(TotalCount $count): \Generator
    {
        $name = '';
        $whole = null;
        foreach ($this->parts($count->number) as [$of, $json]) {
            $part = Figures::fromArray(json_decode($json, true, 8, JSON_THROW_ON_ERROR));
            if ($whole !== null && $of === $name) {
                $whole->merge($part, $count->amount, $count->total->kind);

                continue;
            }
            if ($whole !== null) {
                yield $name => $whole;
            }
            [$name, $whole] = [$of, $part];
        }
        if ($whole !== null) {
            yield $name => $whole;
        }
    }

    /** @return \Generator<array{string, string}> name and figures */
    private function parts(int $total): \Generator
    {
        $pdo = DB::connection()->getPdo();
        for ($after = ['', 0]; ; $after = [$last[1], (int) $last[0]]) {
            $from = $pdo->quote($after[0]);
            $found = $pdo->query("SELECT id, name, figures FROM group_parts FORCE INDEX (by_name) WHERE total = $total
                AND (name > $from OR (name = $from AND id > $after[1])) ORDER BY name, id LIMIT ".self::AT_ONCE);
            $page = $found === false ? [] : $found->fetchAll(\PDO::FETCH_NUM);
            if ($page === []) {
                return;
            }
            foreach ($page as $last) {
                yield [(string) $last[1], (string) $last[2]];
            }
        }
    }
}
