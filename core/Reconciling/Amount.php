<?php

namespace Baggage\Core\Reconciling;

use Baggage\Core\Crosswalks\ParentKey;
use Baggage\Core\Expressions\Operators;
use Baggage\Core\Reading\Blank;
use Baggage\Core\Targets\Field;
use Baggage\Core\Targets\Types\DateType;
use Baggage\Core\Targets\Types\DecimalType;
use Baggage\Core\Targets\Types\IntegerType;
use Baggage\Core\Targets\Types\TextType;
use Brick\Math\BigDecimal;

/** What one value counts with in a control total, in one form whichever side it comes from. */
final readonly class Amount
{
    /** Digits of a number that is still one. */
    private const LONGEST = 200;

    private bool $isNumber;

    /** Whether records say it in the form accept() gives it. */
    private bool $isPlain;

    public function __construct(private TotalKind $kind, private Field $field)
    {
        $this->isNumber = $field->refers === null && ($field->type instanceof DecimalType || $field->type instanceof IntegerType);
        $this->isPlain = $this->isNumber || $field->type instanceof TextType || ($field->type instanceof DateType && ! $field->type->time);
    }

    /**
     * @param  mixed  $value  what an expression gave, or a record says
     * @return string|null a number to add for a kind that adds, else the value itself; null where it gives none
     */
    public function of(mixed $value): ?string
    {
        if ($value instanceof ParentKey || $value === null || is_array($value) || (is_string($value) && Blank::is($value))) {
            return null;
        }
        $text = is_string($value) ? $value : Operators::text($value);

        return match ($this->kind) {
            TotalKind::Sum => self::number($text),
            TotalKind::Count => '1',
            TotalKind::Hash => (string) crc32($this->canonical($text)),
            default => $this->canonical($text),
        };
    }

    /** The same of a record, which says most things in the form they have already. */
    public function ofRecord(?string $value): ?string
    {
        return match (true) {
            $value === null || $value === '' => null,
            $this->isPlain && $this->kind === TotalKind::Hash => (string) crc32($value),
            $this->isPlain && ! $this->kind->adds() => $value,
            default => $this->of($value),
        };
    }

    private static function number(string $text): ?string
    {
        $text = trim($text);

        return strlen($text) <= self::LONGEST && ExactSum::isNumber($text) ? $text : null;
    }

    /** As the target would write it. */
    private function canonical(string $text): string
    {
        $accepted = $this->field->type->accept($text);
        if (is_string($accepted)) {
            return $accepted;
        }
        $number = $this->isNumber ? self::number($text) : null;

        return $number === null ? $text : (string) BigDecimal::of($number)->stripTrailingZeros();
    }

    /** Numbers by what they are worth, all else byte by byte: dates so stand in the order of days. */
    public function compare(string $a, string $b): int
    {
        if ($this->isNumber && self::number($a) !== null && self::number($b) !== null) {
            return BigDecimal::of($a)->compareTo($b);
        }

        return strcmp($a, $b) <=> 0;
    }

    /** Whether two values count alike. */
    public function isSame(?string $a, ?string $b): bool
    {
        if ($a === $b) {
            return true;
        }
        if ($a === null || $b === null || ! ($this->isNumber || $this->kind->adds())) {
            return false;
        }

        return self::bare($a) === self::bare($b)
            || (self::number($a) !== null && self::number($b) !== null && BigDecimal::of($a)->isEqualTo($b));
    }

    /** A number without noughts behind its last decimal. */
    private static function bare(string $number): string
    {
        return str_contains($number, '.') ? rtrim(rtrim($number, '0'), '.') : $number;
    }
}
