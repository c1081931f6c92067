<?php

namespace Baggage\Core\Reading;

/** Which part of a sheet or text is the table: what stands above, below, between and beside it. */
final readonly class Layout
{
    /**
     * @param  bool  $header  whether a row names the columns
     * @param  int  $skip  rows (lines, in text) above the header, or above the first row when there is none
     * @param  string  $comment  lines that begin with this are no rows
     * @param  int  $from  first column of the table, from 1
     * @param  int|null  $to  last column, null for all
     * @param  int  $start  first row below the header that is taken, from 1
     * @param  int|null  $count  rows taken at most
     * @param  int  $foot  rows at the end that are not data, for instance totals
     */
    public function __construct(
        public bool $header = true,
        public int $skip = 0,
        public string $comment = '',
        public int $from = 1,
        public ?int $to = null,
        public int $start = 1,
        public ?int $count = null,
        public int $foot = 0,
    ) {
        if ($skip < 0) {
            throw new \InvalidArgumentException('The number of lines to skip is 0 or more.');
        }
        if ($from < 1 || ($to !== null && $to < $from)) {
            throw new \InvalidArgumentException('A range of columns is written first-last, for instance B-F or 2-6.');
        }
        if ($start < 1 || ($count !== null && $count < 1) || $foot < 0) {
            throw new \InvalidArgumentException(
                'The first row is 1 or more, the number of rows 1 or more, the rows at the foot 0 or more.',
            );
        }
    }

    /** @param  array<string, mixed>  $a with header, skip, comment, columns, first_row, rows, foot */
    public static function fromArray(array $a): self
    {
        [$from, $to] = self::range(trim((string) ($a['columns'] ?? '')));

        return new self(
            (bool) ($a['header'] ?? true),
            (int) ($a['skip'] ?? 0),
            (string) ($a['comment'] ?? ''),
            $from,
            $to,
            (int) ($a['first_row'] ?? 1),
            isset($a['rows']) && $a['rows'] !== '' ? (int) $a['rows'] : null,
            (int) ($a['foot'] ?? 0),
        );
    }

    /** @return array<string, mixed> only what differs from the usual */
    public function toArray(): array
    {
        return array_filter(
            [
                'header' => $this->header ? null : false,
                'skip' => $this->skip ?: null,
                'comment' => $this->comment === '' ? null : $this->comment,
                'columns' => $this->from === 1 && $this->to === null
                        ? null
                        : self::letters($this->from).'-'.($this->to === null ? '' : self::letters($this->to)),
                'first_row' => $this->start === 1 ? null : $this->start,
                'rows' => $this->count,
                'foot' => $this->foot ?: null,
            ],
            fn ($v) => $v !== null,
        );
    }

    /** @return array{int, int|null} */
    private static function range(string $text): array
    {
        if ($text === '') {
            return [1, null];
        }
        if (preg_match('/^([A-Za-z]{1,3}|\d{1,5})\s*[-:]\s*([A-Za-z]{1,3}|\d{1,5})?$/', $text, $m) !== 1) {
            throw new \InvalidArgumentException("\"$text\" is no range of columns; write it like B-F or 2-6.");
        }

        return [self::number($m[1]), isset($m[2]) ? self::number($m[2]) : null];
    }

    /** Column letters as spreadsheets count them: A is 1, Z 26, AA 27. */
    public static function number(string $column): int
    {
        if (ctype_digit($column)) {
            return (int) $column;
        }
        $n = 0;
        foreach (str_split(strtoupper($column)) as $letter) {
            $n = $n * 26 + ord($letter) - 64;
        }

        return $n;
    }

    public static function letters(int $number): string
    {
        $text = '';
        for (; $number > 0; $number = intdiv($number - 1, 26)) {
            $text = chr(65 + (($number - 1) % 26)).$text;
        }

        return $text;
    }
}
