<?php

namespace App\Mapping;

use App\Catalogue\Definitions;
use App\Catalogue\KnownReferences;
use App\Models\ColumnReference;
use App\Models\Load;
use App\Models\ReferenceDecision;
use App\Staging\ColumnValues;
use Baggage\Core\Mapping\Evidence;
use Baggage\Core\Mapping\Known;
use Baggage\Core\Mapping\ListEvidence;
use Baggage\Core\Reading\Column;
use Baggage\Core\Targets\Field;
use Illuminate\Support\Collection;

/** What is known of the columns a load reads, asked for once: which lead to other extracts, and which values the short ones hold. */
final class KnownColumns implements Known
{
    /** A column with more values is no list. */
    private const LIST = 300;

    /** Values read in all, those of the shortest columns first. */
    private const MOST = 20_000;

    /** @var Collection<int, ColumnReference>|null */
    private ?Collection $references = null;

    /** @var array<int, list<string>>|null extract → entities */
    private ?array $fills = null;

    /** @var array<int, array<array-key, int>>|null position → value → rows */
    private ?array $values = null;

    /** @param  list<array<string, mixed>>  $profile  of the take, by column */
    public function __construct(
        private readonly Definitions $definitions,
        private readonly Load $load,
        private readonly array $profile,
    ) {
    }

    public function reference(Field $field, Column $column): ?Evidence
    {
        $this->references ??= ColumnReference::query()
            ->where('extract_id', $this->load->extract_id)
            ->where('decision', '<>', ReferenceDecision::Dismissed)
            ->with('parent')
            ->get()
            ->toBase();
        $best = null;
        foreach ($this->references as $reference) {
            if (! in_array($column->header, $reference->columns, true)) {
                continue;
            }
            $fills = $this->entitiesOf($reference->parent_extract_id);
            // Where the parent becomes something else, the field does not hold its key.
            if ($fills !== [] && ! in_array($field->refers, $fills, true)) {
                continue;
            }
            $isAccepted = $reference->decision === ReferenceDecision::Accepted;
            $weight = ($fills === [] ? 0.3 : 0.75) * ($isAccepted ? 1 : 0.7);
            if ($best === null || $weight > $best->weight) {
                [$found, $all] = [number_format($reference->values_found), number_format($reference->values_total)];
                $why = "$found of its $all values are keys of {$reference->parent->name}".($isAccepted ? ', as accepted' : '');
                $best = new Evidence(KnownReferences::rule($this->load, $column->name), $why, $weight);
            }
        }

        return $best;
    }

    /** @return list<string> entities that loads of an extract fill */
    private function entitiesOf(int $extract): array
    {
        $this->fills ??= $this->definitions->loads()->groupBy('extract_id')->map(
            fn ($loads) => array_values($loads->map(fn (Load $l) => $l->entity->name)->unique()->all()),
        )->all();

        return $this->fills[$extract] ?? [];
    }

    /** The column's own values when they are allowed as they are, otherwise a code crosswalk that knows them, or one to be made. */
    public function list(Field $field, array $allowed, Column $column): ?Evidence
    {
        $values = array_map(fn ($v) => trim((string) $v), array_keys($this->values()[$column->position] ?? []));
        $values = array_values(array_filter($values, fn (string $v) => $v !== ''));
        $as = ListEvidence::of($column, $allowed, $values, "{$this->load->entity->name} $field->name");
        // One that is there already and knows the values is better than one to be made.
        $known = $as === null || str_starts_with($as->rule, 'code(') ? $this->crosswalk($column, $allowed) : null;

        return $known ?? $as;
    }

    /**
     * The code crosswalk that knows most values of a column, and gives values that are allowed.
     *
     * @param  list<string>  $allowed
     */
    private function crosswalk(Column $column, array $allowed): ?Evidence
    {
        $values = $this->values()[$column->position] ?? [];
        $best = null;
        $most = 0;
        foreach ($this->definitions->codes() as $name => $crosswalk) {
            $gives = fn ($v) => $crosswalk->knows((string) $v) && in_array($crosswalk->newValue((string) $v), $allowed, true);
            $known = array_sum(array_filter($values, $gives, ARRAY_FILTER_USE_KEY));
            if ($known > $most && $known * 2 > array_sum($values)) {
                [$best, $most] = [$name, $known];
            }
        }

        return $best === null ? null : new Evidence(
            'code(\''.addcslashes($best, "'\\")."', $column->name)",
            'the code crosswalk knows its values in '.number_format($most).' of '.number_format(array_sum($values)).' rows',
            0.6,
        );
    }

    public function isLegacyKey(Column $column): bool
    {
        return count($this->load->key_columns) === 1 && in_array($this->load->key_columns[0], [$column->name, $column->header], true);
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
