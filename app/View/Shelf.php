<?php

namespace App\View;

use App\Catalogue\Definitions;
use App\Models\ColumnDecision;
use App\Models\Extract;
use Baggage\Core\Expressions\Compiler;
use Baggage\Core\Expressions\ExpressionError;
use Baggage\Core\Reading\Column;

/** Legacy columns no rule of any load reads: each needs a decision. */
final class Shelf
{
    /** @var array<int, array<int, true>> extract → used positions */
    private array $used = [];

    public function __construct(private readonly Definitions $definitions)
    {
    }

    /** @return list<Column> */
    public function unused(Extract $extract): array
    {
        $used = $this->used[$extract->id] ??= $this->usedIn($extract);

        return array_values(array_filter($extract->tidyColumns()->all, fn (Column $c) => ! isset($used[$c->position])));
    }

    /** @return list<Column> unused and not left behind either */
    public function undecided(Extract $extract): array
    {
        $decided = ColumnDecision::query()->where('extract_id', $extract->id)->pluck('header')->all();

        return array_values(array_filter($this->unused($extract), fn (Column $c) => ! in_array($c->header, $decided, true)));
    }

    /** @return array<int, true> */
    private function usedIn(Extract $extract): array
    {
        $columns = $extract->tidyColumns();
        $compiler = new Compiler($columns);
        $used = [];
        foreach ($this->definitions->loads()->where('extract_id', $extract->id) as $load) {
            foreach ($load->key_columns as $name) {
                $column = $columns->find($name);
                if ($column !== null) {
                    $used[$column->position] = true;
                }
            }
            foreach ([$load->scope, ...$load->rules->pluck('expression')->all()] as $expression) {
                try {
                    $used += $expression === null ? [] : array_fill_keys($compiler->compile($expression)->columns, true);
                } catch (ExpressionError) {
                    // A rule with a mistake uses nothing yet.
                }
            }
        }

        return $used;
    }
}
