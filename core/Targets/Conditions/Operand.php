<?php

namespace Baggage\Core\Targets\Conditions;

/** Something with a value: a field, a constant, a length, a sum. */
interface Operand
{
    /**
     * @throws CannotTell where the target alone knows it
     */
    public function value(Record $record): ?string;

    public function words(): string;

    public function kind(): Kind;

    /** @return list<string> names of the fields it looks at, each once */
    public function fields(): array;
}
