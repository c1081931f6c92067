<?php

namespace Baggage\Core\Plan;

/**
 * Where everything in a YAML text stands, by its path: line, column, and how keys and plain values are written there. The YAML reader
 * gives values without their places, and reads some keys and numbers otherwise than a person wrote them; against this it can be told.
 *
 * Reads what a plan may hold of YAML 1.2: block and flow collections, plain, quoted and block scalars, comments.
 */
final class Places
{
    private const KEY = '/^(?:"((?:[^"\\\\]|\\\\.)*)"|\'((?:[^\']|\'\')*)\'|([^\s"\'{}\[\]#].*?))\s*:(?=\s|$)/';

    /** @var array<int, string> */
    private array $lines;

    /** @var array<string, array{int, int}> path → line and column, from 1 */
    private array $at = [];

    /** @var array<string, list<string>> path of a mapping → its keys as they are written */
    private array $keys = [];

    /** @var array<string, string> path → a plain value as it is written */
    private array $plain = [];

    public int $aliases = 0;

    private function __construct(string $yaml)
    {
        $this->lines = preg_split('/\r\n|\n|\r/', $yaml) ?: [];
    }

    public static function of(string $yaml): self
    {
        $places = new self($yaml);
        $first = $places->content(0);
        if ($first < count($places->lines)) {
            $places->node($first, []);
        }
        $places->lines = [];

        return $places;
    }

    /** @param  array<string, array{int, int}>  $at  as all() gave them */
    public static function known(array $at): self
    {
        $places = new self('');
        $places->at = $at;

        return $places;
    }

    /** @return array<string, array{int, int}> path → line and column; without how anything is written there */
    public function all(): array
    {
        return $this->at;
    }

    /**
     * @param  list<string|int>  $path
     * @return array{int, int}|null line and column of it, or of the nearest around it
     */
    public function find(array $path): ?array
    {
        for ($n = count($path); $n > 0; $n--) {
            $place = $this->at[self::name(array_slice($path, 0, $n))] ?? null;
            if ($place !== null) {
                return $place;
            }
        }

        return null;
    }

    /**
     * @param  list<string|int>  $path
     * @return list<string>|null keys of a mapping as they are written
     */
    public function keys(array $path): ?array
    {
        return $this->keys[self::name($path)] ?? null;
    }

    /**
     * @param  list<string|int>  $path
     * @return string|null a value as it is written, where it is without quotes
     */
    public function plain(array $path): ?string
    {
        return $this->plain[self::name($path)] ?? null;
    }

    /** @param  list<string|int>  $path */
    private static function name(array $path): string
    {
        return implode("\0", $path);
    }

    /** The first line from here on that holds something. */
    private function content(int $i): int
    {
        for (; $i < count($this->lines); $i++) {
            $text = ltrim($this->lines[$i], ' ');
            if ($text !== '' && trim($text) !== '' && $text[0] !== '#' && ! str_starts_with($this->lines[$i], '---')) {
                break;
            }
        }

        return $i;
    }

    private function indent(int $i): int
    {
        return strspn($this->lines[$i] ?? '', ' ');
    }

    /**
     * @param  list<string|int>  $path
     * @return int the line after it
     */
    private function node(int $i, array $path): int
    {
        $indent = $this->indent($i);
        $text = substr($this->lines[$i], $indent);

        return match (true) {
            $text === '-' || str_starts_with($text, '- ') => $this->sequence($i, $indent, $path),
            preg_match(self::KEY, $text) === 1 => $this->mapping($i, $indent, $path),
            default => $this->value($i, $indent, $indent - 1, $path),
        };
    }

    /** @param  list<string|int>  $path */
    private function sequence(int $i, int $indent, array $path): int
    {
        for ($n = 0; $i < count($this->lines) && $this->indent($i) === $indent; $n++) {
            $text = substr($this->lines[$i], $indent);
            if ($text !== '-' && ! str_starts_with($text, '- ')) {
                break;
            }
            $item = [...$path, $n];
            $this->at[self::name($item)] = [$i + 1, $indent + 1];
            // What stands behind the dash is content of the item at its own indent.
            $this->lines[$i] = str_repeat(' ', $indent + 1).substr($text, 1);
            $here = trim($this->lines[$i]);
            $i = $here === '' || $here[0] === '#' ? $this->below($i + 1, $indent, $item) : $this->node($i, $item);
            $i = $this->content($i);
        }

        return $i;
    }

    /** @param  list<string|int>  $path */
    private function mapping(int $i, int $indent, array $path): int
    {
        $this->keys[self::name($path)] = [];
        while ($i < count($this->lines) && $this->indent($i) === $indent) {
            $text = substr($this->lines[$i], $indent);
            if (preg_match(self::KEY, $text, $m) !== 1) {
                break;
            }
            $key = self::unquoted($m);
            $item = [...$path, $key];
            $this->keys[self::name($path)][] = $key;
            $this->at[self::name($item)] = [$i + 1, $indent + 1];
            $at = $indent + strlen($m[0]);
            $at += strspn($this->lines[$i], " \t", $at);
            $rest = substr($this->lines[$i], $at);
            $i = $rest === '' || $rest[0] === '#'
                ? $this->below($i + 1, $indent, $item)
                : $this->value($i, $at, $indent, $item);
            $i = $this->content($i);
        }

        return $i;
    }

    /** @param  array<int, string>  $m  of KEY */
    private static function unquoted(array $m): string
    {
        return match (true) {
            ($m[3] ?? '') !== '' => $m[3],
            str_starts_with($m[0], '"') => (string) (json_decode("\"$m[1]\"") ?? stripcslashes($m[1])),
            default => str_replace("''", "'", $m[2] ?? ''),
        };
    }

    /**
     * What stands on the lines below a key or dash, if anything does.
     *
     * @param  list<string|int>  $path
     */
    private function below(int $i, int $indent, array $path): int
    {
        $i = $this->content($i);
        if ($i >= count($this->lines)) {
            return $i;
        }
        $deeper = $this->indent($i);
        $isList = preg_match('/^ *-(?: |$)/', $this->lines[$i]) === 1;

        return $deeper > $indent || ($deeper === $indent && $isList && is_string(end($path))) ? $this->node($i, $path) : $i;
    }

    /**
     * A value that begins in a line, and all that belongs to it.
     *
     * @param  int  $indent  of what it belongs to
     * @param  list<string|int>  $path
     */
    private function value(int $i, int $at, int $indent, array $path): int
    {
        $text = substr($this->lines[$i], $at);
        if (preg_match('/^(?:&\S+|!\S*)\s*/', $text, $m) === 1) {
            $rest = substr($text, strlen($m[0]));

            return $rest === '' ? $this->below($i + 1, $indent, $path) : $this->value($i, $at + strlen($m[0]), $indent, $path);
        }
        if ($text[0] === '{' || $text[0] === '[') {
            [$i] = $this->flow($i, $at, $path);

            return $i + 1;
        }
        if ($text[0] === '"' || $text[0] === "'") {
            [$i] = $this->quoted($i, $at);

            return $i + 1;
        }
        if ($text[0] === '*') {
            $this->aliases++;
        } elseif ($text[0] !== '|' && $text[0] !== '>') {
            $this->plain[self::name($path)] = rtrim((string) preg_replace('/\s#.*$/', '', $text));
        }
        for ($i++; $i < count($this->lines) && (trim($this->lines[$i]) === '' || $this->indent($i) > $indent); $i++) {
        }

        return $i;
    }

    /**
     * @return array{int, int} line and column behind the closing quote
     */
    private function quoted(int $i, int $at): array
    {
        $quote = $this->lines[$i][$at];
        for ($at++; $i < count($this->lines); $i++, $at = 0) {
            for ($length = strlen($this->lines[$i]); $at < $length; $at++) {
                $sign = $this->lines[$i][$at];
                if ($sign === '\\' && $quote === '"') {
                    $at++;
                } elseif ($sign === $quote && $quote === "'" && ($this->lines[$i][$at + 1] ?? '') === "'") {
                    $at++;
                } elseif ($sign === $quote) {
                    return [$i, $at + 1];
                }
            }
        }

        return [$i, 0];
    }

    /**
     * A collection in brackets, over as many lines as it takes.
     *
     * @param  list<string|int>  $path
     * @return array{int, int} line and column behind the closing bracket
     */
    private function flow(int $i, int $at, array $path): array
    {
        $isMap = $this->lines[$i][$at] === '{';
        if ($isMap) {
            $this->keys[self::name($path)] = [];
        }
        for ([$i, $at] = $this->next($i, $at + 1), $n = 0; $i < count($this->lines); [$i, $at] = $this->next($i, $at)) {
            $sign = $this->lines[$i][$at];
            if ($sign === '}' || $sign === ']') {
                return [$i, $at + 1];
            }
            if ($sign === ',') {
                $at++;

                continue;
            }
            if ($isMap) {
                [$i, $at] = $this->pair($i, $at, $path);
            } else {
                $this->at[self::name([...$path, $n])] = [$i + 1, $at + 1];
                [$i, $at] = $this->flowValue($i, $at, [...$path, $n]);
            }
            $n++;
        }

        return [$i, 0];
    }

    /**
     * @param  list<string|int>  $path
     * @return array{int, int}
     */
    private function pair(int $i, int $at, array $path): array
    {
        $text = substr($this->lines[$i], $at);
        // Behind a key in quotes the colon needs no blank, as in JSON.
        $pattern = '/^(?:(?:"((?:[^"\\\\]|\\\\.)*)"|\'((?:[^\']|\'\')*)\')\s*(?::|(?=[,}\]]|$))'
            .'|([^,{}\[\]"\']*?)\s*(?::(?=[\s,{}\[\]]|$)|(?=[,}\]]|$)))/';
        if (preg_match($pattern, $text, $m) !== 1 || $m[0] === '') {
            // Nothing the reader takes either.
            return [$i, $at + 1];
        }
        $key = self::unquoted($m);
        $item = [...$path, $key];
        $this->keys[self::name($path)][] = $key;
        $this->at[self::name($item)] = [$i + 1, $at + 1];
        [$i, $at] = $this->next($i, $at + strlen($m[0]));
        if ($i >= count($this->lines) || ! str_ends_with($m[0], ':') || strpbrk($this->lines[$i][$at], ',}') !== false) {
            return [$i, $at];
        }

        return $this->flowValue($i, $at, $item);
    }

    /**
     * @param  list<string|int>  $path
     * @return array{int, int}
     */
    private function flowValue(int $i, int $at, array $path): array
    {
        $sign = $this->lines[$i][$at];
        if ($sign === '{' || $sign === '[') {
            return $this->flow($i, $at, $path);
        }
        if ($sign === '"' || $sign === "'") {
            return $this->quoted($i, $at);
        }
        $this->aliases += $sign === '*' ? 1 : 0;
        preg_match('/^(?:(?!\s#)[^,{}\[\]])*/', substr($this->lines[$i], $at), $m);
        $this->plain[self::name($path)] = rtrim($m[0] ?? '');

        return [$i, $at + max(1, strlen($m[0] ?? ''))];
    }

    /** @return array{int, int} the next sign that is no blank and no comment */
    private function next(int $i, int $at): array
    {
        for (; $i < count($this->lines); $i++, $at = 0) {
            $at += strspn($this->lines[$i], " \t", $at);
            if ($at < strlen($this->lines[$i]) && $this->lines[$i][$at] !== '#') {
                break;
            }
        }

        return [$i, $at];
    }
}
