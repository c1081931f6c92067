<?php

namespace App\Mapping;

use App\Catalogue\Definitions;
use App\Catalogue\KnownReferences;
use App\Models\ColumnReference;
use App\Models\Load;
use App\Models\ReferenceDecision;
use App\Staging\ColumnValues;
use Baggage\Core\Reading\Column;
use Baggage\Core\Targets\Field;
use Illuminate\Support\Collection;

/** What is known of the columns a load reads, asked for once: which lead to other extracts, and which values the short ones hold. */
final class KnownColumns
{
    /** A column with more values is no list. */
    private const LIST = 300;

    /** Values read in all, those of the shortest columns first. */
    private const MOST = 20_000;

    /** @var Collection<int, ColumnReference>|null */
    private ?Collection $references = null;

    /** @var array<int, array<array-key, int>>|null position → value → rows */
    private ?array $values = null;

    /** @param  list<array<string, mixed>>  $profile  of the take, by column */
    public function __construct(
        private readonly Definitions $definitions,
        private readonly Load $load,
        private readonly array $profile,
    ) {
    }

    /** The rule for a column that leads to another extract. */
    public function reference(Column $column): ?string
    {
        $this->references ??= ColumnReference::query()
            ->where('extract_id', $this->load->extract_id)
            ->where('decision', '<>', ReferenceDecision::Dismissed)
            ->get()
            ->toBase();
        foreach ($this->references as $reference) {
            if (in_array($column->header, $reference->columns, true)) {
                return KnownReferences::rule($this->load, $column->name);
            }
        }

        return null;
    }

    /**
     * A list of allowed values: the column's own when they are allowed as they are, otherwise the code crosswalk that
     * knows most of them.
     */
    public function list(Field $field, Column $column): ?string
    {
        $values = $this->values()[$column->position] ?? [];
        if ($values === []) {
            return null;
        }
        $allowed = $field->type->toArray()['values'] ?? [];
        if (array_diff(array_map(fn ($v) => trim((string) $v), array_keys($values)), $allowed) === []) {
            return "trim($column->name)";
        }
        $best = null;
        $most = 0;
        foreach ($this->definitions->codes() as $name => $crosswalk) {
            $known = array_sum(array_filter($values, fn ($v) => $crosswalk->knows((string) $v), ARRAY_FILTER_USE_KEY));
            if ($known > $most && $known * 2 > array_sum($values)) {
                [$best, $most] = [$name, $known];
            }
        }

        return $best === null ? null : 'code(\''.addcslashes($best, "'\\")."', $column->name)";
    }

    /** @return array<int, array<array-key, int>> */
    private function values(): array
    {
        if ($this->values !== null) {
            return $this->values;
        }
        $distinct = array_map(fn (array $f) => (int) ($f['distinct'] ?? 0), $this->profile);
        $short = array_filter($distinct, fn (int $n) => $n > 0 && $n <= self::LIST);
        asort($short);
        $columns = [];
        $sum = 0;
        foreach ($short as $position => $n) {
            $sum += $n;
            if ($sum <= self::MOST) {
                $columns[] = (int) $position;
            }
        }

        return $this->values = ColumnValues::of((int) $this->load->extract->take_id, $columns);
    }
}
