<?php

namespace App\Support;

/** What a process of its own may take. */
final readonly class Bounds
{
    /**
     * @param  float|null  $seconds  by the clock on the wall; null where only whoever watches it ends it
     * @param  int  $memory  MB
     * @param  int  $answer  bytes
     */
    public function __construct(public ?float $seconds, public int $memory, public int $answer)
    {
    }

    /** Of a name in config/baggage.php, "apart". */
    public static function of(string $name): self
    {
        $of = (array) config("baggage.apart.$name");

        return new self($of['seconds'] ?? null, (int) $of['memory'], (int) $of['answer']);
    }
}
