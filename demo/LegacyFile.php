<?php

namespace Demo;

/** One legacy text file in the manner of the program that wrote it. */
final class LegacyFile
{
    /** @var resource */
    private $file;

    public int $rows = 0;

    /** @param  list<string>  $header */
    public function __construct(
        string $path,
        private readonly string $delimiter,
        private readonly string $encoding,
        array $header,
        private readonly bool $quoteAll = false,
    ) {
        @mkdir(dirname($path), 0777, true);
        $this->file = fopen($path, 'wb') ?: throw new \RuntimeException("$path cannot be written.");
        $this->put($header);
    }

    /** @param  list<string>  $cells */
    public function row(array $cells): int
    {
        $this->put($cells);

        return ++$this->rows;
    }

    public function close(): void
    {
        fclose($this->file);
    }

    /** @param  list<string>  $cells */
    private function put(array $cells): void
    {
        $line = implode(
            $this->delimiter,
            array_map(
                fn (string $c) => $this->quoteAll || strpbrk($c, "\"\n$this->delimiter") !== false
                    ? '"'.str_replace('"', '""', $c).'"'
                    : $c,
                $cells,
            ),
        )."\r\n";
        fwrite(
            $this->file,
            $this->encoding === 'UTF-8' ? $line : (string) iconv('UTF-8', $this->encoding.'//TRANSLIT', $line),
        );
    }
}
