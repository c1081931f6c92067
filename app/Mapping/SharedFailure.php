<?php

namespace App\Mapping;

use Illuminate\Database\Query\Builder;

/** Rows of a check that fail for what only all rows together show. */
final readonly class SharedFailure
{
    /**
     * @param  list<string>  $fields  none for the legacy key
     * @param  Builder  $rows  a query for their numbers
     */
    public function __construct(
        public string $code,
        public array $fields,
        public string $message,
        public Builder $rows,
    ) {
    }
}
