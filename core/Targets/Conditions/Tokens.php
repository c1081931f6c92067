<?php

namespace Baggage\Core\Targets\Conditions;

/** The words and signs of a clause of SQL, one after another. */
final class Tokens
{
    /** Of a clause longer than this nothing is read. */
    private const LONGEST = 8_000;

    private const MOST = 1_000;

    private const TOKEN = <<<'REGEX'
        ~\s+
        |(?<text>(?:_[a-z0-9]+\s*)?'(?:[^'\\]|''|\\.)*+')
        |(?<name>`(?:[^`]|``)++`|"(?:[^"]|"")++")
        |(?<number>\d+(?:\.\d*)?(?:e[-+]?\d+)?|\.\d+(?:e[-+]?\d+)?)
        |(?<word>[a-z_][a-z0-9_\$]*+)
        |(?<sign><=>|<>|!=|<=|>=|::|!\~\*|!\~|\~\*|&&|\|\||[-+*/%=<>(),!\~\[\].])
        |(?<other>.)~xisu
        REGEX;

    /** @param  list<array{string, string}>  $tokens  kind (text, name, number, word, sign) and what it says */
    private function __construct(private readonly array $tokens, public int $at = 0)
    {
    }

    /** @throws NotRead */
    public static function of(string $clause): self
    {
        $found = [];
        if (strlen($clause) > self::LONGEST
            || preg_match_all(self::TOKEN, $clause, $found, PREG_SET_ORDER | PREG_UNMATCHED_AS_NULL) === false) {
            throw NotRead::long();
        }
        $tokens = [];
        foreach ($found as $match) {
            foreach (['text', 'name', 'number', 'word', 'sign', 'other'] as $kind) {
                if (($match[$kind] ?? null) !== null) {
                    $tokens[] = [$kind, self::plain($kind, $match[$kind])];
                }
            }
        }

        return count($tokens) > self::MOST ? throw NotRead::long() : new self($tokens);
    }

    /** What a token says without its quotes. */
    private static function plain(string $kind, string $says): string
    {
        return match ($kind) {
            'text' => self::text(substr((string) strstr($says, "'"), 1, -1)),
            'name' => str_replace($says[0].$says[0], $says[0], substr($says, 1, -1)),
            'word' => strtolower($says),
            default => $says,
        };
    }

    /** Escapes of a text in MariaDB: "String Literals" of its manual; before % and _ the backslash stays. */
    private static function text(string $quoted): string
    {
        $escaped = fn (array $m) => match ($m[0]) {
            "''" => "'",
            '\\n' => "\n",
            '\\r' => "\r",
            '\\t' => "\t",
            '\\0' => "\0",
            '\\b' => "\x08",
            '\\Z' => "\x1A",
            '\\%', '\\_' => $m[0],
            default => substr($m[0], 1),
        };

        return (string) preg_replace_callback("/''|\\\\./su", $escaped, $quoted);
    }

    public function ends(): bool
    {
        return ! isset($this->tokens[$this->at]);
    }

    /** Whether these words or signs come next; they are passed then. */
    public function take(string ...$says): bool
    {
        foreach (array_values($says) as $i => $one) {
            [$kind, $is] = $this->tokens[$this->at + $i] ?? ['', ''];
            if (! in_array($kind, ['word', 'sign'], true) || $is !== $one) {
                return false;
            }
        }
        $this->at += count($says);

        return true;
    }

    /** The next token where it is of this kind; it is passed then. */
    public function taken(string $kind): ?string
    {
        [$is, $says] = $this->tokens[$this->at] ?? ['', ''];
        if ($is !== $kind) {
            return null;
        }
        $this->at++;

        return $says;
    }

    /** @throws NotRead */
    public function need(string $sign): void
    {
        if (! $this->take($sign)) {
            throw NotRead::at($this->says());
        }
    }

    /** The next token as it stands, for an error. */
    public function says(): string
    {
        return $this->tokens[$this->at][1] ?? 'its end';
    }
}
