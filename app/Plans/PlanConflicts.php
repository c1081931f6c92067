<?php

namespace App\Plans;

use Baggage\Core\Plan\Conflict;

/** Items of a plan that were changed in the file and on screens since it was last applied; nothing was changed. */
final class PlanConflicts extends \RuntimeException
{
    /** @param  non-empty-list<Conflict>  $conflicts */
    private function __construct(public readonly string $planFile, public readonly array $conflicts, string $told)
    {
        parent::__construct($told);
    }

    /** @param  non-empty-list<Conflict>  $conflicts */
    public static function of(string $planFile, array $conflicts): self
    {
        $told = array_map(fn (Conflict $c) => '  '.$c->text(), array_slice($conflicts, 0, 50));
        $more = count($conflicts) - 50;

        return new self($planFile, $conflicts, implode("\n", [
            "$planFile: ".count($conflicts).' of its items were changed on a screen too since it was last applied, and not alike. '
                .'Nothing was changed.',
            ...$told,
            ...$more > 0 ? ["  … and $more more"] : [],
        ]));
    }
}
