<?php

namespace App\Profiling;

use App\Staging\ValueHashes;

/** Values of the columns that identify the rows of a take, as they were hashed to find that out: what refers to them is looked up there. */
final readonly class KeyHashes
{
    /** @param  array<string, int>  $sides  headers as JSON → side of the hashes */
    public function __construct(public ValueHashes $hashes, private array $sides)
    {
    }

    /** @param  string  $headers  as JSON */
    public function side(string $headers): ?int
    {
        return $this->sides[$headers] ?? null;
    }
}
