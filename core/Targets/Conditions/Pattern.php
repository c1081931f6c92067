<?php

namespace Baggage\Core\Targets\Conditions;

use Baggage\Core\Targets\Fold;

/**
 * A text that matches a pattern: of LIKE, or a regular expression (MariaDB uses PCRE, as PHP does). Capitals and accents count or
 * not as the target's collation says, so a match that only holds without them cannot be told.
 */
final readonly class Pattern implements Test
{
    /** @param  string  $regex  without delimiters */
    private function __construct(private Operand $operand, private string $regex, private string $says, private bool $isExact)
    {
    }

    /** @param  string  $escape  the character that takes the meaning from % and _ */
    public static function like(Operand $operand, string $pattern, string $escape = '\\'): self
    {
        $regex = '';
        $characters = mb_str_split($pattern);
        for ($i = 0; $i < count($characters); $i++) {
            $c = $characters[$i];
            if ($c === $escape && isset($characters[$i + 1])) {
                $regex .= preg_quote($characters[++$i], '/');
            } else {
                $regex .= match ($c) {
                    '%' => '.*',
                    '_' => '.',
                    default => preg_quote($c, '/'),
                };
            }
        }

        return new self($operand, "\\A(?s:$regex)\\z", "is like $pattern", false);
    }

    /** @return self|null null where it is no regular expression PHP understands */
    public static function regex(Operand $operand, string $regex, bool $isExact = false): ?self
    {
        return @preg_match(self::delimited($regex, 'u'), '') === false ? null : new self($operand, $regex, "matches $regex", $isExact);
    }

    public function holds(Record $record): ?bool
    {
        try {
            $value = $this->operand->value($record);
        } catch (CannotTell) {
            return null;
        }
        if ($value === null) {
            return null;
        }
        $is = @preg_match(self::delimited($this->regex, 'u'), $value);
        if ($is !== 0 || $this->isExact) {
            return $is === false ? null : $is === 1;
        }
        // Not as it is written: with any capitals, and without accents, it may be to the target.
        foreach ([$value, (string) @iconv('UTF-8', 'ASCII//TRANSLIT', $value), Fold::of($value)] as $other) {
            if (@preg_match(self::delimited($this->regex, 'iu'), $other) !== 0) {
                return null;
            }
        }

        return false;
    }

    private static function delimited(string $regex, string $flags): string
    {
        return "\x01$regex\x01$flags";
    }

    public function words(bool $not = false): string
    {
        $says = $not ? (string) preg_replace(['/^is /', '/^matches /'], ['is not ', 'does not match '], $this->says) : $this->says;

        return "{$this->operand->words()} $says";
    }

    public function fields(): array
    {
        return $this->operand->fields();
    }
}
