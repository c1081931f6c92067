<?php

namespace Baggage\Core\Mapping;

use Baggage\Core\Reading\Column;
use Baggage\Core\Targets\Field;

/** What is known of the columns of a feed besides their profiles. */
interface Known
{
    /** For a field that refers to another entity: the column leads to an extract that becomes that entity. */
    public function reference(Field $field, Column $column): ?Evidence;

    /**
     * For a field with a list of values.
     *
     * @param  list<string>  $allowed
     */
    public function list(Field $field, array $allowed, Column $column): ?Evidence;

    /** Whether the column alone is the legacy key. */
    public function isLegacyKey(Column $column): bool;
}
