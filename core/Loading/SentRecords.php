<?php

namespace Baggage\Core\Loading;

/** Port: the records that rows of one load sent, made again. */
interface SentRecords
{
    /**
     * @param  list<int>  $rows
     * @return array<int, array<string, string|null>> row → its record as it was sent, by field; left out where that cannot be said, as
     *                                                when other rows changed the record too
     */
    public function of(array $rows): array;
}
