<?php

namespace Baggage\Core\Ordering;

/** The references form a circle in which every one is required. */
final class OrderError extends \RuntimeException
{
    /** @param  list<Reference>  $circle */
    public static function circle(array $circle): self
    {
        return new self(
            'These references form a circle and every one is required, so no record can be the '
                .'first: '
                .implode(', ', array_map(fn (Reference $r) => "$r->child.$r->field", $circle))
                .'. Let one of them be empty in the target, or leave its rule out.',
        );
    }
}
