<?php

namespace App\Staging;

/** Reads a file in chunks of bytes, giving a hash and the position as it goes. */
final class FileChunks
{
    private const SIZE = 1 << 18;

    public int $read = 0;

    private readonly \HashContext $hash;

    private ?string $digest = null;

    public function __construct(private readonly string $path)
    {
        $this->hash = hash_init('sha256');
    }

    /** @return \Generator<string> */
    public function chunks(): \Generator
    {
        $file = @fopen($this->path, 'rb') ?: throw new \RuntimeException("The file $this->path cannot be opened.");
        try {
            while (! feof($file)) {
                $chunk = fread($file, self::SIZE);
                if ($chunk === false) {
                    throw new \RuntimeException("The file $this->path cannot be read beyond byte ".number_format($this->read).'.');
                }
                $this->read += strlen($chunk);
                hash_update($this->hash, $chunk);
                if ($chunk !== '') {
                    yield $chunk;
                }
            }
        } finally {
            fclose($file);
        }
    }

    public function checksum(): string
    {
        return $this->digest ??= hash_final($this->hash);
    }
}
