<?php

namespace Baggage\Core\Targets;

/** Why a field cannot hold a value: a code that groups alike cases and a sentence a client can read. */
final readonly class Refusal
{
    public function __construct(public string $code, public string $message)
    {
    }
}
