<?php

namespace Baggage\Core\Loading;

/** Port: claims of the rows of one load, kept while a pass finds those that are in each other's way. */
interface ClaimBook
{
    /** Rows for this worker alone to work out claims of: first those somebody took and never recorded. */
    public function next(int $most): ?Portion;

    /** @param  array<int, non-empty-list<string>>  $claims  row → hashes of 8 bytes; all or nothing, with that the portion is done */
    public function put(Portion $portion, array $claims): void;
}
