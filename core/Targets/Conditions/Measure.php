<?php

namespace Baggage\Core\Targets\Conditions;

/** What a function of SQL makes of one value. */
final readonly class Measure implements Operand
{
    private const OF = [
        'char_length' => 'characters', 'character_length' => 'characters', 'length' => 'bytes', 'octet_length' => 'bytes',
        'trim' => 'trim', 'ltrim' => 'ltrim', 'rtrim' => 'rtrim', 'btrim' => 'trim',
        'upper' => 'upper', 'ucase' => 'upper', 'lower' => 'lower', 'lcase' => 'lower',
        'year' => 'year', 'month' => 'month', 'day' => 'day', 'dayofmonth' => 'day',
        'abs' => 'abs',
    ];

    private function __construct(private string $does, private Operand $of)
    {
    }

    /** @return self|null null where the function is not one of those */
    public static function by(string $function, Operand $of): ?self
    {
        $does = self::OF[strtolower($function)] ?? null;
        $fits = match ($does) {
            null => false,
            'year', 'month', 'day' => $of->kind() === Kind::Date,
            'abs' => $of->kind() === Kind::Number,
            default => $of->kind() === Kind::Text,
        };

        return $fits ? new self((string) $does, $of) : null;
    }

    public function value(Record $record): ?string
    {
        $value = $this->of->value($record);
        if ($value === null) {
            return null;
        }

        return match ($this->does) {
            'characters' => (string) mb_strlen($value),
            'bytes' => (string) strlen($value),
            // SQL trims blanks alone, not tabs and line ends (ISO/IEC 9075-2, trim function).
            'trim' => trim($value, ' '),
            'ltrim' => ltrim($value, ' '),
            'rtrim' => rtrim($value, ' '),
            'upper' => mb_strtoupper($value),
            'lower' => mb_strtolower($value),
            'year' => (string) (int) substr($value, 0, 4),
            'month' => (string) (int) substr($value, 5, 2),
            'day' => (string) (int) substr($value, 8, 2),
            default => ltrim($value, '-'),
        };
    }

    public function isLength(): bool
    {
        return in_array($this->does, ['characters', 'bytes'], true);
    }

    /** "characters" or "bytes" of a length. */
    public function unit(): string
    {
        return $this->does;
    }

    public function words(): string
    {
        $of = $this->of->words();

        return match ($this->does) {
            'characters', 'bytes' => "the $this->does of $of",
            'trim', 'ltrim', 'rtrim' => "$of without blanks around it",
            'upper' => "$of in capitals",
            'lower' => "$of in small letters",
            'abs' => "$of without its sign",
            default => "the $this->does of $of",
        };
    }

    public function of(): Operand
    {
        return $this->of;
    }

    public function kind(): Kind
    {
        return in_array($this->does, ['trim', 'ltrim', 'rtrim', 'upper', 'lower'], true) ? Kind::Text : Kind::Number;
    }

    public function fields(): array
    {
        return $this->of->fields();
    }
}
