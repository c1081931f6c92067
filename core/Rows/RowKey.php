<?php

namespace Baggage\Core\Rows;

use Baggage\Core\Reading\Columns;

/**
 * What names a row of an extract in all its takes: the cells of the columns that identify rows, as read; where those are not unique,
 * the hash of the whole row and its place among equal ones.
 */
final readonly class RowKey
{
    /**
     * @param  list<string>|null  $columns  headers; null where rows have no key
     * @param  list<string|null>  $values  of these columns
     * @param  string  $hash  of the row, 16 hexadecimal digits
     * @param  int|null  $place  among rows with this hash, from 1; null where the key names the row
     */
    public function __construct(public ?array $columns, public array $values, public string $hash, public ?int $place = null)
    {
    }

    /**
     * @param  list<string>|null  $columns
     * @param  list<string|null>  $cells
     */
    public static function of(?array $columns, array $cells, Columns $of, string $hash): self
    {
        $values = [];
        foreach ($columns ?? [] as $header) {
            $at = $of->byHeader()[$header] ?? null;
            if ($at === null) {
                return new self(null, [], $hash);
            }
            $values[] = $cells[$at] ?? null;
        }

        $isBlank = array_filter($values, fn ($v) => trim((string) $v) !== '') === [];

        return $isBlank ? new self(null, [], $hash) : new self($columns, $values, $hash);
    }

    /** The same row once the corrected value of one of its key columns stands in the source; null where the column is none of them. */
    public function with(string $header, ?string $value): ?self
    {
        $at = array_search($header, $this->columns ?? [], true);

        return $at === false || $this->place !== null
            ? null
            : new self($this->columns, array_values(array_replace($this->values, [$at => $value])), $this->hash);
    }

    /** Equal for keys that name the same row; null where only its place does. */
    public function identity(): ?string
    {
        return $this->columns === null || $this->place !== null
            ? null
            : (string) json_encode([$this->columns, $this->values], JSON_INVALID_UTF8_SUBSTITUTE | JSON_UNESCAPED_UNICODE);
    }
}
