<?php

namespace Baggage\Core\Reading\FixedWidth;

use Baggage\Core\Reading\Encoding;
use Baggage\Core\Reading\Format;

/** Where each column of a fixed-width text begins and ends. */
final readonly class FixedWidthFormat implements Format
{
    /**
     * @param  list<FixedColumn>  $columns  in order, not overlapping
     * @param  bool  $keepBlanks  whether the blanks that fill a column up stay
     */
    public function __construct(
        public array $columns,
        public Encoding $encoding = Encoding::Utf8,
        public bool $keepBlanks = false,
    ) {
    }

    public static function kind(): string
    {
        return 'fixed_width';
    }

    public static function fromArray(array $a): self
    {
        return new self(
            self::parse((string) ($a['layout'] ?? '')),
            Encoding::named((string) ($a['encoding'] ?? 'UTF-8')),
            (bool) ($a['keep_blanks'] ?? false),
        );
    }

    public function toArray(): array
    {
        return array_filter(
            [
                'layout' => $this->layout(),
                'encoding' => $this->encoding === Encoding::Utf8 ? null : $this->encoding->value,
                'keep_blanks' => $this->keepBlanks ?: null,
            ],
            fn ($v) => $v !== null,
        );
    }

    public function describe(): string
    {
        return "{$this->encoding->value}, fixed width";
    }

    /** The columns as text, one a line: name and first to last character. */
    public function layout(): string
    {
        return implode("\n", array_map(fn (FixedColumn $c) => "$c->name $c->from-$c->to", $this->columns));
    }

    /**
     * @param  string  $layout  one column a line, or separated by commas: "JOB NO 1-6", or "JOB NO 6" for the next six characters
     * @return list<FixedColumn>
     */
    private static function parse(string $layout): array
    {
        $columns = [];
        $end = 0;
        foreach (preg_split('/[\r\n,]+/', $layout, -1, PREG_SPLIT_NO_EMPTY) ?: [] as $line) {
            if (trim($line) === '') {
                continue;
            }
            if (preg_match('/^\s*(.+?)\s+(\d{1,5})(?:\s*-\s*(\d{1,5}))?\s*$/u', $line, $m) !== 1) {
                throw new \InvalidArgumentException(
                    "\"$line\" is no column: write its name and its first and last character, for instance \"NAME 7-36\", or its width.",
                );
            }
            [$from, $to] = isset($m[3]) ? [(int) $m[2], (int) $m[3]] : [$end + 1, $end + (int) $m[2]];
            if ($from <= $end || $to < $from) {
                throw new \InvalidArgumentException(
                    "The column \"$m[1]\" ($from-$to) begins before the one above it ends, or ends before it begins.",
                );
            }
            $columns[] = new FixedColumn($m[1], $from, $to);
            $end = $to;
        }
        if ($columns === []) {
            throw new \InvalidArgumentException(
                'A fixed-width text needs a layout: one line for each column with its name and its first and last character.',
            );
        }

        return $columns;
    }
}
