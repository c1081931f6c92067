<?php

namespace Baggage\Core\Loading;

use Baggage\Core\Rows\Journey;

/** Port: what people decided to leave behind, as a pass sees it. */
interface Waivers
{
    /**
     * @param  non-empty-list<Journey>  $rejected
     * @return list<int> numbers of rows whose failure was waived
     */
    public function covering(array $rejected): array;
}
