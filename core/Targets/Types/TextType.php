<?php

namespace Baggage\Core\Targets\Types;

use Baggage\Core\Targets\FieldType;
use Baggage\Core\Targets\Refusal;

/** Text up to a number of characters (not bytes). */
final readonly class TextType implements FieldType
{
    public function __construct(public int $length)
    {
    }

    public function label(): string
    {
        return $this->length > 100000 ? 'long text' : "text $this->length";
    }

    public function accept(string|int|float|bool $value): string|Refusal
    {
        $text = is_bool($value) ? ($value ? '1' : '0') : (string) $value;
        if (strlen($text) > $this->length) {
            $characters = mb_strlen($text);
            if ($characters > $this->length) {
                return new Refusal(
                    'too_long',
                    "Text too long for the field: $characters characters, $this->length fit",
                );
            }
        }

        return $text;
    }

    public function toArray(): array
    {
        return ['kind' => 'text', 'length' => $this->length];
    }
}
