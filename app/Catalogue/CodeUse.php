<?php

namespace App\Catalogue;

use App\Models\CodeCrosswalk;
use App\Models\CodeDecision;
use App\Models\CodeEntry;
use App\Staging\ColumnValues;
use Baggage\Core\Crosswalks\Otherwise;
use Baggage\Core\Expressions\Compiler;
use Baggage\Core\Expressions\ExpressionError;

/** Which columns a code crosswalk is applied to, and the old values that occur there. */
final class CodeUse
{
    /** A rule that gives what the crosswalk gives. */
    private const DIRECT = <<<'REGEX'
        /^\s*code\s*(\((?:[^()'"]|'(?:[^'\\]|\\.)*'|"(?:[^"\\]|\\.)*"|(?1))*+\))\s*$/s
        REGEX;

    /** @var array<string, list<CodeValue>> by crosswalk */
    private array $values = [];

    /** @var array<string, array<array-key, int>>|null take and position → value → rows */
    private ?array $columns = null;

    /** @param  array<string, list<CodeColumn>>  $uses  by crosswalk */
    private function __construct(private readonly array $uses)
    {
    }

    /** As the rules of a migration say. */
    public static function by(Definitions $definitions): self
    {
        $uses = [];
        foreach ($definitions->loads() as $load) {
            $compiler = new Compiler($load->extract->tidyColumns());
            foreach ($load->rules as $rule) {
                if (! str_contains((string) $rule->expression, 'code(')) {
                    continue;
                }
                try {
                    foreach ($compiler->compile((string) $rule->expression)->codeColumns as $name => $column) {
                        $uses[$name][] = new CodeColumn(
                            $load->id, $load->name, $load->entity_id, $rule->field, $load->extract->take_id, $column,
                            preg_match(self::DIRECT, (string) $rule->expression) === 1,
                        );
                    }
                } catch (ExpressionError) {
                    // The rule sheet shows what is wrong with it.
                }
            }
        }

        return new self($uses);
    }

    /** @param  list<CodeColumn>  $columns  as they are known already */
    public static function known(string $crosswalk, array $columns): self
    {
        return new self([$crosswalk => $columns]);
    }

    /** @return list<CodeColumn> */
    public function of(string $crosswalk): array
    {
        return $this->uses[$crosswalk] ?? [];
    }

    /**
     * Every old value that occurs or is mapped.
     *
     * @return list<CodeValue> those nobody has mapped first, then the most frequent
     */
    public function values(CodeCrosswalk $crosswalk): array
    {
        return $this->values[$crosswalk->name] ??= $this->read($crosswalk);
    }

    /** @return list<CodeValue> */
    private function read(CodeCrosswalk $crosswalk): array
    {
        $rows = $this->occurring($crosswalk->name);
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

    /**
     * Old values that occur in the columns of a crosswalk that rules name and nobody has made.
     *
     * @return int how many
     */
    public function waiting(string $crosswalk): int
    {
        return count($this->occurring($crosswalk));
    }

    /**
     * Read for all crosswalks at once.
     *
     * @return array<array-key, int> old value that occurs in a column a crosswalk is applied to → rows
     */
    private function occurring(string $crosswalk): array
    {
        if ($this->columns === null) {
            $places = [];
            foreach (array_merge([], ...array_values($this->uses)) as $use) {
                $places["$use->take $use->column"] = [(int) $use->take, $use->column];
            }
            $this->columns = [];
            foreach (ColumnValues::ofColumns(array_values($places)) as $value) {
                $this->columns["$value->take_id $value->position"][$value->value] = (int) $value->n;
            }
        }
        $rows = [];
        foreach ($this->of($crosswalk) as $use) {
            foreach ($this->columns["$use->take $use->column"] ?? [] as $value => $n) {
                $old = trim((string) $value);
                $rows[$old] = ($rows[$old] ?? 0) + $n;
            }
        }

        return $rows;
    }

    /**
     * @param  list<string>  $known
     * @return list<string> names of crosswalks that rules use, of which there is none
     */
    public function missing(array $known): array
    {
        return array_values(array_diff(array_map(strval(...), array_keys($this->uses)), $known));
    }
}
