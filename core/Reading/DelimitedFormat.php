<?php

namespace Baggage\Core\Reading;

/** How the cells of a delimited text are told apart. */
final readonly class DelimitedFormat implements Format
{
    /**
     * @param  string  $delimiter  one character
     * @param  string  $quote  one character, or '' for none
     * @param  bool  $backslash  whether a quote inside a quoted cell is written \" rather than doubled
     */
    public function __construct(
        public string $delimiter = ',',
        public string $quote = '"',
        public Encoding $encoding = Encoding::Utf8,
        public bool $backslash = false,
    ) {
        if (mb_strlen($delimiter) !== 1) {
            throw new \InvalidArgumentException(
                'The delimiter is one character, for instance a comma, a semicolon, a tab or a bar.',
            );
        }
        if (strlen($quote) > 1) {
            throw new \InvalidArgumentException('The quote is one character, or nothing.');
        }
    }

    public static function kind(): string
    {
        return 'delimited';
    }

    public static function fromArray(array $a): self
    {
        $escape = (string) ($a['escape'] ?? 'doubled');
        if (! in_array($escape, ['doubled', 'backslash'], true)) {
            throw new \InvalidArgumentException(
                "A quote inside a quoted cell is \"doubled\" or written with a \"backslash\", not \"$escape\".",
            );
        }

        return new self(
            self::delimiterNamed((string) ($a['delimiter'] ?? ',')),
            (string) ($a['quote'] ?? '"'),
            Encoding::named((string) ($a['encoding'] ?? 'UTF-8')),
            $escape === 'backslash',
        );
    }

    public function toArray(): array
    {
        return array_filter(
            [
                'delimiter' => $this->delimiter === ',' ? null : $this->delimiterName(),
                'quote' => $this->quote === '"' ? null : $this->quote,
                'encoding' => $this->encoding === Encoding::Utf8 ? null : $this->encoding->value,
                'escape' => $this->backslash ? 'backslash' : null,
            ],
            fn ($v) => $v !== null,
        );
    }

    public function describe(): string
    {
        return $this->encoding->value.', '
            .match ($this->delimiter) {
                ',' => 'comma',
                ';' => 'semicolon',
                "\t" => 'tab',
                '|' => 'bar',
                default => $this->delimiter,
            };
    }

    /** As the plan file writes it. */
    public function delimiterName(): string
    {
        return $this->delimiter === "\t" ? 'tab' : $this->delimiter;
    }

    private static function delimiterNamed(string $name): string
    {
        return match ($name) {
            'tab', '\t' => "\t",
            'comma' => ',',
            'semicolon' => ';',
            'bar' => '|',
            default => $name,
        };
    }
}
