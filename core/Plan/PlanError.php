<?php

namespace Baggage\Core\Plan;

/** A plan file that cannot be used: names the file, the line and the field. */
final class PlanError extends \RuntimeException
{
    private function __construct(
        string $message,
        public readonly string $planFile,
        public readonly ?int $fileLine = null,
        public readonly ?string $field = null,
    ) {
        parent::__construct(
            $planFile.($fileLine === null ? '' : ", line $fileLine")
                .($field === null || $field === '' ? '' : ", $field").": $message",
        );
    }

    public static function at(string $file, ?string $field, string $why): self
    {
        return new self($why, $file, null, $field);
    }

    public static function noFileOnScreen(string $file, string $field): self
    {
        return new self(
            'a plan read on a screen opens no file. Make the migration first and read its '
                .'description at Target, then the plan; '
                .'or read the plan on the command line',
            $file,
            null,
            $field,
        );
    }

    public static function noDescription(string $file, string $field, string $name): self
    {
        return new self(
            "the description $name is not there, may not be read, or lies outside the plan's folder",
            $file,
            null,
            $field,
        );
    }

    public static function describesNothing(string $file, string $field, string $name): self
    {
        return new self(
            "$name describes no entities as docs/mapping.md says: a sheet with the headers Entity "
                .'and Field, '
                .'JSON Schema, OpenAPI, or SQLite. Read it at Target to see where',
            $file,
            null,
            $field,
        );
    }

    public static function noExtract(string $file, string $field, string $name): self
    {
        return new self("no source has the extract \"$name\"", $file, null, $field);
    }

    /** @param  list<string>  $known */
    public static function noEntity(string $file, string $field, string $name, array $known): self
    {
        return new self("the target has no entity \"$name\"; it has ".implode(', ', $known), $file, null, $field);
    }

    /** @param  list<string>  $known */
    public static function noField(string $file, string $field, string $entity, string $name, array $known): self
    {
        return new self("$entity has no field \"$name\"; it has ".implode(', ', $known), $file, null, $field);
    }

    public static function loadInRounds(string $file, string $load): self
    {
        return new self(
            "the load \"$load\" is not in the plan, but rounds have outcomes of it; rename it back "
                .'or import under another migration name',
            $file,
            null,
            'loads',
        );
    }

    public static function notThere(string $file): self
    {
        return new self('there is no such file, or it may not be read.', $file);
    }

    public static function noFile(string $file, string $name, string $extract): self
    {
        return new self(
            "the file $name of extract $extract is not there, may not be read, or lies outside the "
                ."plan's folder",
            $file,
            null,
            'sources',
        );
    }

    public static function notFrozen(string $file, string $extract, string $why): self
    {
        return new self($why, $file, null, "sources, extract $extract");
    }

    public static function notYaml(string $file, ?int $line): self
    {
        return new self('This is not YAML.', $file, $line);
    }

    public static function noPlan(string $file): self
    {
        return new self('This is not a plan: it holds no "baggage: 1".', $file);
    }

    /** What the schema, or the plan itself, says against a value. */
    public static function atLine(string $file, ?int $line, string $field, string $message): self
    {
        return new self($message, $file, $line, $field);
    }
}
