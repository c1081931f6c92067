<?php

namespace Baggage\Core\Mapping;

/** A load that cannot run as it is defined: names the load and the field. */
final class DefinitionError extends \RuntimeException
{
    private function __construct(string $message, public readonly string $load, public readonly ?string $field = null)
    {
        parent::__construct($message);
    }

    public static function noField(string $load, string $entity, string $field): self
    {
        return new self("Load \"$load\": $entity has no field \"$field\".", $load, $field);
    }

    public static function noKey(string $load): self
    {
        return new self("Load \"$load\" has no legacy key: choose the column that identifies a row.", $load);
    }

    public static function noKeyColumn(string $load, string $column): self
    {
        return new self("Load \"$load\": its feed has no column \"$column\" for the legacy key.", $load);
    }

    public static function requiredWithoutRule(string $load, string $field): self
    {
        return new self("Load \"$load\": the field \"$field\" is required and has no rule.", $load, $field);
    }

    public static function notUnderstood(string $load, ?string $field, string $where, string $why): self
    {
        return new self("Load \"$load\", $where: $why", $load, $field);
    }

    public static function loadGone(string $load): self
    {
        return new self('A load of this pass has been deleted.', $load);
    }
}
