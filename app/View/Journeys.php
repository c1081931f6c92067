<?php

namespace App\View;

use App\Ledger\LedgerReader;
use App\Ledger\Links;
use App\Ledger\Spaces;
use App\Models\Correction;
use App\Models\Load;
use App\Staging\StagedRows;
use Baggage\Core\Mapping\DefinitionError;

/** Collects everything that is known of one row. */
final class Journeys
{
    public function __construct(private readonly Page $page)
    {
    }

    /** @return array<string, mixed>|null */
    public function of(Load $load, int $row): ?array
    {
        [, $staged] = StagedRows::asRead((int) $load->extract->take_id, [$row])[0] ?? [0, null];
        if ($staged === null) {
            return null;
        }
        $cells = $staged->cells;
        $corrections = Correction::query()
            ->where('extract_id', $load->extract_id)
            ->where('row_no', $row)
            ->with('user')
            ->get();
        $corrected = $cells;
        $columns = $load->extract->tidyColumns();
        foreach ($corrections as $c) {
            $at = $columns->byHeader()[$c->header] ?? null;
            if ($at !== null && ($cells[$at] ?? null) === $c->old_value) {
                $corrected[$at] = $c->new_value;
            }
        }

        return [
            'load' => $load,
            'row' => $row,
            'line' => $staged->line,
            'cells' => $cells,
            'corrected' => $corrected,
            'columns' => $columns,
            'corrections' => $corrections,
        ] + $this->mapped($load, $corrected) + $this->recorded($load, $row);
    }

    /**
     * @param  list<string|null>  $cells
     * @return array{fields: array<string, array<string, mixed>>, problem: string|null}
     */
    private function mapped(Load $load, array $cells): array
    {
        $fields = [];
        try {
            $mapper = $this->page->definitions->mapper($load);
            foreach ($mapper->rules() as $field => $rule) {
                $fields[$field] = ['rule' => $rule->expression, 'value' => $mapper->field($field, $cells)];
            }
        } catch (DefinitionError $e) {
            return ['fields' => $fields, 'problem' => $e->getMessage()];
        }

        return ['fields' => $fields, 'problem' => null];
    }

    /** @return array<string, mixed> what the ledger has of it, now and before */
    private function recorded(Load $load, int $row): array
    {
        $now = LedgerReader::now($load, $row);
        $current = collect($now)->firstWhere('round_id', $this->page->round?->id);
        $ledger = $this->page->round === null ? null : new LedgerReader($this->page->round);

        return [
            'now' => $now,
            'before' => LedgerReader::before($load, $row),
            'current' => $current,
            'links' => $this->page->round === null ? [] : (new Links($this->page->round->laneId()))->of($load, $row),
            'parent' => $ledger === null || $current === null ? null : $this->parent($ledger, $current),
        ];
    }

    /** The line of the parent a held row waits for. */
    private function parent(LedgerReader $ledger, \stdClass $held): ?\stdClass
    {
        return $held->parent_entity === null ? null : $ledger->line(
            Spaces::of($this->page->migration)->find($held->parent_entity, (string) $held->parent_space) ?? 0,
            $held->parent_key,
        );
    }
}
