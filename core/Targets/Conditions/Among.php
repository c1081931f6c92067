<?php

namespace Baggage\Core\Targets\Conditions;

/** One of a list of values. */
final readonly class Among implements Test
{
    /** @param  list<Operand>  $list */
    public function __construct(private Operand $operand, private array $list)
    {
    }

    public function holds(Record $record): ?bool
    {
        $found = false;
        foreach ($this->list as $one) {
            $is = (new Comparison('=', $this->operand, $one))->holds($record);
            if ($is === true) {
                return true;
            }
            $found = $is === null ? null : $found;
        }

        return $found;
    }

    /** @return list<string>|null the values, where one field is held against constants alone */
    public function constants(): ?array
    {
        $values = array_map(fn (Operand $o) => $o instanceof Constant ? $o->value : null, $this->list);

        return $this->operand instanceof FieldValue && ! in_array(null, $values, true) ? $values : null;
    }

    public function words(bool $not = false): string
    {
        $list = implode(', ', array_map(fn (Operand $o) => $o->words(), $this->list));

        return "{$this->operand->words()} is ".($not ? 'none' : 'one')." of $list";
    }

    public function fields(): array
    {
        $listed = array_map(fn (Operand $o) => $o->fields(), $this->list);

        return array_values(array_unique(array_merge($this->operand->fields(), ...$listed)));
    }
}
