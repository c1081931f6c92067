<?php

namespace App\Mapping;

use App\Catalogue\Definitions;
use App\Models\ColumnDecision;
use App\Models\Extract;
use Baggage\Core\Expressions\Compiler;
use Baggage\Core\Expressions\ExpressionError;
use Baggage\Core\Reading\Column;

/** Legacy columns no rule of any load reads: each needs a decision. */
final class Shelf
{
    /** @var array<int, array<int, list<string>>> extract → position → what reads it */
    private array $used = [];

    public function __construct(private readonly Definitions $definitions)
    {
    }

    /** @return list<Column> */
    public function unused(Extract $extract): array
    {
        $used = $this->used[$extract->id] ??= $this->uses($extract);

        return array_values(array_filter($extract->tidyColumns()->all, fn (Column $c) => ! isset($used[$c->position])));
    }

    /** @return array<int, list<string>> position → what reads it: "key of Vessels", "Vessels, name" */
    public function uses(Extract $extract): array
    {
        $columns = $extract->tidyColumns();
        $compiler = new Compiler($columns);
        $uses = [];
        foreach ($this->definitions->loads()->where('extract_id', $extract->id) as $load) {
            foreach ($load->key_columns as $name) {
                $at = $columns->find($name)?->position;
                $uses += $at === null ? [] : [$at => []];
                $at === null ?: ($uses[$at][] = "key of $load->name");
            }
            foreach (
                [['scope', $load->scope], ...$load->rules->map(fn ($r) => [$r->field, $r->expression])->all()] as [$field, $expression]
            ) {
                try {
                    foreach ($expression === null ? [] : $compiler->compile($expression)->columns as $at) {
                        $uses[$at][] = $field === 'scope' ? "scope of $load->name" : "$load->name, $field";
                    }
                } catch (ExpressionError) {
                    // A rule with a mistake uses nothing yet.
                }
            }
        }
        ksort($uses);

        return $uses;
    }

    /** @return list<Column> unused and not left behind either */
    public function undecided(Extract $extract): array
    {
        $decided = ColumnDecision::query()->where('extract_id', $extract->id)->pluck('header')->all();

        return array_values(
            array_filter($this->unused($extract), fn (Column $c) => ! in_array($c->header, $decided, true)),
        );
    }

    /** @return list<Extract> frozen ones that neither a load nor a feed reads, those without a decision first */
    public function unread(): array
    {
        $read = $this->definitions->loads()->pluck('extract_id')->all();
        $extracts = Extract::query()
            ->whereHas('source', fn ($q) => $q->where('migration_id', $this->definitions->migration->id))
            ->whereNotNull('take_id')
            ->with(['source', 'take'])
            ->orderBy('source_id')
            ->orderBy('id')
            ->get();
        $inFeeds = $extracts->flatMap(fn (Extract $e) => $e->reader['of'] ?? [])->all();

        return $extracts
            ->filter(
                fn (Extract $e) => ! in_array($e->id, $read, true)
                    && ! in_array("{$e->source?->code}/$e->name", $inFeeds, true),
            )
            ->sortBy(fn (Extract $e) => $e->not_loaded === null ? 0 : 1)
            ->values()
            ->all();
    }
}
