<?php

namespace App\Overview;

/** An entity as pages list it. */
final readonly class ListedEntity
{
    /** @param  int|null  $wave  null where no load fills it */
    public function __construct(public int $id, public string $name, public ?int $wave)
    {
    }
}
