<?php

namespace App\Reading;

/** Reads a file in chunks of bytes. */
final class FileChunks
{
    private const SIZE = 1 << 18;

    public function __construct(private readonly string $path)
    {
    }

    /** @return \Generator<string> */
    public function chunks(): \Generator
    {
        $file = @fopen($this->path, 'rb') ?: throw new \RuntimeException("The file $this->path cannot be opened.");
        try {
            while (! feof($file)) {
                $chunk = fread($file, self::SIZE);
                if ($chunk === false) {
                    throw new \RuntimeException(
                        "The file $this->path cannot be read beyond byte ".number_format((int) ftell($file)).'.',
                    );
                }
                if ($chunk !== '') {
                    yield $chunk;
                }
            }
        } finally {
            fclose($file);
        }
    }
}
