<?php

namespace Baggage\Core\Reconciling;

/** What may be wrong with a control total itself, whatever target and loads there are. */
enum TotalProblem: string
{
    case Name = 'It needs a name of 1 to 100 characters.';
    case Tolerance = 'A tolerance is a number from 0, with a decimal point.';
    case Reason = 'A tolerance needs a reason.';
    case Parent = 'Children are added up by the record they refer to: group by a reference.';

    /** @return list<string> where it stands in an item of "proofs" of a plan */
    public function at(): array
    {
        return match ($this) {
            self::Name => ['name'],
            self::Tolerance, self::Reason => ['tolerance'],
            self::Parent => ['against'],
        };
    }
}
