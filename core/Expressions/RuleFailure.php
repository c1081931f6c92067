<?php

namespace Baggage\Core\Expressions;

/** A rule that gives no value for one row: the row is rejected with this code, message and offending value. */
final class RuleFailure extends \RuntimeException
{
    /**
     * @param  string  $reason  short code that groups alike failures, e.g. "not_a_date"
     * @param  string|null  $value  the offending value
     */
    public function __construct(public readonly string $reason, string $message, public readonly ?string $value = null)
    {
        parent::__construct($message);
    }
}
