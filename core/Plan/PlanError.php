<?php

namespace Baggage\Core\Plan;

/** A plan file that cannot be used: names every mistake with file, line, column and field. */
final class PlanError extends \RuntimeException
{
    /** Mistakes told at once; the others are counted. */
    private const TOLD = 50;

    /** @param  non-empty-list<Mistake>  $mistakes */
    private function __construct(public readonly array $mistakes, string $told)
    {
        parent::__construct($told);
    }

    /** @param  non-empty-list<Mistake>  $mistakes */
    public static function of(array $mistakes): self
    {
        usort($mistakes, fn (Mistake $a, Mistake $b) => [$a->line, $a->column] <=> [$b->line, $b->column]);
        $told = array_map(fn (Mistake $m) => $m->text(), array_slice($mistakes, 0, self::TOLD));
        $more = count($mistakes) - self::TOLD;

        return new self($mistakes, implode("\n", $more > 0 ? [...$told, "… and $more more"] : $told));
    }

    /** Where no line of the file is to blame, or none is known. */
    public static function at(string $file, ?string $field, string $why, ?int $line = null): self
    {
        return self::of([new Mistake($file, $line, null, $field, $why)]);
    }

    public static function notThere(string $file): self
    {
        return self::at($file, null, 'there is no such file, or it may not be read.');
    }

    public static function noPlan(string $file): self
    {
        return self::at($file, null, 'This is not a plan: it holds no "baggage: 1".');
    }
}
