<?php

namespace App\Catalogue;

use App\Models\CodeCrosswalk;
use App\Models\CodeDecision;
use App\Models\CodeEntry;
use App\Models\Load;
use App\Staging\ColumnValues;
use Baggage\Core\Crosswalks\Otherwise;
use Baggage\Core\Expressions\Compiler;
use Baggage\Core\Expressions\ExpressionError;

/** Which columns a code crosswalk is applied to, and the old values that occur there. */
final class CodeUse
{
    /** @var array<string, list<array{load: Load, field: string, column: int}>>|null by crosswalk */
    private ?array $uses = null;

    public function __construct(private readonly Definitions $definitions)
    {
    }

    /** @return list<array{load: Load, field: string, column: int}> */
    public function of(string $crosswalk): array
    {
        if ($this->uses === null) {
            $this->uses = [];
            foreach ($this->definitions->loads() as $load) {
                $compiler = new Compiler($load->extract->tidyColumns());
                foreach ($load->rules as $rule) {
                    if (! str_contains((string) $rule->expression, 'code(')) {
                        continue;
                    }
                    try {
                        foreach ($compiler->compile((string) $rule->expression)->codeColumns as $name => $column) {
                            $this->uses[$name][] = ['load' => $load, 'field' => $rule->field, 'column' => $column];
                        }
                    } catch (ExpressionError) {
                        // The rule sheet shows what is wrong with it.
                    }
                }
            }
        }

        return $this->uses[$crosswalk] ?? [];
    }

    /**
     * Every old value that occurs or is mapped.
     *
     * @return list<CodeValue> those nobody has mapped first, then the most frequent
     */
    public function values(CodeCrosswalk $crosswalk): array
    {
        $rows = [];
        foreach ($this->of($crosswalk->name) as $use) {
            foreach (ColumnValues::all((int) $use['load']->extract->take_id, $use['column']) as $value) {
                $rows[trim($value->value)] = ($rows[trim($value->value)] ?? 0) + (int) $value->n;
            }
        }
        $entries = $crosswalk->entries->keyBy('old_value')->all();
        $all = [];
        foreach ($rows + array_fill_keys(array_keys($entries), 0) as $old => $n) {
            $entry = $entries[$old] ?? null;
            $all[] = new CodeValue(
                (string) $old,
                $entry?->new_value,
                $n,
                $entry !== null,
                $entry?->decision === CodeDecision::Reject,
                $entry?->note,
            );
        }
        usort(
            $all,
            fn (CodeValue $a, CodeValue $b) => [$a->mapped, -$a->rows, $a->old] <=> [$b->mapped, -$b->rows, $b->old],
        );

        return $all;
    }

    /**
     * An entry in a few signs, to see whether it is still the one somebody was looking at.
     *
     * @param  array{is: string, new: string, note: string}  $entry
     */
    public static function state(array $entry): string
    {
        return $entry['is'] === '' ? '' : implode('|', $entry);
    }

    public static function stateOf(?CodeEntry $entry): string
    {
        return $entry === null
            ? ''
            : self::state([
                'is' => $entry->decision === CodeDecision::Reject ? 'reject' : ($entry->new_value === null ? 'empty' : 'value'),
                'new' => (string) $entry->new_value,
                'note' => (string) $entry->note,
            ]);
    }

    /** Old values that occur and have no new value yet, unless it is stated what becomes of such. */
    public function unmapped(CodeCrosswalk $crosswalk): int
    {
        return $crosswalk->otherwise === Otherwise::Reject
            ? count(array_filter($this->values($crosswalk), fn ($v) => ! $v->mapped))
            : 0;
    }

    /** @return list<string>|null the values the target allows, where a field with a list uses the crosswalk */
    public function allowed(CodeCrosswalk $crosswalk): ?array
    {
        foreach ($this->of($crosswalk->name) as $use) {
            $type = $use['load']->entity->described()->fields[$use['field']]->type->toArray();
            if ($type['kind'] === 'choice') {
                return $type['values'];
            }
        }

        return null;
    }
}
