<?php

namespace Baggage\Core\Writing;

use Baggage\Core\Reading\DelimitedFormat;
use Baggage\Core\Reading\Encoding;
use Baggage\Core\Reading\TextLines;

/**
 * A copy of a file of separated values with cells added at the end of its records, in its own delimiter, quotes, encoding and line ends;
 * every other byte stays as it is.
 */
final readonly class AnnotatedText
{
    public function __construct(private DelimitedFormat $format)
    {
    }

    /**
     * @param  iterable<string>  $bytes
     * @param  iterable<int, list<string>>  $records  physical line a record begins in, from 1 → cells to add, in their order
     * @param  int|null  $head  line that names the columns
     * @param  list<string>  $titles  of the added columns
     * @return \Generator<string>
     */
    public function of(iterable $bytes, iterable $records, ?int $head, array $titles): \Generator
    {
        $isWide = in_array($this->format->encoding, [Encoding::Utf16LE, Encoding::Utf16BE], true);
        foreach ($this->lines($isWide ? self::narrow($bytes, $this->format->encoding) : $bytes, $records, $head, $titles) as $text) {
            yield $isWide ? mb_convert_encoding($text, $this->format->encoding->value, 'UTF-8') : $text;
        }
    }

    /**
     * @param  iterable<string>  $bytes
     * @param  iterable<int, list<string>>  $records
     * @param  list<string>  $titles
     * @return \Generator<string>
     */
    private function lines(iterable $bytes, iterable $records, ?int $head, array $titles): \Generator
    {
        $next = (fn () => yield from $records)();
        $lines = new TextLines;
        $n = 0;
        $cells = null;
        $held = [];
        $isOpen = false;
        foreach ($lines->split($bytes) as $line) {
            $n++;
            $isHead = $n === $head;
            if ($isHead || ($next->valid() && $next->key() === $n)) {
                // A quote nobody closed: the record ended with the last line that says something.
                yield from $this->flushed($held, $cells);
                [$held, $isOpen] = [[], false];
                $cells = $isHead ? $titles : $next->current();
                $isHead ?: $next->next();
            }
            if ($cells === null) {
                yield $line.$lines->break;

                continue;
            }
            $held[] = [$line, $lines->break];
            $isOpen = $isOpen !== ($this->quotes($line) % 2 === 1);
            if (! $isOpen) {
                yield from $this->flushed($held, $cells);
                [$held, $cells] = [[], null];
            }
        }
        yield from $this->flushed($held, $cells);
    }

    /**
     * @param  list<array{string, string}>  $held  lines of a record, and what ended them
     * @param  list<string>|null  $cells
     * @return \Generator<string>
     */
    private function flushed(array $held, ?array $cells): \Generator
    {
        $last = null;
        foreach ($held as $i => [$line]) {
            $last = trim($line) === '' && $last !== null ? $last : $i;
        }
        foreach ($held as $i => [$line, $break]) {
            yield $line.($i === $last && $cells !== null ? $this->added($cells) : '').$break;
        }
    }

    private function quotes(string $line): int
    {
        if ($this->format->quote === '') {
            return 0;
        }

        return substr_count($line, $this->format->quote)
            - ($this->format->backslash ? substr_count($line, '\\'.$this->format->quote) : 0);
    }

    /** @param  list<string>  $cells */
    private function added(array $cells): string
    {
        $quote = $this->format->quote;
        $text = '';
        foreach ($cells as $cell) {
            $cell = Guarded::text(str_replace(["\r\n", "\r", "\n"], ' ', $cell));
            if (strpbrk($cell, $this->format->delimiter.$quote) !== false) {
                $escaped = $this->format->backslash ? '\\'.$quote : $quote.$quote;
                // Without quotes the delimiter has no place within a cell.
                $cell = $quote === ''
                    ? str_replace($this->format->delimiter, ' ', $cell)
                    : $quote.str_replace($quote, $escaped, $cell).$quote;
            }
            $text .= $this->format->delimiter.$cell;
        }

        return match ($this->format->encoding) {
            Encoding::Utf8, Encoding::Mixed, Encoding::Utf16LE, Encoding::Utf16BE => $text,
            default => (string) iconv('UTF-8', $this->format->encoding->value.'//TRANSLIT', $text),
        };
    }

    /**
     * @param  iterable<string>  $bytes
     * @return \Generator<string> in UTF-8
     */
    private static function narrow(iterable $bytes, Encoding $encoding): \Generator
    {
        $rest = '';
        foreach ($bytes as $chunk) {
            $chunk = $rest.$chunk;
            $cut = strlen($chunk) - strlen($chunk) % 2;
            // A pair of surrogates is not cut between its halves.
            $last = $cut < 2 ? 0 : ord($chunk[$encoding === Encoding::Utf16LE ? $cut - 1 : $cut - 2]);
            $cut -= $last >= 0xD8 && $last <= 0xDB ? 2 : 0;
            $rest = substr($chunk, $cut);
            yield mb_convert_encoding(substr($chunk, 0, $cut), 'UTF-8', $encoding->value);
        }
        yield $rest === '' ? '' : mb_convert_encoding($rest, 'UTF-8', $encoding->value);
    }
}
