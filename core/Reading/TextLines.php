<?php

namespace Baggage\Core\Reading;

/** Splits decoded text into lines; CR LF, LF and lone CR all end a line. */
final class TextLines
{
    /** Known once split() has ended. */
    public bool $endsInLineBreak = true;

    /** What ended the line that was yielded last, so that a break inside a cell stays the one that was there. */
    public string $break = "\n";

    /**
     * @param  iterable<string>  $text
     * @return \Generator<string> lines without their ends
     *
     * @throws ReadingError
     */
    public function split(iterable $text): \Generator
    {
        $rest = '';
        $carriage = '';
        // What is longer is no line, and would be held in memory whole.
        $longest = Limits::now()->line;
        foreach ($text as $chunk) {
            if ($chunk === '') {
                continue;
            }
            // A CR at the end of one chunk may belong to an LF at the start of the next.
            $chunk = $carriage.$chunk;
            $carriage = $chunk[-1] === "\r" ? "\r" : '';
            if ($carriage !== '') {
                $chunk = substr($chunk, 0, -1);
            }
            if (strlen($chunk) > $longest) {
                // Where a line may be shorter than what comes at once.
                $parts = preg_split('/[\r\n]/', $chunk) ?: [''];
                max(array_map(strlen(...), $parts)) <= $longest ?: throw ReadingError::longLine($longest);
            }
            yield from $this->lines($rest, $chunk);
            if (strlen($rest) > $longest) {
                throw ReadingError::longLine($longest);
            }
        }
        if ($carriage !== '') {
            $this->break = "\r";
            yield $rest;
            $rest = '';
        }
        $this->endsInLineBreak = $rest === '';
        if ($rest !== '') {
            $this->break = '';
            yield $rest;
        }
    }

    /**
     * @param  string  $rest  the beginning of a line from before; afterwards that of the line the chunk leaves open
     * @return \Generator<string>
     */
    private function lines(string &$rest, string $chunk): \Generator
    {
        $carriages = substr_count($chunk, "\r");
        if (
            $carriages === 0
            || ($carriages === substr_count($chunk, "\r\n") && $carriages === substr_count($chunk, "\n"))
        ) {
            // Nearly every file has one kind of break.
            $break = $carriages === 0 ? "\n" : "\r\n";
            $parts = explode($break, $chunk);
            $parts[0] = $rest.$parts[0];
            $rest = (string) array_pop($parts);
            $this->break = $break;
            yield from $parts;

            return;
        }
        $parts = preg_split('/(\r\n|\n|\r)/', $chunk, -1, PREG_SPLIT_DELIM_CAPTURE) ?: [''];
        for ($i = 0, $last = count($parts) - 1; $i < $last; $i += 2) {
            $this->break = $parts[$i + 1];
            yield $rest.$parts[$i];
            $rest = '';
        }
        $rest .= $parts[$last];
    }
}
