<?php

namespace Baggage\Core\Reading;

/** The columns of an extract, in order, with unique tidy names. */
final readonly class Columns
{
    /** Characters of a header; a longer one is no name but a cell, or a file read wrongly. */
    public const LONGEST = 200;

    /** Words an expression already uses. */
    private const RESERVED = [
        'row',
        'true',
        'false',
        'null',
        'and',
        'or',
        'not',
        'in',
        'matches',
        'contains',
        'starts',
        'ends',
        'with',
        'xor',
    ];

    /**
     * @param  list<Column>  $all
     * @param  list<string>  $remarks  what was odd about the header, in sentences
     */
    private function __construct(public array $all, public array $remarks)
    {
    }

    /**
     * @param  list<string>  $headers
     */
    public static function fromHeaders(array $headers): self
    {
        $columns = $remarks = $headersSeen = $names = [];
        foreach ($headers as $i => $header) {
            $exact = trim($header);
            if (mb_strlen($exact) > self::LONGEST) {
                $remarks[] = 'The header of column '.($i + 1).' has '.number_format(mb_strlen($exact))
                    .' characters; it is called by its first '.self::LONGEST.', "'.mb_substr($exact, 0, 40).' …".';
                $exact = rtrim(mb_substr($exact, 0, self::LONGEST));
            }
            if ($exact === '') {
                $exact = 'column '.($i + 1);
                $remarks[] = 'Column '.($i + 1)." has no header; it is called \"$exact\".";
            }
            if (isset($headersSeen[$exact])) {
                $first = $headersSeen[$exact];
                $n = 2;
                while (isset($headersSeen["$exact ($n)"])) {
                    $n++;
                }
                $remarks[] = "Columns $first and ".($i + 1)
                    ." both have the header \"$exact\"; the second is called \"$exact ($n)\".";
                $exact = "$exact ($n)";
            }
            $headersSeen[$exact] = $i + 1;
            $name = $base = self::tidy($exact, $i + 1);
            for ($n = 2; isset($names[$name]); $n++) {
                $name = $base.'_'.$n;
            }
            $names[$name] = true;
            $columns[] = new Column($i, $exact, $name);
        }

        return new self($columns, $remarks);
    }

    public static function numbered(int $count): self
    {
        return self::fromHeaders($count === 0 ? [] : array_map(fn (int $i) => "column $i", range(1, $count)));
    }

    /**
     * @param  list<array{header: string, name: string}>  $rows
     * @param  list<string>  $remarks
     */
    public static function fromArray(array $rows, array $remarks = []): self
    {
        return new self(
            array_map(fn (array $r, int $i) => new Column($i, $r['header'], $r['name']), $rows, array_keys($rows)),
            $remarks,
        );
    }

    /** @return list<array{header: string, name: string}> */
    public function toArray(): array
    {
        return array_map(fn (Column $c) => ['header' => $c->header, 'name' => $c->name], $this->all);
    }

    public function count(): int
    {
        return count($this->all);
    }

    /** @return array<string, int> tidy name → position */
    public function byName(): array
    {
        return array_column($this->all, 'position', 'name');
    }

    /** @return array<string, int> exact header → position */
    public function byHeader(): array
    {
        return array_column($this->all, 'position', 'header');
    }

    /** A column by its tidy name or its exact header. */
    public function find(string $nameOrHeader): ?Column
    {
        $at = $this->byName()[$nameOrHeader] ?? ($this->byHeader()[$nameOrHeader] ?? null);

        return $at === null ? null : $this->all[$at];
    }

    private static function plain(string $header): string
    {
        /** @var \Transliterator|null $to made once: making it takes longer than a thousand headers */
        static $to = null;
        if (preg_match('/[\x80-\xFF]/', $header) !== 1) {
            return strtolower($header);
        }
        $to ??= \Transliterator::create('Any-Latin; Latin-ASCII; Lower()');

        return (string) $to?->transliterate($header);
    }

    private static function tidy(string $header, int $number): string
    {
        $name = trim(substr((string) preg_replace('/[^a-z0-9]+/', '_', self::plain($header)), 0, self::LONGEST), '_');
        if ($name === '') {
            $name = "column_$number";
        }
        if (ctype_digit($name[0]) || in_array($name, self::RESERVED, true)) {
            $name = 'c_'.$name;
        }

        return $name;
    }
}
