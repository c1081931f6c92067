<?php

namespace App\Reckoning;

use App\Catalogue\Definitions;
use App\Models\ControlTotal;
use App\Models\Load;
use App\Models\Rule;
use Baggage\Core\Expressions\Compiler;
use Baggage\Core\Expressions\ExpressionError;
use Baggage\Core\Mapping\Fit;
use Baggage\Core\Reading\Columns;
use Baggage\Core\Reconciling\ControlTotal as Described;
use Baggage\Core\Reconciling\GroupBy;
use Baggage\Core\Reconciling\TotalKind;
use Baggage\Core\Targets\Field;

/** Control totals for mapped amounts, quantities and dates that have none yet, read off the legacy columns apart from the rules. */
final readonly class TotalSuggestions
{
    private const OWN_RULE = 'The rule reads several columns or none that can be read plainly, so it counts by itself: '
        .'it shows what the target did, not what the rule does';

    public function __construct(private Definitions $definitions)
    {
    }

    /**
     * @param  string|null  $entity  name of the one it is about; null for all
     * @return list<array{total: Described, why: string}>
     */
    public function of(?string $entity): array
    {
        $there = [];
        foreach (ControlTotal::query()->where('migration_id', $this->definitions->migration->id)->with('entity')->get() as $total) {
            $there["{$total->entity->name} {$total->described()->field}"] = true;
        }
        $found = [];
        foreach ($this->definitions->unordered() as $load) {
            if (! $load->reads() && ($entity === null || $load->entity->name === $entity)) {
                array_push($found, ...$this->ofLoad($load, $there));
            }
        }

        return $found;
    }

    /**
     * @param  array<string, true>  $there  "entity field" of those there are
     * @return list<array{total: Described, why: string}>
     */
    private function ofLoad(Load $load, array $there): array
    {
        $entity = $load->entity->described();
        $dates = $found = [];
        foreach ($this->fields($load) as [$field, $legacy, $why]) {
            $kind = (string) $field->type->toArray()['kind'];
            $isDate = in_array($kind, ['date', 'datetime'], true);
            if ($isDate) {
                $dates[] = [$field->name, "year($legacy)"];
            }
            if (isset($there["$entity->name $field->name"]) || $entity->isUnique($field->name)) {
                continue;
            }
            $by = $isDate ? [$field->name, "year($legacy)"] : $dates[0] ?? null;
            $found[] = [
                'total' => new Described(
                    mb_substr("$load->name, $field->name", 0, 100),
                    $entity->name,
                    $load->name,
                    $isDate ? TotalKind::Count : TotalKind::Sum,
                    $field->name,
                    $legacy,
                    $by[0] ?? null,
                    GroupBy::Year,
                    $by[1] ?? '',
                ),
                'why' => $why,
            ];
        }

        return $found;
    }

    /** @return list<array{Field, string, string}> mapped dates, then amounts and quantities, with their legacy expression and why it */
    private function fields(Load $load): array
    {
        $columns = $load->extract->tidyColumns();
        $facts = $load->extract->take?->facts() ?? [];
        $found = ['date' => [], 'number' => []];
        foreach ($load->rules->whereNotNull('expression') as $rule) {
            $field = $load->entity->described()->writable()[$rule->field] ?? null;
            $kind = $field === null || $field->refers !== null ? '' : (string) $field->type->toArray()['kind'];
            $as = match ($kind) {
                'date', 'datetime' => 'date', 'decimal', 'integer' => 'number', default => null,
            };
            if ($field !== null && $as !== null) {
                [$legacy, $why] = self::plain($rule, $field, $columns, $facts);
                $found[$as][] = [$field, $legacy, $why];
            }
        }

        return [...$found['date'], ...$found['number']];
    }

    /**
     * @param  list<array<string, mixed>>  $facts  of the columns
     * @return array{string, string} the expression, and why it
     */
    private static function plain(Rule $rule, Field $field, Columns $columns, array $facts): array
    {
        try {
            $read = (new Compiler($columns))->compile((string) $rule->expression)->columns;
        } catch (ExpressionError) {
            $read = [];
        }
        $fit = count($read) === 1 && isset($facts[$read[0]]) ? Fit::of($field, $columns->all[$read[0]], $facts[$read[0]]) : null;

        return $fit === null
            ? [(string) $rule->expression, self::OWN_RULE]
            : [$fit->rule, "Column {$columns->all[$read[0]]->header} read apart from the rule: $fit->why"];
    }
}
