<?php

namespace App\Looking;

/** It takes longer than a page waits: a worker looks, and the page asks again. */
final class LookGoing extends \RuntimeException
{
    public static function on(): self
    {
        return new self('This takes longer than a page waits for. A worker looks at it now; it is shown here when it is ready.');
    }
}
