<?php

namespace App\Mapping;

use App\Catalogue\Definitions;
use App\Catalogue\KnownReferences;
use App\Models\ColumnReference;
use App\Models\Load;
use App\Models\ReferenceDecision;
use App\Models\Rule;
use App\Staging\ColumnValues;
use Baggage\Core\Expressions\Compiler;
use Baggage\Core\Expressions\ExpressionError;
use Baggage\Core\Mapping\Suggester;
use Baggage\Core\Mapping\Suggestion;
use Baggage\Core\Reading\Column;
use Baggage\Core\Reading\Columns;
use Baggage\Core\Targets\Field;

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
        $profile = $load->extract->take?->profile;
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
                fn (Field $field, Column $column) => $field->refers !== null
                    ? self::reference($load, $column)
                    : self::list($definitions, $load, $field, $column),
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

    private static function reference(Load $load, Column $column): ?string
    {
        foreach (
            ColumnReference::query()
                ->where('extract_id', $load->extract_id)
                ->where('decision', '<>', ReferenceDecision::Dismissed)
                ->get() as $reference
        ) {
            if (in_array($column->header, $reference->columns, true)) {
                return KnownReferences::rule($load, $column->name);
            }
        }

        return null;
    }

    /**
     * A list of allowed values: the column's own when they are allowed as they are, otherwise the code crosswalk that
     * knows most of them.
     */
    private static function list(Definitions $definitions, Load $load, Field $field, Column $column): ?string
    {
        $found = ColumnValues::most((int) $load->extract->take_id, $column->position, 300);
        $values = $found->pluck('n', 'value')->all();
        if ($values === []) {
            return null;
        }
        $allowed = $field->type->toArray()['values'] ?? [];
        if (array_diff(array_map(fn ($v) => trim((string) $v), array_keys($values)), $allowed) === []) {
            return "trim($column->name)";
        }
        $best = null;
        $most = 0;
        foreach ($definitions->codes() as $name => $crosswalk) {
            $known = array_sum(array_filter($values, fn ($v) => $crosswalk->knows((string) $v), ARRAY_FILTER_USE_KEY));
            if ($known > $most && $known * 2 > array_sum($values)) {
                [$best, $most] = [$name, $known];
            }
        }

        return $best === null ? null : 'code(\''.addcslashes($best, "'\\")."', $column->name)";
    }
}
