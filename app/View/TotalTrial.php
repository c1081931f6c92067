<?php

namespace App\View;

use App\Mapping\RuleSheet;
use App\Models\Load;
use App\Reckoning\ControlTotals;
use App\Staging\StagedRows;
use Baggage\Core\Crosswalks\ParentKey;
use Baggage\Core\Expressions\Compiler;
use Baggage\Core\Expressions\ExpressionError;
use Baggage\Core\Expressions\Rule;
use Baggage\Core\Expressions\RuleFailure;
use Baggage\Core\Reconciling\Amount;
use Baggage\Core\Reconciling\ControlTotal;

/** A control total that is being written, tried on a few rows of its loads. */
final readonly class TotalTrial
{
    public function __construct(private Page $page)
    {
    }

    /** @return array{problem: string|null, loads: list<array{name: string, error: string|null, rows: list<array<string, mixed>>}>} */
    public function of(ControlTotal $total, ?int $kept): array
    {
        $loads = $this->page->migration->loads()->with(['entity', 'extract.source', 'extract.take'])->get();
        $tried = [];
        foreach ($loads as $load) {
            if ($total->isOf($load->name, $load->entity->name)) {
                $tried[] = ['name' => $load->name] + $this->load($load, $total);
            }
        }

        return ['problem' => ControlTotals::problem($this->page->migration, $total, $kept), 'loads' => $tried];
    }

    /** @return array{error: string|null, rows: list<array<string, mixed>>} */
    private function load(Load $load, ControlTotal $total): array
    {
        $field = $load->entity->described()->fields[$total->field] ?? null;
        $columns = $load->extract->tidyColumns();
        try {
            $compiler = new Compiler($columns);
            $legacy = $compiler->compile((string) $total->legacyOf($load->name));
            $group = $total->groupOf($load->name) === null ? null : $compiler->compile((string) $total->groupOf($load->name));
        } catch (ExpressionError $e) {
            return ['error' => $e->getMessage(), 'rows' => []];
        }
        $amount = $field === null ? null : new Amount($total->kind, $field);
        $rows = [];
        foreach (StagedRows::ofLoad($load)->numbered(RuleSheet::rows($load, null)) as $row => $cells) {
            $cells = array_pad($cells, count($columns->all), null);
            $rows[] = ['row' => $row, 'before' => array_map(fn (int $i) => $cells[$i] ?? null, array_slice($legacy->columns, 0, 3))]
                + self::tried($this->apply($load, $legacy, $cells), $this->apply($load, $group, $cells), $amount);
        }

        return ['error' => null, 'rows' => $rows];
    }

    /** @param  list<string|null>  $cells */
    private function apply(Load $load, ?Rule $rule, array $cells): mixed
    {
        try {
            return $rule?->apply($cells, $this->page->definitions->context($load));
        } catch (RuleFailure $e) {
            return $e;
        }
    }

    /** @return array{counts: string|null, why: string|null, group: string|null} */
    private static function tried(mixed $value, mixed $group, ?Amount $amount): array
    {
        return [
            'counts' => match (true) {
                $value instanceof ParentKey => (string) $value,
                $value instanceof RuleFailure => null,
                default => $amount?->of($value),
            },
            'why' => $value instanceof RuleFailure ? $value->getMessage() : null,
            'group' => match (true) {
                $group instanceof RuleFailure => $group->getMessage(),
                is_scalar($group), $group instanceof ParentKey => (string) $group,
                default => null,
            },
        ];
    }
}
