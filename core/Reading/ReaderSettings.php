<?php

namespace Baggage\Core\Reading;

/** How an extract is read, kept with it and used again for its next take. */
final readonly class ReaderSettings
{
    /**
     * @param  string|null  $member  the file inside a zip archive
     * @param  bool  $padShort  whether a row with too few cells is filled up with blanks instead of being rejected when it loads
     */
    public function __construct(
        public Format $format,
        public Layout $layout = new Layout,
        public ?string $member = null,
        public bool $padShort = false,
    ) {
    }

    /** @return array<string, mixed> only what differs from the usual */
    public function toArray(): array
    {
        $kind = $this->format::kind();

        return array_filter(
            [
                'kind' => $kind === 'delimited' ? null : $kind,
                'member' => $this->member,
                'pad_short' => $this->padShort ?: null,
            ],
            fn ($v) => $v !== null,
        )
            + $this->format->toArray()
            + $this->layout->toArray();
    }

    /** Name of the source's connection it is read through, null when it comes from a file. */
    public function connection(): ?string
    {
        return match (true) {
            $this->format instanceof Query\QueryFormat && $this->format->connection !== '',
            $this->format instanceof Http\HttpFormat => $this->format->connection,
            default => null,
        };
    }

    /** Whether it is made anew from what the migration already holds or reaches, so that no file is needed. */
    public function isReadAgain(): bool
    {
        return $this->connection() !== null || $this->format::kind() === 'feed';
    }

    public function describe(): string
    {
        return $this->format->describe().($this->member === null ? '' : ", in $this->member");
    }
}
