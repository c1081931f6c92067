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
        $this->totals[$number] = [$total, $amount];
        if ($total->kind === TotalKind::Distinct && ! $this->hasValues) {
            DB::statement('CREATE OR REPLACE TEMPORARY TABLE distinct_values (total INT UNSIGNED NOT NULL, side TINYINT NOT NULL,
                name BINARY(16) NOT NULL, value BINARY(16) NOT NULL, PRIMARY KEY (total, side, name, value)) ENGINE=InnoDB');
            $this->hasValues = true;
        }
    }

    public function groups(int $total, array $groups): void
    {
        [$of, $amount] = $this->totals[$total];
        foreach (array_chunk($groups, self::AT_ONCE, true) as $some) {
            $known = DB::table('total_groups')->where('reckoning_id', $this->reckoning)->where('total', $total)
                ->whereIn('name', array_map(strval(...), array_keys($some)))->pluck('figures', 'name')->all();
            $lines = [];
            foreach ($some as $name => $figures) {
                if (isset($known[$name])) {
                    $before = Figures::fromArray(json_decode($known[$name], true, 8, JSON_THROW_ON_ERROR));
                    $before->merge($figures, $amount, $of->kind);
                    $figures = $before;
                }
                $lines[] = $this->group($total, (string) $name, $figures);
            }
            DB::table('total_groups')->upsert($lines, ['reckoning_id', 'total', 'name'], ['figures', 'weight']);
        }
    }

    /** @return array{reckoning_id: int, total: int, name: string, figures: string, weight: float} */
    private function group(int $number, string $name, Figures $figures): array
    {
        $total = $this->totals[$number][0];
        $difference = $figures->difference($total->kind);
        $weight = $figures->holds($total->kind, $total->tolerance) ? 0.0 : max(self::EVEN, abs((float) ($difference ?? 1)));
        if ($total->parentField !== null && ! $figures->foots($total->tolerance)) {
            $weight = max($weight, abs((float) $figures->crossTarget()));
        }

        return [
            'reckoning_id' => $this->reckoning, 'total' => $number, 'name' => $name,
            'figures' => json_encode($figures->toArray(), JSON_THROW_ON_ERROR | JSON_INVALID_UTF8_SUBSTITUTE),
            'weight' => $weight === 0.0 && $figures->differ > 0 ? self::EVEN / 2 : $weight,
        ];
    }

    public function value(int $total, string $side, string $group, string $value): void
    {
        $this->values .= $total."\t".($side === 'target' ? 1 : 0)."\t".hash('xxh128', $group)."\t".hash('xxh128', $value)."\n";
        if (strlen($this->values) > 1_000_000) {
            $this->putValues();
        }
    }

    private function putValues(): void
    {
        $columns = '(total, side, @n, @v) SET name = UNHEX(@n), value = UNHEX(@v)';
        BulkRows::loadNew(DB::connection(), 'distinct_values', $columns, $this->values);
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

    /** All is counted: what has to be seen whole is put to the totals. */
    public function finish(TotalCount $count): void
    {
        $count->flush();
        $this->flush();
        if ($count->total->kind !== TotalKind::Distinct) {
            return;
        }
        $this->putValues();
        $found = DB::select('SELECT side, LOWER(HEX(name)) AS name, COUNT(*) AS n FROM distinct_values WHERE total = ? GROUP BY side, name', [
            $count->number,
        ]);
        $numbers = [];
        foreach ($found as $line) {
            $numbers[$line->name][$line->side === 1 ? 'target' : 'legacy'] = (string) $line->n;
        }
        $none = ['legacy' => '0', 'target' => '0'];
        $count->whole->extremes = ($numbers[hash('xxh128', '')] ?? []) + $none;
        for ($after = null; ($groups = $this->page($count->number, $after)) !== []; $after = (string) array_key_last($groups)) {
            $lines = [];
            foreach ($groups as $name => $figures) {
                $figures->extremes = ($numbers[hash('xxh128', (string) $name)] ?? []) + $none;
                $lines[] = $this->group($count->number, (string) $name, $figures);
            }
            DB::table('total_groups')->upsert($lines, ['reckoning_id', 'total', 'name'], ['figures', 'weight']);
        }
    }

    /** @return array<array-key, Figures> by name, in their order */
    private function page(int $total, ?string $after): array
    {
        return DB::table('total_groups')->where('reckoning_id', $this->reckoning)->where('total', $total)
            ->when($after !== null, fn ($q) => $q->where('name', '>', $after))
            ->orderBy('name')->limit(self::AT_ONCE)->pluck('figures', 'name')
            ->map(fn (string $json) => Figures::fromArray(json_decode($json, true, 8, JSON_THROW_ON_ERROR)))->all();
    }

    /** @return array{int, int} groups that do not hold, and those whose children do not add up to the field of their parent */
    public function broken(TotalCount $count): array
    {
        $differ = $foots = 0;
        for ($after = null; ($groups = $this->page($count->number, $after)) !== []; $after = (string) array_key_last($groups)) {
            foreach ($groups as $figures) {
                $differ += $figures->holds($count->total->kind, $count->total->tolerance) ? 0 : 1;
                $foots += $count->total->parentField === null || $figures->foots($count->total->tolerance) ? 0 : 1;
            }
        }

        return [$differ, $foots];
    }
}
