<?php

namespace Baggage\Core\Targets\Conditions;

/** From one value to another, both included. */
final readonly class Between implements Test
{
    public function __construct(private Operand $operand, private Operand $from, private Operand $to)
    {
    }

    public function holds(Record $record): ?bool
    {
        return (new All([
            new Comparison('>=', $this->operand, $this->from),
            new Comparison('<=', $this->operand, $this->to),
        ]))->holds($record);
    }

    public function words(bool $not = false): string
    {
        $range = "{$this->from->words()} to {$this->to->words()}";
        if ($this->operand instanceof Measure && $this->operand->isLength()) {
            return "{$this->operand->of()->words()} has ".($not ? 'not ' : '')."$range {$this->operand->unit()}";
        }

        return "{$this->operand->words()} is ".($not ? 'not ' : '')."from $range";
    }

    public function fields(): array
    {
        return array_values(array_unique([...$this->operand->fields(), ...$this->from->fields(), ...$this->to->fields()]));
    }
}
