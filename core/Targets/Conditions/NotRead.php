<?php

namespace Baggage\Core\Targets\Conditions;

/** A clause, or part of one, that is not understood; what it would need is said. */
final class NotRead extends \RuntimeException
{
    public static function at(string $word): self
    {
        return new self("\"$word\" is not understood there");
    }

    public static function function(string $name): self
    {
        return new self("$name() is not understood");
    }

    public static function order(string $field): self
    {
        return new self("how the texts of $field sort is known to the target alone");
    }

    public static function kinds(string $left, string $right): self
    {
        return new self("$left and $right are of different kinds");
    }

    public static function pattern(string $pattern): self
    {
        return new self("the pattern $pattern is not understood");
    }

    public static function long(): self
    {
        return new self('it is too long');
    }
}
