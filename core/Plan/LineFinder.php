<?php

namespace Baggage\Core\Plan;

/** Finds the line of a YAML text in which a value stands, by its path; for error messages. */
final class LineFinder
{
    /** @var list<string> */
    private readonly array $lines;

    public function __construct(string $yaml)
    {
        $this->lines = preg_split('/\r\n|\n|\r/', $yaml) ?: [];
    }

    /**
     * @param  list<string|int>  $path
     * @return int|null the line of the deepest part of the path written in block style, from 1
     */
    public function find(array $path): ?int
    {
        $found = null;
        $from = 0;
        $indent = -1;
        foreach ($path as $step) {
            $at = is_int($step) ? $this->item($step, $from, $indent) : $this->key($step, $from, $indent);
            if ($at === null) {
                return $found;
            }
            [$found, $from, $indent] = $at;
        }

        return $found;
    }

    /** @return array{int, int, int}|null line, where to go on, indent of the parent */
    private function key(string $key, int $from, int $parent): ?array
    {
        $level = null;
        for ($i = $from; $i < count($this->lines); $i++) {
            $text = $this->text($i, $i === $from && $parent >= 0);
            if ($text === null) {
                continue;
            }
            [$indent, $line] = $text;
            if ($indent <= $parent && $i > $from) {
                return null;
            }
            if ($indent <= $parent) {
                continue;
            }
            $level ??= $indent;
            if ($indent === $level && preg_match('/^(["\']?)'.preg_quote($key, '/').'\1\s*:/', $line) === 1) {
                return [$i + 1, $i + 1, $indent];
            }
        }

        return null;
    }

    /** @return array{int, int, int}|null */
    private function item(int $number, int $from, int $parent): ?array
    {
        $level = null;
        $seen = -1;
        for ($i = $from; $i < count($this->lines); $i++) {
            $text = $this->text($i, false);
            if ($text === null) {
                continue;
            }
            [$indent, $line] = $text;
            if (! str_starts_with($line, '-')) {
                if ($indent <= $parent) {
                    return null;
                }

                continue;
            }
            $level ??= $indent;
            if ($indent < $level) {
                return null;
            }
            if ($indent === $level && ++$seen === $number) {
                return [$i + 1, $i, $indent];
            }
        }

        return null;
    }

    /** @return array{int, string}|null indent and text, null for blank and comment lines */
    private function text(int $i, bool $afterDash): ?array
    {
        $line = $this->lines[$i];
        if ($afterDash) {
            $line = (string) preg_replace('/^(\s*)-/', '$1 ', $line);
        }
        $text = ltrim($line);

        return $text === '' || $text[0] === '#' ? null : [strlen($line) - strlen($text), $text];
    }
}
