<?php

namespace App\Catalogue;

use App\Models\ColumnReference;
use App\Models\Extract;
use App\Models\Load;
use App\Models\ReferenceDecision;
use Baggage\Core\Ordering\Reference;
use Illuminate\Support\Collection;
use Illuminate\Support\Facades\DB;

/** References between extracts that a person accepted, put to use in mapping and order. */
final class KnownReferences
{
    /**
     * The rule for a field that holds another record's key: parent() of the column, with all columns of its key and the parent's source
     * where an accepted reference says so.
     */
    public static function rule(Load $load, string $column): string
    {
        $columns = $load->extract->tidyColumns();
        $header = $columns->find($column)?->header;
        foreach (
            ColumnReference::query()
                ->where('extract_id', $load->extract_id)
                ->where('decision', ReferenceDecision::Accepted)
                ->with('parent.source')
                ->get() as $reference
        ) {
            if (! in_array($header, $reference->columns, true)) {
                continue;
            }
            $names = array_map(fn (string $h) => $columns->find($h)->name ?? $h, $reference->columns);
            $space = Load::query()->where('extract_id', $reference->parent->id)->orderBy('position')->first()?->keySpace()
                ?? (string) $reference->parent->source?->code;

            return 'parent('.(count($names) === 1 ? $names[0] : '['.implode(', ', $names).']')
                .($space === $load->extract->source->code ? '' : ", '$space'").')';
        }

        return "parent($column)";
    }

    /** @return list<string> tidy names of the columns that identify a row best, the first column where nothing was found */
    public static function key(Extract $extract): array
    {
        $columns = $extract->tidyColumns();
        $key = DB::table('key_candidates')->where('take_id', $extract->take_id)->orderBy('id')->value('columns');
        $names = array_filter(
            array_map(fn (string $h) => $columns->find($h)?->name, json_decode((string) ($key ?? '[]'), true)),
        );

        return $names !== [] ? array_values($names) : array_map(fn ($c) => $c->name, array_slice($columns->all, 0, 1));
    }

    /**
     * What the order has to respect although no rule says it yet.
     *
     * @param  Collection<int, Load>  $loads
     * @param  array<string, true>  $ruled  "child>parent" of entities that a rule connects already
     * @return list<Reference>
     */
    public static function between(Collection $loads, array $ruled): array
    {
        $byExtract = $loads->groupBy('extract_id');
        $found = [];
        foreach (
            ColumnReference::query()
                ->whereIn('extract_id', $byExtract->keys())
                ->whereIn('parent_extract_id', $byExtract->keys())
                ->where('decision', ReferenceDecision::Accepted)
                ->get() as $reference
        ) {
            foreach ($byExtract[$reference->extract_id] ?? [] as $child) {
                foreach ($byExtract[$reference->parent_extract_id] ?? [] as $parent) {
                    [$from, $to] = [$child->entity->name, $parent->entity->name];
                    if ($from !== $to && ! isset($ruled["$from>$to"]) && ! isset($ruled["$to>$from"])) {
                        $ruled["$from>$to"] = true;
                        $found[] = new Reference($from, implode(' + ', $reference->columns), $to, false);
                    }
                }
            }
        }

        return $found;
    }
}
