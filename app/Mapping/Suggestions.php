<?php

namespace App\Mapping;

use App\Catalogue\Definitions;
use App\Models\Load;
use App\Models\Rule;
use Baggage\Core\Expressions\Compiler;
use Baggage\Core\Expressions\ExpressionError;
use Baggage\Core\Mapping\Suggester;
use Baggage\Core\Mapping\Suggestion;
use Baggage\Core\Reading\Columns;

/** What may be mapped to the fields of a load that have no rule yet. */
final class Suggestions
{
    /** Rules of other migrations looked at. */
    private const EARLIER = 500;

    /** @return array<string, Suggestion> by field */
    public static function of(Definitions $definitions, Load $load): array
    {
        $ruled = $load->rules
            ->filter(fn ($r) => $r->expression !== null || $r->empty_reason !== null)
            ->pluck('field')
            ->all();
        $without = array_values(array_diff(array_keys($load->entity->described()->writable()), $ruled));
        $profile = $load->extract->take?->facts();
        if ($without === [] || $profile === null) {
            return [];
        }
        $columns = $load->extract->tidyColumns();
        $used = [];
        foreach ($load->rules->pluck('expression')->filter() as $expression) {
            try {
                $used = [...$used, ...(new Compiler($columns))->compile((string) $expression)->columns];
            } catch (ExpressionError) {
                // The sheet shows what is wrong with it.
            }
        }

        $earlier = self::earlier($load, $without, $columns);
        $rest = array_values(array_diff($without, array_keys($earlier)));

        return $earlier
            + Suggester::for(
                $load->entity->described(),
                $rest,
                $columns,
                $profile,
                $used,
                new KnownColumns($definitions, $load, $profile),
            );
    }

    /**
     * Rules that other migrations kept for the same field of the same entity, where this feed has the columns they read.
     *
     * @param  list<string>  $without
     * @return array<string, Suggestion> by field
     */
    private static function earlier(Load $load, array $without, Columns $columns): array
    {
        $rules = Rule::query()
            ->whereIn('field', $without)
            ->whereNotNull('expression')
            ->whereHas(
                'ofLoad',
                fn ($q) => $q
                    ->where('migration_id', '<>', $load->migration_id)
                    ->whereHas('entity', fn ($e) => $e->where('name', $load->entity->name)),
            )
            ->with('ofLoad.migration')
            ->latest('id')
            ->limit(self::EARLIER)
            ->get();
        $found = [];
        foreach ($rules as $rule) {
            try {
                $read = (new Compiler($columns))->compile((string) $rule->expression)->columns;
            } catch (ExpressionError) {
                // It reads columns this feed does not have.
                continue;
            }
            if ($read !== []) {
                $found[$rule->field] ??= new Suggestion(
                    $rule->field,
                    $columns->all[$read[0]]->header,
                    (string) $rule->expression,
                    "accepted in {$rule->ofLoad?->migration?->name}, {$rule->ofLoad?->name}",
                    1.0,
                );
            }
        }

        return $found;
    }
}
