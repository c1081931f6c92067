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

    private int $commentLines = 0;

    private readonly TextLines $text;

    private ?Decoder $decoder = null;

    public function __construct(
        private readonly DelimitedFormat $format,
        private readonly Layout $layout = new Layout,
    ) {
        $this->text = new TextLines;
    }

    /** @param  iterable<string>  $bytes */
    public function table(iterable $bytes): Table
    {
        return new LaidOut(
            $this->rows($bytes),
            $this->layout,
            $this->expectedRows(...),
            'by the file\'s lines alone',
            $this->remarks(...),
        );
    }

    /** @return list<Remark> */
    private function remarks(): array
    {
        $remarks = TextRemarks::of($this->decoder, $this->text->endsInLineBreak);
        if ($this->commentLines > 0) {
            $remarks[] = new Remark(
                'comments',
                Remark::say($this->commentLines, 'line begins with', 'lines begin with')
                    ." \"{$this->layout->comment}\" and are no rows.",
                $this->commentLines,
            );
        }
        if ($this->blankLines > 0) {
            $remarks[] = new Remark(
                'blank_lines',
                Remark::say($this->blankLines, 'line is empty and is no row', 'lines are empty and are no rows').'.',
                $this->blankLines,
            );
        }

        return $remarks;
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
        $mayComment = $this->layout->comment !== '';
        $this->lines = $this->innerBreaks = $this->blankLines = $this->commentLines = 0;
        $this->decoder = new Decoder($this->format->encoding);
        [$pending, $break, $start, $longest] = [null, '', 0, Limits::now()->record];
        foreach ($this->text->split(self::textual($this->decoder->decode($bytes))) as $line) {
            $this->lines++;
            if ($pending !== null) {
                $this->innerBreaks++;
                $pending .= $break.$line;
            } elseif ($this->lines <= $this->layout->skip || (($line === '' || $mayComment) && $this->isNoRow($line))) {
                continue;
            } elseif ($quote === '' || strpos($line, $quote) === false) {
                yield new RawRow($this->lines, explode($delimiter, $line));

                continue;
            } else {
                $start = $this->lines;
                $pending = $line;
            }
            if (strlen($pending) > $longest) {
                throw ReadingError::unclosedQuote($start);
            }
            $break = $this->text->break;
            // Only a line holding a quote can end the record.
            $cells = strpos($line, $quote) === false ? null : $this->split($pending, $delimiter, $quote);
            if ($cells !== null) {
                yield new RawRow($start, $cells);
                $pending = null;
            }
        }
        if ($pending !== null) {
            throw ReadingError::unclosedQuote($start);
        }
    }

    /** Empty lines and comments are counted, and are none. */
    private function isNoRow(string $line): bool
    {
        $comment = $this->layout->comment;
        $isComment = $line !== '' && $comment !== '' && str_starts_with($line, $comment);
        $this->blankLines += $line === '' ? 1 : 0;
        $this->commentLines += $isComment ? 1 : 0;

        return $line === '' || $isComment;
    }

    /**
     * @param  iterable<string>  $decoded
     * @return \Generator<string>
     */
    private static function textual(iterable $decoded): \Generator
    {
        foreach ($decoded as $text) {
            if (str_contains($text, "\0")) {
                throw ReadingError::notText('a binary file (it holds NUL bytes)');
            }
            yield $text;
        }
    }

    /**
     * Rows the file should hold by its physical lines alone: a count that does not trust the cell splitting.
     * Known after rows() has been read to its end.
     */
    public function expectedRows(): int
    {
        return max(
            0,
            $this->lines
                - min($this->layout->skip, $this->lines)
                - $this->blankLines
                - $this->commentLines
                - $this->innerBreaks
                - ($this->layout->header ? 1 : 0),
        );
    }

    public function endsInLineBreak(): bool
    {
        return $this->text->endsInLineBreak;
    }

    /** @return list<string>|null null while a quote is still open */
    private function split(string $record, string $delimiter, string $quote): ?array
    {
        $cells = [];
        $length = strlen($record);
        $at = 0;
        $width = strlen($delimiter);
        while (true) {
            $cell = '';
            if ($at < $length && $record[$at] === $quote) {
                $cell = $this->quoted($record, $quote, $at);
                if ($cell === null) {
                    return null;
                }
            }
            $next = strpos($record, $delimiter, $at);
            $cells[] = $cell.($next === false ? substr($record, $at) : substr($record, $at, $next - $at));
            if ($next === false) {
                return $cells;
            }
            $at = $next + $width;
        }
    }

    /**
     * @param  int  $at  where its opening quote stands; moved behind the closing one
     * @return string|null null while the quote is still open
     */
    private function quoted(string $record, string $quote, int &$at): ?string
    {
        $cell = '';
        $at++;
        while (true) {
            $end = $this->format->backslash ? $this->closing($record, $quote, $at) : strpos($record, $quote, $at);
            if ($end === false) {
                return null;
            }
            $cell .= substr($record, $at, $end - $at);
            $at = $end + 1;
            if (($record[$at] ?? '') !== $quote) {
                break;
            }
            $cell .= $quote;
            $at++;
        }

        return $this->format->backslash ? str_replace(["\\$quote", '\\\\'], [$quote, '\\'], $cell) : $cell;
    }

    /** The next quote that no backslash stands before. */
    private function closing(string $record, string $quote, int $at): int|false
    {
        $length = strlen($record);
        while ($at < $length) {
            $at += strcspn($record, "\\$quote", $at);
            if ($at >= $length) {
                return false;
            }
            if ($record[$at] === $quote) {
                return $at;
            }
            $at += 2;
        }

        return false;
    }
}
