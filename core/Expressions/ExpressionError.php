<?php

namespace Baggage\Core\Expressions;

/** A rule that cannot be understood: says what, and at which character. */
final class ExpressionError extends \RuntimeException
{
    /** @param  int|null  $position character from 1 */
    public function __construct(string $message, public readonly ?int $position = null)
    {
        parent::__construct($message);
    }
}
