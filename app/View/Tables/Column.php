<?php

namespace App\View\Tables;

/** A column of a table: what it is called, and the value it is sorted, filtered and exported by. */
final readonly class Column
{
    /**
     * @param  string  $key  in the address; empty for a column that holds no value
     * @param  \Closure(mixed): (string|int|float|null)|null  $value  of a row
     */
    private function __construct(
        public string $key,
        public string $label,
        public ?\Closure $value,
        public bool $isNumber,
        public bool $isHidden = false,
    ) {
    }

    /** @param  \Closure(mixed): (string|int|float|null)  $value */
    public static function text(string $key, string $label, \Closure $value): self
    {
        return new self($key, $label, $value, false);
    }

    /** @param  \Closure(mixed): (string|int|float|null)  $value  null where there is none */
    public static function number(string $key, string $label, \Closure $value): self
    {
        return new self($key, $label, $value, true);
    }

    /** Holds actions, which say what they are; its label is for those who cannot see them. */
    public static function bare(string $label): self
    {
        return new self('', $label, null, false, true);
    }

    /** Holds what has no one value, as a picture. */
    public static function plain(string $label): self
    {
        return new self('', $label, null, false);
    }
}
