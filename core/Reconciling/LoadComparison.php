<?php

namespace Baggage\Core\Reconciling;

use Baggage\Core\Mapping\LoadDefinition;
use Baggage\Core\Targets\Field;

/** Compares the records of one load, field by field, with what its rows sent. */
final class LoadComparison
{
    /** @var array<string, FieldTally> by field */
    public array $fields = [];

    public int $rows = 0;

    /** Rows whose record is not there any more. */
    public int $missing = 0;

    /** Rows whose record cannot be said again. */
    public int $unknown = 0;

    /**
     * @param  array<string, Field>  $of  fields the load has rules for
     * @param  \Closure(int, string, string, string, string|null, string|null): void  $found  told of row, field, class, when, what was
     *                                                                          sent and what is
     */
    private function __construct(private readonly array $of, private readonly \Closure $found)
    {
    }

    /** @param  \Closure(int, string, string, string, string|null, string|null): void  $found  as above */
    public static function of(LoadDefinition $load, \Closure $found): self
    {
        $comparison = new self(array_intersect_key($load->entity->fields, $load->rules), $found);
        foreach ($comparison->of as $name => $field) {
            $comparison->fields[$name] = new FieldTally;
        }

        return $comparison;
    }

    public function row(ComparedRow $row): void
    {
        $this->rows++;
        if ($row->record === null) {
            $this->missing++;
            ($this->found)($row->row, '', 'record gone', FieldTally::SINCE, null, null);

            return;
        }
        if ($row->sent === null) {
            $this->unknown++;

            return;
        }
        $values = $row->sent->values;
        foreach ($row->sent->links as $name => $link) {
            $values[$name] = $link['isSet'] ? $values[$name] ?? null : null;
        }
        foreach ($this->of as $name => $field) {
            $tally = $this->fields[$name];
            $sent = $values[$name] ?? null;
            // A field a rule leaves empty has the target's own default; one that calls a function cannot be foreseen.
            $default = $sent === null && $row->isOwn ? $field->default : null;
            if (isset($row->left[$name]) || ($sent === null && ! $row->isOwn) || ($default !== null && str_contains($default, '('))) {
                $tally->left++;

                continue;
            }
            $this->field($row, $field, $tally, $sent ?? $default);
        }
    }

    private function field(ComparedRow $row, Field $field, FieldTally $tally, ?string $sent): void
    {
        $is = $row->record[$field->name] ?? null;
        if ($sent === $is || Comparing::isSame($field, $sent, $is)) {
            $tally->equal++;

            return;
        }
        $class = Comparing::difference($field, $sent, $is);
        $wrote = array_key_exists($field->name, $row->holds) && Comparing::isSame($field, $row->holds[$field->name], $is);
        $when = $wrote ? FieldTally::WRITTEN : FieldTally::SINCE;
        $tally->differs($class, $when);
        ($this->found)($row->row, $field->name, $class, $when, $sent, $is);
    }

    /** @return array{rows: int, missing: int, unknown: int, fields: array<string, array<string, mixed>>} */
    public function toArray(): array
    {
        return [
            'rows' => $this->rows, 'missing' => $this->missing, 'unknown' => $this->unknown,
            'fields' => array_map(fn (FieldTally $t) => $t->toArray(), $this->fields),
        ];
    }
}
