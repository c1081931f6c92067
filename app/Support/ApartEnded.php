<?php

namespace App\Support;

/** A process of its own did not come to an answer. */
final class ApartEnded extends \RuntimeException
{
    private function __construct(string $message, public readonly bool $isSlow = false)
    {
        parent::__construct($message);
    }

    public static function slow(float $seconds): self
    {
        return new self('It took longer than '.self::number($seconds).' s and was ended.', true);
    }

    public static function memory(int $mb): self
    {
        return new self('It needed more memory than the '.number_format($mb).' MB there are for it, and was ended.');
    }

    public static function answer(int $bytes): self
    {
        return new self('It gave more than '.number_format($bytes).' bytes to show, and was ended.');
    }

    /** @param  string  $how  as the system says it */
    public static function broke(string $how): self
    {
        return new self("The process that read it ended by itself ($how). Something in the data does that; nothing of it was kept.");
    }

    private static function number(float $n): string
    {
        return rtrim(rtrim(number_format($n, 1), '0'), '.');
    }
}
