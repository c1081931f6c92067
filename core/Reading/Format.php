<?php

namespace Baggage\Core\Reading;

/** One kind of thing a table can be read from, with what is particular to it. */
interface Format
{
    /** The word for it in the plan file's reader.kind. */
    public static function kind(): string;

    /**
     * @param  array<string, mixed>  $a  the reader's settings
     *
     * @throws \InvalidArgumentException|ReadingError when a setting makes no sense
     */
    public static function fromArray(array $a): self;

    /** @return array<string, mixed> what fromArray() reads, without what is as usual */
    public function toArray(): array;

    /** A few words, e.g. "Windows-1252, comma". */
    public function describe(): string;
}
