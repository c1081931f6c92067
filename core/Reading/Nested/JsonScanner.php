<?php

namespace Baggage\Core\Reading\Nested;

use Baggage\Core\Reading\Limits;
use Baggage\Core\Reading\ReadingError;

/** Walks a JSON text that arrives in chunks, holding no more of it than one record. */
final class JsonScanner
{
    private string $buffer = '';

    private int $at = 0;

    private int $line = 1;

    /** @param  \Iterator<string>  $chunks */
    private function __construct(private readonly \Iterator $chunks)
    {
    }

    /** @param  iterable<string>  $chunks  UTF-8 */
    public static function of(iterable $chunks): self
    {
        return new self((function () use ($chunks) {
            yield from $chunks;
        })());
    }

    /**
     * @param  list<string>  $path  keys from the root to the records
     * @return \Generator<int, string> line the record begins in → its JSON text
     */
    public function records(array $path): \Generator
    {
        yield from $this->inside($path, 'the document');
        if ($this->peek() !== null) {
            throw ReadingError::broken("Line $this->line: something stands after the end of the JSON document.");
        }
    }

    /**
     * Paths of all lists of objects near the root, as far as the text goes.
     *
     * @return list<string>
     */
    public function lists(int $deep = 4): array
    {
        $found = [];
        try {
            $this->explore('', $deep, $found);
        } catch (ReadingError) {
            // A sample ends somewhere; what came before it is enough.
        }

        return $found;
    }

    /**
     * @param  list<string>  $path
     * @return \Generator<int, string>
     */
    private function inside(array $path, string $where): \Generator
    {
        if ($path === []) {
            yield from $this->elements();

            return;
        }
        $wanted = array_shift($path);
        if ($this->peek() !== '{') {
            throw ReadingError::broken(
                "Line $this->line: $where is no object, so it has no \"$wanted\" to read records from.",
            );
        }
        $this->at++;
        $met = false;
        if ($this->peek() === '}') {
            $this->at++;
        } else {
            do {
                $key = $this->key();
                if ($key === $wanted && ! $met) {
                    $met = true;
                    yield from $this->inside($path, "\"$key\"");
                } else {
                    $this->capture();
                }
            } while ($this->separator('}'));
        }
        if (! $met) {
            throw ReadingError::broken("The document has no \"$wanted\" in $where to read records from.");
        }
    }

    /** @return \Generator<int, string> line → each element of an array, or the one value that stands here */
    private function elements(): \Generator
    {
        $isArray = $this->peek() === '[';
        $this->at += $isArray ? 1 : 0;
        if ($isArray && $this->peek() === ']') {
            $this->at++;

            return;
        }
        do {
            $this->peek();
            $line = $this->line;
            yield $line => $this->capture();
        } while ($isArray && $this->separator(']'));
    }

    /** @param  list<string>  $found */
    private function explore(string $path, int $deep, array &$found): void
    {
        $next = $this->peek();
        if ($next === '[') {
            $this->at++;
            if ($this->peek() === '{') {
                $found[] = $path;
            }
            if ($this->peek() === ']') {
                $this->at++;

                return;
            }
            do {
                $this->peek();
                $this->capture();
            } while ($this->separator(']'));
        } elseif ($next === '{' && $deep > 0) {
            $this->at++;
            if ($this->peek() === '}') {
                $this->at++;

                return;
            }
            do {
                $key = $this->key();
                $this->explore($path === '' ? $key : "$path.$key", $deep - 1, $found);
            } while ($this->separator('}'));
        } else {
            $this->capture();
        }
    }

    private function key(): string
    {
        if ($this->peek() !== '"') {
            throw ReadingError::broken("Line $this->line: a key in quotes was expected.");
        }
        $key = json_decode($this->capture());
        if (! is_string($key) || $this->peek() !== ':') {
            throw ReadingError::broken("Line $this->line: a colon was expected after a key.");
        }
        $this->at++;
        $this->peek();

        return $key;
    }

    /** Whether another element follows; false at the closing sign. */
    private function separator(string $close): bool
    {
        $next = $this->peek();
        if ($next !== ',' && $next !== $close) {
            throw ReadingError::broken(
                $next === null
                    ? 'The file ends in the middle of a JSON document: it is cut off. Ask for the export again.'
                    : "Line $this->line: a comma or \"$close\" was expected, and \"$next\" stands there.",
            );
        }
        $this->at++;

        return $next === ',';
    }

    /**
     * The next character that is not white space, without taking it.
     *
     * @phpstan-impure
     */
    private function peek(): ?string
    {
        while (true) {
            $blank = strspn($this->buffer, " \t\r\n", $this->at);
            if ($blank > 0) {
                $this->line += substr_count($this->buffer, "\n", $this->at, $blank);
                $this->at += $blank;
            }
            if ($this->at < strlen($this->buffer)) {
                return $this->buffer[$this->at];
            }
            if (! $this->more()) {
                return null;
            }
        }
    }

    private function largeRecord(): ReadingError
    {
        $size = Limits::size(Limits::now()->record);

        return ReadingError::broken("The record that begins in line $this->line is larger than $size. Is the path to the records right?");
    }

    private function more(): bool
    {
        if (! $this->chunks->valid()) {
            return false;
        }
        if ($this->at > 0) {
            $this->buffer = substr($this->buffer, $this->at);
            $this->at = 0;
        }
        if (strlen($this->buffer) > Limits::now()->record) {
            throw $this->largeRecord();
        }
        $this->buffer .= $this->chunks->current();
        $this->chunks->next();

        return true;
    }

    /** Takes one whole value as text. */
    private function capture(): string
    {
        $first = $this->peek();
        if ($first === null) {
            throw ReadingError::broken(
                'The file ends in the middle of a JSON document: it is cut off. Ask for the export again.',
            );
        }
        $length = $first === '{' || $first === '[' || $first === '"' ? $this->lengthOfNested() : $this->lengthOfPlain();
        if ($length > Limits::now()->record) {
            throw $this->largeRecord();
        }
        $text = substr($this->buffer, $this->at, $length);
        $this->line += substr_count($text, "\n");
        $this->at += $length;
        if ($text === '') {
            throw ReadingError::broken("Line $this->line: a value was expected, and \"$first\" stands there.");
        }

        return $text;
    }

    /** Positions are relative to $this->at, which more() and need() may move. */
    private function lengthOfPlain(): int
    {
        $length = 0;
        do {
            $length += strcspn($this->buffer, ",]} \t\r\n", $this->at + $length);
        } while ($this->at + $length >= strlen($this->buffer) && $this->more());

        return $length;
    }

    private function lengthOfNested(): int
    {
        $from = $depth = 0;
        do {
            $from += strcspn($this->buffer, '"{}[]', $this->at + $from);
            if ($this->at + $from >= strlen($this->buffer)) {
                $this->need();

                continue;
            }
            $sign = $this->buffer[$this->at + $from];
            if ($sign === '"') {
                $from = $this->closingQuote($from + 1) + 1;
            } else {
                $from++;
                $depth += $sign === '{' || $sign === '[' ? 1 : -1;
            }
        } while ($depth > 0 || $from === 0);

        return $from;
    }

    private function closingQuote(int $from): int
    {
        while (true) {
            $from += strcspn($this->buffer, '"\\', $this->at + $from);
            if ($this->at + $from >= strlen($this->buffer)) {
                $this->need();
            } elseif ($this->buffer[$this->at + $from] === '"') {
                return $from;
            } else {
                // A backslash takes the next character with it.
                while ($this->at + $from + 1 >= strlen($this->buffer)) {
                    $this->need();
                }
                $from += 2;
            }
        }
    }

    private function need(): void
    {
        if (! $this->more()) {
            throw ReadingError::broken(
                'The file ends in the middle of a JSON document: it is cut off. Ask for the export again.',
            );
        }
    }
}
