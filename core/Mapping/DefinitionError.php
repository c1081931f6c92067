<?php

namespace Baggage\Core\Mapping;

/** A load that cannot run as it is defined: names the load and the field. */
final class DefinitionError extends \RuntimeException
{
    public function __construct(string $message, public readonly string $load, public readonly ?string $field = null)
    {
        parent::__construct($message);
    }
}
