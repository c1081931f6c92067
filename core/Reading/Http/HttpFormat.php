<?php

namespace Baggage\Core\Reading\Http;

use Baggage\Core\Reading\Format;
use Baggage\Core\Reading\Nested\JsonFormat;

/** Records a service gives as JSON over HTTP, page by page. */
final readonly class HttpFormat implements Format
{
    /**
     * @param  string  $connection  name of the source's connection, which holds the address and the headers
     * @param  string  $path  below the connection's address, with a query if need be
     * @param  string  $records  where the records are in each page, keys joined by dots
     * @param  string  $list  a list inside each record whose elements are the rows
     * @param  list<string>  $carry  columns of the record that its list's rows carry along
     */
    public function __construct(
        public string $connection,
        public string $path = '',
        public string $records = '',
        public string $list = '',
        public array $carry = [],
        public Paging $paging = new Paging,
    ) {
        if ($connection === '') {
            throw new \InvalidArgumentException('A service is reached through a connection of its source: name it.');
        }
        if (preg_match('~^[a-z][a-z0-9+.-]*:|^//~i', $path) === 1) {
            throw new \InvalidArgumentException(
                'The path lies below the address of the connection; it cannot name another host.',
            );
        }
    }

    public static function kind(): string
    {
        return 'http';
    }

    public static function fromArray(array $a): self
    {
        return new self(
            trim((string) ($a['connection'] ?? '')),
            trim((string) ($a['path'] ?? '')),
            trim((string) ($a['records'] ?? '')),
            trim((string) ($a['list'] ?? '')),
            JsonFormat::carried($a['carry'] ?? []),
            Paging::fromArray($a),
        );
    }

    public function toArray(): array
    {
        return array_filter(
            [
                'connection' => $this->connection,
                'path' => $this->path ?: null,
                'records' => $this->records ?: null,
                'list' => $this->list ?: null,
                'carry' => $this->carry ?: null,
            ],
            fn ($v) => $v !== null,
        ) + $this->paging->toArray();
    }

    public function describe(): string
    {
        return "$this->connection, ".($this->path === '' ? '/' : $this->path)
            .($this->list === '' ? '' : ", list $this->list");
    }
}
