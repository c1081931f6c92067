<?php

namespace App\View;

use App\Models\Correction;
use App\Models\Load;
use Baggage\Core\Mapping\DefinitionError;
use Illuminate\Support\Facades\DB;

/** Collects everything that is known of one row. */
final class Journeys
{
    public function __construct(private readonly Page $page)
    {
    }

    /** @return array<string, mixed>|null */
    public function of(Load $load, int $row): ?array
    {
        $staged = DB::table('staged_rows')
            ->where('take_id', $load->extract->take_id)
            ->where('row_no', $row)
            ->first(['line', 'cells']);
        if ($staged === null) {
            return null;
        }
        $cells = json_decode($staged->cells, true);
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
        $fields = [];
        $problem = null;
        try {
            $mapper = $this->page->definitions->mapper($load);
            foreach ($mapper->rules() as $field => $rule) {
                $fields[$field] = ['rule' => $rule->expression, 'value' => $mapper->field($field, $corrected)];
            }
        } catch (DefinitionError $e) {
            $problem = $e->getMessage();
        }
        $now = DB::select(
            'SELECT o.*, r.name AS round, p.number AS pass, c.message, c.field, c.value, c.stage, c.parent_entity,
                c.parent_source, c.parent_key
            FROM outcomes o JOIN rounds r ON r.id = o.round_id JOIN passes p ON p.id = o.pass_id LEFT JOIN causes c ON c.id = o.cause_id
            WHERE o.round_id IN (SELECT id FROM rounds WHERE migration_id = ?) AND o.load_id = ? AND o.row_no = ? ORDER BY o.round_id DESC',
            [$this->page->migration->id, $load->id, $row],
        );
        $before = DB::select(
            'SELECT o.*, r.name AS round, p.number AS pass, c.message, c.field, c.value, c.stage
            FROM outcome_log o JOIN rounds r ON r.id = o.round_id JOIN passes p ON p.id = o.pass_id LEFT JOIN causes c ON c.id = o.cause_id
            WHERE o.round_id IN (SELECT id FROM rounds WHERE migration_id = ?) AND o.load_id = ? AND o.row_no = ? ORDER BY o.id DESC',
            [$this->page->migration->id, $load->id, $row],
        );
        $current = collect($now)->firstWhere('round_id', $this->page->round?->id);
        $links = $this->page->round === null
            ? []
            : DB::select(
                'SELECT field, parent_key, state FROM links WHERE round_id = ? AND load_id = ? AND row_no = ?',
                [$this->page->round->id, $load->id, $row],
            );
        $parent = null;
        if ($current !== null && $current->parent_entity !== null) {
            $parent = DB::table('outcomes')
                ->where('round_id', $current->round_id)
                ->where('entity_id', $this->page->definitions->entityIds()[$current->parent_entity] ?? 0)
                ->where('source_id', $this->page->definitions->sourceIds()[$current->parent_source] ?? 0)
                ->where('legacy_key', $current->parent_key)
                ->first();
        }

        return [
            'load' => $load,
            'row' => $row,
            'line' => (int) $staged->line,
            'cells' => $cells,
            'corrected' => $corrected,
            'columns' => $columns,
            'corrections' => $corrections,
            'fields' => $fields,
            'problem' => $problem,
            'now' => $now,
            'before' => $before,
            'current' => $current,
            'links' => $links,
            'parent' => $parent,
        ];
    }
}
