<?php

namespace App\Mapping;

use App\Catalogue\Definitions;
use App\Models\ColumnDecision;
use App\Models\Extract;
use App\Models\Load;
use App\Models\Rule;
use App\Models\Take;
use Baggage\Core\Expressions\Compiler;
use Baggage\Core\Expressions\ExpressionError;
use Baggage\Core\Reading\Column;
use Illuminate\Support\Collection;

/** Legacy columns no rule of any load reads: each needs a decision. */
final class Shelf
{
    /** @var array<int, array<int, list<string>>> extract → position → what reads it */
    private array $used = [];

    /** @var Collection<int, Collection<int, Load>>|null extract → loads, where all are asked for */
    private ?Collection $loads = null;

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
        foreach ($this->loadsOf($extract) as $load) {
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

    /** @return Collection<int, Load> that read an extract, with what they read it by */
    private function loadsOf(Extract $extract): Collection
    {
        if ($this->loads !== null) {
            return $this->loads->get($extract->id, new Collection);
        }
        $lines = Load::query()
            ->leftJoin('rules', 'rules.load_id', '=', 'loads.id')
            ->where('loads.extract_id', $extract->id)
            ->orderBy('loads.position')
            ->orderBy('rules.id')
            ->get(['loads.*', 'rules.field as ruled', 'rules.expression as says']);

        return $lines->toBase()->groupBy('id')->map(fn (Collection $of) => $of->firstOrFail()->setRelation(
            'rules',
            $of->filter(fn (Load $l) => $l->getAttribute('ruled') !== null)->map(fn (Load $l) => new Rule([
                'field' => $l->getAttribute('ruled'),
                'expression' => $l->getAttribute('says'),
            ])),
        ))->values();
    }

    /** @return array<int, int> extract that a load reads → columns nobody has decided about */
    public function countUndecided(): array
    {
        return array_map(count(...), $this->allUndecided());
    }

    /** @return array<int, list<Column>> extract that a load reads → columns neither used nor left behind */
    public function allUndecided(): array
    {
        $this->loads = $this->definitions->unordered()->toBase()->groupBy('extract_id');
        $extracts = $this->loads->map(fn (Collection $of) => $of->firstOrFail()->extract);
        $decided = ColumnDecision::query()
            ->whereIn('extract_id', $extracts->pluck('id'))
            ->get(['extract_id', 'header'])
            ->groupBy('extract_id');

        return $extracts->mapWithKeys(fn (Extract $e) => [$e->id => array_values(array_filter(
            $this->unused($e),
            fn (Column $c) => ! $decided->get($e->id)?->contains('header', $c->header),
        ))])->all();
    }

    /** @return list<Extract> frozen ones that neither a load nor a feed reads, those without a decision first */
    public function unread(): array
    {
        $read = $this->definitions->migration->loads()->pluck('extract_id')->all();
        $extracts = Extract::query()
            ->whereHas('source', fn ($q) => $q->where('migration_id', $this->definitions->migration->id))
            ->whereNotNull('take_id')
            ->with(['source', 'take:'.Take::LISTED])
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
