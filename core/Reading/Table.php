<?php

namespace Baggage\Core\Reading;

/** One table being read from a source: its columns first, then its rows once, in order. */
interface Table
{
    /**
     * Known before the rows are read.
     *
     * @throws ReadingError
     */
    public function columns(): Columns;

    /**
     * @return \Generator<RawRow>
     *
     * @throws ReadingError
     */
    public function rows(): \Generator;

    /** Rows by a count that does not rest on rows(), known after it has ended; null when the source has none. */
    public function sourceRows(): ?int;

    /** How that count was taken, e.g. "by the file's lines alone". */
    public function countedBy(): string;

    /** @return list<Remark> what was odd, known after rows() has ended */
    public function remarks(): array;
}
