<?php

namespace Baggage\Core\Targets\Describing;

/** A description of a target that cannot be understood: says where and what to do. */
final class DescriptionError extends \RuntimeException
{
    public static function fieldTwice(int $row, string $entity, string $field): self
    {
        return new self("Row $row: $entity has the field $field already.");
    }

    public static function noName(int $row, string $text, string $what): self
    {
        return new self("Row $row: \"$text\" cannot be the name of $what; letters, digits and _ can.");
    }

    public static function noField(): self
    {
        return new self('The sheet describes no field.');
    }

    public static function refersNowhere(string $entity, string $field, string $parent): self
    {
        return new self("$entity.$field refers to \"$parent\", and the sheet has no such entity.");
    }

    public static function noLength(int $row, string $length): self
    {
        return new self("Row $row: a length is a number, or two as in \"9,2\", not \"$length\".");
    }

    public static function noType(int $row, string $type): self
    {
        return new self(
            "Row $row: \"$type\" is no type. Known are text, long text, whole number, decimal, date, "
                .'date and time, yes or no; a list of values stands under Allowed values.',
        );
    }

    public static function noAnswer(int $row, string $header, string $value): self
    {
        return new self("Row $row: $header is yes or no, not \"$value\".");
    }

    public static function noObject(): self
    {
        return new self(
            'The document describes no object with properties: neither under components/schemas, '
                .'nor $defs, '
                .'nor definitions, nor at its top.',
        );
    }

    public static function endless(): self
    {
        return new self('A $ref of the document leads back to itself.');
    }

    public static function pointsOutside(string $ref): self
    {
        return new self(
            "The document points at \"$ref\". Only what stands in the document itself is read: "
                .'bundle it first.',
        );
    }

    public static function pointsNowhere(string $ref): self
    {
        return new self("The document points at \"$ref\", and nothing is there.");
    }

    public static function notWritten(string $name, string $language, string $why): self
    {
        return new self("$name is not $language: $why");
    }

    public static function holdsNoObject(string $name): self
    {
        return new self("$name holds no object.");
    }

    public static function noKeyedTable(): self
    {
        return new self('The database has no table with a primary key of one column.');
    }
}
