<?php

namespace Baggage\Core\Rows;

/** A correction as it lies over a row of a take. */
final readonly class Laid
{
    /**
     * @param  int|null  $position  of the cell; null where the whole row is replaced
     * @param  string|null  $old  the cell as read, or all cells of the row as JSON
     * @param  string|null  $new  the same as it is to be
     */
    public function __construct(public ?int $position, public ?string $old, public ?string $new)
    {
    }

    /**
     * It holds only while the source says what it was made for.
     *
     * @param  list<string|null>  $cells
     * @return list<string|null>
     */
    public function over(array $cells): array
    {
        if ($this->position === null) {
            $old = json_decode((string) $this->old, true);

            return $cells === $old ? array_values((array) json_decode((string) $this->new, true)) : $cells;
        }
        if (($cells[$this->position] ?? null) !== $this->old) {
            return $cells;
        }

        return array_values(array_replace(array_pad($cells, $this->position + 1, null), [$this->position => $this->new]));
    }
}
