<?php

namespace Baggage\Core\Loading;

use Baggage\Core\Crosswalks\LegacyKey;
use Baggage\Core\Mapping\Mapper;

/** Announces the legacy keys of a whole feed, for loads whose records are referred to before they are loaded. */
final readonly class KeyWork
{
    private const AT_ONCE = 10_000;

    public function __construct(private FeedRows $rows, private Mapper $mapper, private KeyBook $book)
    {
    }

    public function run(): void
    {
        while (($portion = $this->book->next(self::AT_ONCE)) !== null) {
            $keys = array_map($this->mapper->legacyKey(...), $this->rows->between($portion->after, $portion->to));
            $this->book->put($portion, array_map(fn (string $key) => mb_substr($key, 0, LegacyKey::LONGEST), $keys));
        }
    }
}
