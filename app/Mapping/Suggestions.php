<?php

namespace App\Mapping;

use App\Catalogue\Definitions;
use App\Catalogue\KnownReferences;
use App\Models\ColumnReference;
use App\Models\Load;
use Baggage\Core\Expressions\Compiler;
use Baggage\Core\Expressions\ExpressionError;
use Baggage\Core\Mapping\Suggester;
use Baggage\Core\Mapping\Suggestion;
use Baggage\Core\Reading\Column;
use Baggage\Core\Targets\Field;
use Illuminate\Support\Facades\DB;

/** What may be mapped to the fields of a load that have no rule yet. */
final class Suggestions
{
    /** @return array<string, Suggestion> by field */
    public static function of(Definitions $definitions, Load $load): array
    {
        $ruled = $load->rules->filter(fn ($r) => $r->expression !== null || $r->empty_reason !== null)->pluck('field')->all();
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

        return Suggester::for($load->entity->described(), $without, $columns, $profile, $used, fn (Field $field, Column $column) => $field->refers !== null ? self::reference($load, $column) : self::list($definitions, $load, $field, $column));
    }

    private static function reference(Load $load, Column $column): ?string
    {
        foreach (ColumnReference::query()->where('extract_id', $load->extract_id)->where('decision', '<>', 'dismissed')->get() as $reference) {
            if (in_array($column->header, $reference->columns, true)) {
                return KnownReferences::rule($load, $column->name);
            }
        }

        return null;
    }

    /** A list of allowed values: the column's own when they are allowed as they are, otherwise the code crosswalk that knows most of them. */
    private static function list(Definitions $definitions, Load $load, Field $field, Column $column): ?string
    {
        $values = DB::table('column_values')->where('take_id', $load->extract->take_id)->where('position', $column->position)->limit(300)->pluck('n', 'value')->all();
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
