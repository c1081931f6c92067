<?php

namespace Baggage\Core\Reconciling;

/** What a comparison found of one field of one load. */
final class FieldTally
{
    /** The target wrote something else than it was given, in the very moment. */
    public const WRITTEN = 'written';

    /** Somebody changed it since. */
    public const SINCE = 'since';

    public int $equal = 0;

    public int $different = 0;

    /** Rows whose record another row wrote later in this field, or whose record they left as it was. */
    public int $left = 0;

    /** @var array<string, array<string, int>> what is different → when that happened → rows */
    public array $classes = [];

    public function differs(string $class, string $when): void
    {
        $this->different++;
        $this->classes[$class][$when] = ($this->classes[$class][$when] ?? 0) + 1;
    }

    /** @return array{equal: int, different: int, left: int, classes: array<string, array<string, int>>} */
    public function toArray(): array
    {
        return ['equal' => $this->equal, 'different' => $this->different, 'left' => $this->left, 'classes' => $this->classes];
    }

    /** @param  array<string, mixed>  $a  as toArray() made it */
    public static function fromArray(array $a): self
    {
        $tally = new self;
        [$tally->equal, $tally->different, $tally->left] = [(int) $a['equal'], (int) $a['different'], (int) $a['left']];
        $tally->classes = $a['classes'];

        return $tally;
    }
}
