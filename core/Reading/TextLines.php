<?php

namespace Baggage\Core\Reading;

/** Splits decoded text into lines; CR LF, LF and lone CR all end a line. */
final class TextLines
{
    /** Known once split() has ended. */
    public bool $endsInLineBreak = true;

    /**
     * @param  iterable<string>  $text
     * @return \Generator<string> lines without their ends
     */
    public function split(iterable $text): \Generator
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
}
