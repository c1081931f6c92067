<?php

namespace Baggage\Core\Expressions;

/** A rule that cannot be understood: says what, and at which character. */
final class ExpressionError extends \RuntimeException
{
    /** @param  int|null  $position character from 1 */
    private function __construct(string $message, public readonly ?int $position = null)
    {
        parent::__construct($message);
    }

    public static function noSuchField(string $entity, string $field): self
    {
        return new self("$entity has no field \"$field\" that a rule can fill.");
    }

    public static function empty(): self
    {
        return new self('The rule is empty.');
    }

    public static function notUtf8(int $position): self
    {
        return new self("It is not all UTF-8: the first byte that is not is at character $position.", $position);
    }

    public static function tooLong(int $most): self
    {
        return new self('The rule is longer than '.number_format($most).' characters.');
    }

    public static function at(string $what, int $position, ?string $meant): self
    {
        return new self(
            "$what, at character $position."
                .($meant === null ? '' : " Did you mean \"$meant\"?"),
            $position,
        );
    }

    public static function notBefore(string $operator): self
    {
        return new self("The operator \"$operator\" cannot be used before a value.");
    }

    public static function notInRules(string $part): self
    {
        return new self('This part of the expression language cannot be used in rules: '.$part);
    }

    public static function notAlone(string $name): self
    {
        return new self("\"$name\" cannot stand alone; write {$name}['Exact header'].");
    }

    public static function onlyRow(): self
    {
        return new self("Only row['Exact header'] can be looked into.");
    }

    public static function noHeader(string $header): self
    {
        return new self("This feed has no column with the header \"$header\".");
    }

    public static function arguments(string $function, string $wanted, int $given): self
    {
        return new self("$function takes $wanted arguments, not $given.");
    }

    public static function noOperator(string $operator): self
    {
        return new self("The operator \"$operator\" cannot be used in rules.");
    }

    public static function noDateLetter(string $format, string $letter): self
    {
        return new self(
            "\"$format\" is no form of a date: \"$letter\" stands for nothing. d is the day and m the month (with or without a zero in "
                .'front), M the month by name, Y and y the year; H, i and s the time.',
        );
    }

    public static function noPattern(string $pattern): self
    {
        return new self("\"$pattern\" is no regular expression: it needs a delimiter before and behind it, as /^[0-9]+$/.");
    }
}
