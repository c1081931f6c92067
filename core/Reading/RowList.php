<?php

namespace Baggage\Core\Reading;

/** Row numbers collected on the way, bounded: all are counted, the first are kept. */
final class RowList
{
    public const KEPT = 2000;

    public int $count = 0;

    /** @var list<int> */
    public array $rows = [];

    public function __construct(private readonly int $most = self::KEPT)
    {
    }

    public function add(int $row): void
    {
        if ($this->count++ < $this->most) {
            $this->rows[] = $row;
        }
    }
}
