<?php

namespace App\Loading;

use Baggage\Core\Loading\Mark;

/** A round would begin in a target that holds records of others. */
final class TargetInUse extends \DomainException
{
    /** @param  non-empty-list<Mark>  $marks */
    public static function by(string $target, array $marks): self
    {
        $names = implode(', ', array_map(fn (Mark $m) => "$m->round (begun $m->begun UTC)", $marks));

        return new self(
            "\"$target\" holds records of $names. A new round makes its own beside them: take that round back first, at its passes, "
                .'match this one against it, set the target back, or say that they are meant to be there.',
        );
    }
}
