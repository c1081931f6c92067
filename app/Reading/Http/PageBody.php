<?php

namespace App\Reading\Http;

use Baggage\Core\Reading\Limits;
use Baggage\Core\Reading\ReadingError;
use GuzzleHttp\Psr7\StreamDecoratorTrait;
use GuzzleHttp\Psr7\Utils;
use Psr\Http\Message\StreamInterface;

/** Takes the unpacked bytes of a page as they arrive, and no more of them than a page may have. */
final class PageBody implements StreamInterface
{
    use StreamDecoratorTrait;

    private int $taken = 0;

    private function __construct(private StreamInterface $stream, private readonly int $page, private readonly int $most)
    {
    }

    public static function of(int $page, int $most): self
    {
        return new self(Utils::streamFor(Utils::tryFopen('php://temp/maxmemory:4194304', 'w+b')), $page, $most);
    }

    /** @throws ReadingError which ends the transfer */
    public function write(string $string): int
    {
        $this->taken += strlen($string);
        if ($this->taken > $this->most) {
            throw ReadingError::broken("Page $this->page is larger than ".Limits::size($this->most).'.');
        }

        return $this->stream->write($string);
    }
}
