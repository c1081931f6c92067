<?php

namespace Baggage\Core\Expressions;

/** A function a rule calls, as far as it can be told without a row. */
final readonly class Call
{
    /**
     * @param  list<string|null>  $texts  arguments that are written out; null for the others
     * @param  int|null  $parts  of a first argument that is a list
     */
    public function __construct(public string $function, public array $texts, public ?int $parts)
    {
    }
}
