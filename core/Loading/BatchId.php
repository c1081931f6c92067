<?php

namespace Baggage\Core\Loading;

/** Names one batch for its receipt: the same rows of the same pass always have the same name. */
final readonly class BatchId
{
    /** @param  int  $after the last row number before the batch */
    public function __construct(public string $installation, public int $pass, public int $load, public int $after)
    {
    }

    public function name(): string
    {
        return "$this->installation:$this->pass:$this->load:$this->after";
    }
}
