<?php

namespace Baggage\Core\Reading;

/**
 * Reads delimited text as RFC 4180 describes it, with any delimiter, quote and line end.
 *
 * A line without a quote is split at once; only records with quotes go through the slower walk. Blank
 * lines between records are no rows (they are counted). Text after a closing quote is kept as it stands.
 */
final class DelimitedReader
{
    private int $lines = 0;

    private int $innerBreaks = 0;

    private int $blankLines = 0;

    private bool $endsInLineBreak = true;

    public function __construct(private readonly DelimitedFormat $format)
    {
    }

    /**
     * @param  iterable<string>  $bytes
     * @return \Generator<RawRow> the header first when the format has one
     */
    public function rows(iterable $bytes): \Generator
    {
        /** @var non-empty-string $delimiter the format sees to it */
        $delimiter = $this->format->delimiter;
        $quote = $this->format->quote;
        $this->lines = $this->innerBreaks = $this->blankLines = 0;
        $pending = null;
        $start = 0;
        foreach ($this->lines((new Decoder($this->format->encoding))->decode($bytes)) as $line) {
            $this->lines++;
            if ($pending === null && $this->lines <= $this->format->skip) {
                continue;
            }
            if ($pending === null) {
                if ($line === '') {
                    $this->blankLines++;

                    continue;
                }
                if ($quote === '' || strpos($line, $quote) === false) {
                    yield new RawRow($this->lines, explode($delimiter, $line));

                    continue;
                }
                $start = $this->lines;
                $pending = $line;
            } else {
                $this->innerBreaks++;
                $pending .= "\n".$line;
                // Only a line holding a quote can end the record.
                if (strpos($line, $quote) === false) {
                    continue;
                }
            }
            $cells = $this->split($pending, $delimiter, $quote);
            if ($cells !== null) {
                yield new RawRow($start, $cells);
                $pending = null;
            }
        }
        if ($pending !== null) {
            throw ReadingError::unclosedQuote($start);
        }
    }

    /**
     * Rows the file should hold by its physical lines alone: a count that does not trust the cell splitting.
     * Known after rows() has been read to its end.
     */
    public function expectedRows(): int
    {
        return max(0, $this->lines - min($this->format->skip, $this->lines) - $this->blankLines - $this->innerBreaks - ($this->format->header ? 1 : 0));
    }

    public function physicalLines(): int
    {
        return $this->lines;
    }

    public function endsInLineBreak(): bool
    {
        return $this->endsInLineBreak;
    }

    /**
     * @param  iterable<string>  $text
     * @return \Generator<string> lines without their ends; CR LF, LF and lone CR all end a line
     */
    private function lines(iterable $text): \Generator
    {
        $rest = '';
        $carriage = false;
        foreach ($text as $chunk) {
            if ($chunk === '') {
                continue;
            }
            // A CR at the end of one chunk and the LF at the start of the next are one line end.
            if ($carriage && $chunk[0] === "\n") {
                $chunk = substr($chunk, 1);
            }
            $carriage = $chunk !== '' && $chunk[-1] === "\r";
            if (strpos($chunk, "\r") !== false) {
                $chunk = str_replace(["\r\n", "\r"], "\n", $chunk);
            }
            $parts = explode("\n", $chunk);
            $parts[0] = $rest.$parts[0];
            $rest = (string) array_pop($parts);
            yield from $parts;
        }
        $this->endsInLineBreak = $rest === '';
        if ($rest !== '') {
            yield $rest;
        }
    }

    /** @return list<string>|null null while a quote is still open */
    private function split(string $record, string $delimiter, string $quote): ?array
    {
        $cells = [];
        $length = strlen($record);
        $at = 0;
        $width = strlen($delimiter);
        while (true) {
            if ($at < $length && $record[$at] === $quote) {
                $cell = '';
                $at++;
                while (true) {
                    $end = strpos($record, $quote, $at);
                    if ($end === false) {
                        return null;
                    }
                    $cell .= substr($record, $at, $end - $at);
                    if (($record[$end + 1] ?? '') === $quote) {
                        $cell .= $quote;
                        $at = $end + 2;

                        continue;
                    }
                    $at = $end + 1;
                    break;
                }
                $next = strpos($record, $delimiter, $at);
                $tail = $next === false ? substr($record, $at) : substr($record, $at, $next - $at);
                $cells[] = $cell.$tail;
            } else {
                $next = strpos($record, $delimiter, $at);
                $cells[] = $next === false ? substr($record, $at) : substr($record, $at, $next - $at);
            }
            if ($next === false) {
                return $cells;
            }
            $at = $next + $width;
        }
    }
}
