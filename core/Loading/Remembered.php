<?php

namespace Baggage\Core\Loading;

/** A stretch the target has done already: its receipt answers. */
final readonly class Remembered implements Writing
{
    /** @var array<int, Answer> by row */
    private array $answers;

    public function __construct(Receipt $receipt)
    {
        $this->answers = array_column($receipt->answers, null, 'row');
    }

    public function do(array $orders): array
    {
        return array_values(array_intersect_key($this->answers, array_column($orders, null, 'row')));
    }

    public function keep(): void
    {
        // It stands.
    }

    public function drop(): void
    {
        // It stands, whatever becomes of what is made of it.
    }
}
