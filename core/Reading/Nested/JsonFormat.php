<?php

namespace Baggage\Core\Reading\Nested;

use Baggage\Core\Reading\Format;

/** JSON: one document with records in it, or one record a line. Always UTF-8 (RFC 8259, section 8.1). */
final readonly class JsonFormat implements Format
{
    /**
     * @param  bool  $lines  whether each line is a record of its own
     * @param  string  $records  where the records are, keys joined by dots; '' for the document itself
     * @param  string  $list  a list inside each record whose elements are the rows; '' for the records themselves
     * @param  list<string>  $carry  columns of the record that its list's rows carry along, its key for instance
     */
    public function __construct(
        public bool $lines = false,
        public string $records = '',
        public string $list = '',
        public array $carry = [],
    ) {
    }

    public static function kind(): string
    {
        return 'json';
    }

    public static function fromArray(array $a): self
    {
        return new self(
            (bool) ($a['lines'] ?? false),
            trim((string) ($a['records'] ?? '')),
            trim((string) ($a['list'] ?? '')),
            self::carried($a['carry'] ?? []),
        );
    }

    /** @return list<string> */
    public static function carried(mixed $carry): array
    {
        return array_values(
            array_filter(
                array_map(fn ($c) => trim((string) $c), is_array($carry) ? $carry : explode(',', (string) $carry)),
                fn ($c) => $c !== '',
            ),
        );
    }

    public function toArray(): array
    {
        return array_filter(
            [
                'lines' => $this->lines ?: null,
                'records' => $this->records ?: null,
                'list' => $this->list ?: null,
                'carry' => $this->carry ?: null,
            ],
            fn ($v) => $v !== null,
        );
    }

    public function describe(): string
    {
        return ($this->lines ? 'JSON lines' : 'JSON').($this->records === '' ? '' : ", $this->records")
            .($this->list === '' ? '' : ", list $this->list");
    }
}
