<?php

namespace Baggage\Core\Rows;

/** Numbers of rows, a bit for each: a million of them take no more than 125 kB. */
final class RowSet
{
    /** Bytes it grows by. */
    private const MORE = 4_096;

    public function __construct(private string $bits = '')
    {
    }

    /** As packed() gives it. */
    public static function unpacked(string $packed): self
    {
        return new self($packed === '' ? '' : (string) gzinflate($packed));
    }

    public function packed(): string
    {
        return (string) gzdeflate(rtrim($this->bits, "\0"), 1);
    }

    /** @return bool whether it is new in it */
    public function add(int $row): bool
    {
        [$byte, $bit] = [$row >> 3, 1 << ($row & 7)];
        if (strlen($this->bits) <= $byte) {
            $this->bits = str_pad($this->bits, $byte + self::MORE, "\0");
        }
        $before = ord($this->bits[$byte]);
        $this->bits[$byte] = chr($before | $bit);

        return ($before & $bit) === 0;
    }

    public function has(int $row): bool
    {
        return isset($this->bits[$row >> 3]) && (ord($this->bits[$row >> 3]) & 1 << ($row & 7)) !== 0;
    }

    public function count(): int
    {
        $n = 0;
        foreach (count_chars($this->bits, 1) as $byte => $times) {
            $n += $times * substr_count(decbin($byte), '1');
        }

        return $n;
    }

    /** Those that are in both. */
    public function and(self $other): self
    {
        return new self($this->bits & $other->bits);
    }

    /** Those that are in one of them, or both. */
    public function or(self $other): self
    {
        return new self($this->bits | $other->bits);
    }
}
