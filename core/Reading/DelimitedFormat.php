<?php

namespace Baggage\Core\Reading;

/** How a delimited text is to be read. */
final readonly class DelimitedFormat
{
    /**
     * @param  string  $delimiter  one character
     * @param  string  $quote  one character, or '' for none
     * @param  int  $skip  lines before the header (or before the first row when there is no header)
     * @param  bool  $padShort  whether a row with too few cells is filled up with blanks instead of being rejected
     */
    public function __construct(
        public string $delimiter = ',',
        public string $quote = '"',
        public Encoding $encoding = Encoding::Utf8,
        public bool $header = true,
        public int $skip = 0,
        public bool $padShort = false,
    ) {
        if (mb_strlen($delimiter) !== 1) {
            throw new \InvalidArgumentException('The delimiter is one character, for instance a comma, a semicolon, a tab or a bar.');
        }
        if (strlen($quote) > 1) {
            throw new \InvalidArgumentException('The quote is one character, or nothing.');
        }
        if ($skip < 0) {
            throw new \InvalidArgumentException('The number of lines to skip is 0 or more.');
        }
    }

    /** @param  array<string, mixed>  $a as made by toArray() */
    public static function fromArray(array $a): self
    {
        return new self(
            self::delimiterNamed((string) ($a['delimiter'] ?? ',')),
            (string) ($a['quote'] ?? '"'),
            Encoding::named((string) ($a['encoding'] ?? 'UTF-8')),
            (bool) ($a['header'] ?? true),
            (int) ($a['skip'] ?? 0),
            (bool) ($a['pad_short'] ?? false),
        );
    }

    /** @return array{delimiter: string, quote: string, encoding: string, header: bool, skip: int, pad_short: bool} */
    public function toArray(): array
    {
        return [
            'delimiter' => $this->delimiter === "\t" ? 'tab' : $this->delimiter,
            'quote' => $this->quote,
            'encoding' => $this->encoding->value,
            'header' => $this->header,
            'skip' => $this->skip,
            'pad_short' => $this->padShort,
        ];
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
