<?php

namespace Baggage\Core\Reading\Query;

use Baggage\Core\Reading\Encoding;
use Baggage\Core\Reading\Format;
use Baggage\Core\Reading\Nested\JsonFormat;

/** A table, a view or a SELECT of a database. */
final readonly class QueryFormat implements Format
{
    /**
     * @param  string  $connection  name of the source's connection; '' when the extract's own file is an SQLite database
     * @param  list<string>  $columns  [] for all
     * @param  list<Filter>  $where  all have to hold
     * @param  string  $sql  a SELECT instead of a table; its parameters are written :name
     * @param  array<string, Parameter>  $parameters  name → where its value comes from
     * @param  Encoding  $encoding  of text that the database hands out as bytes
     */
    public function __construct(
        public string $connection = '',
        public string $table = '',
        public array $columns = [],
        public array $where = [],
        public string $sql = '',
        public array $parameters = [],
        public Encoding $encoding = Encoding::Utf8,
    ) {
        if (($table === '') === ($sql === '')) {
            throw new \InvalidArgumentException('A database extract names a table or has a SELECT, one of the two.');
        }
        if ($sql !== '') {
            self::refuseAnythingButSelect($sql);
            self::refuseUnknownParameters($sql, $parameters);
        }
    }

    public static function kind(): string
    {
        return 'database';
    }

    public static function fromArray(array $a): self
    {
        $parameters = [];
        foreach ((array) ($a['parameters'] ?? []) as $name => $p) {
            $parameters[(string) $name] = Parameter::fromArray((string) $name, is_array($p) ? $p : ['fixed' => $p]);
        }

        return new self(
            trim((string) ($a['connection'] ?? '')),
            trim((string) ($a['table'] ?? '')),
            JsonFormat::carried($a['only'] ?? []),
            array_values(array_map(fn ($f) => Filter::fromArray((array) $f), (array) ($a['where'] ?? []))),
            trim((string) ($a['sql'] ?? '')),
            $parameters,
            Encoding::named((string) ($a['encoding'] ?? 'UTF-8')),
        );
    }

    public function toArray(): array
    {
        return array_filter(
            [
                'connection' => $this->connection ?: null,
                'table' => $this->table ?: null,
                'only' => $this->columns ?: null,
                'where' => $this->where === [] ? null : array_map(fn (Filter $f) => $f->toArray(), $this->where),
                'sql' => $this->sql ?: null,
                'parameters' => $this->parameters === [] ? null : array_map(fn (Parameter $p) => $p->toArray(), $this->parameters),
                'encoding' => $this->encoding === Encoding::Utf8 ? null : $this->encoding->value,
            ],
            fn ($v) => $v !== null,
        );
    }

    public function describe(): string
    {
        return ($this->connection === '' ? 'SQLite' : $this->connection).', '
            .($this->table === '' ? 'a SELECT' : $this->table)
            .($this->where === [] ? '' : ', '.count($this->where).' filters');
    }

    private static function refuseAnythingButSelect(string $sql): void
    {
        $why = SelectOnly::refuses($sql);
        if ($why !== null) {
            throw new \InvalidArgumentException($why);
        }
    }

    /** @param  array<string, Parameter>  $parameters */
    private static function refuseUnknownParameters(string $sql, array $parameters): void
    {
        preg_match_all('/(?<![:\w]):([A-Za-z_]\w*)/', (string) (SelectOnly::code($sql, false) ?? SelectOnly::code($sql, true)), $m);
        foreach (array_diff($m[1], array_map(strval(...), array_keys($parameters))) as $name) {
            throw new \InvalidArgumentException(
                "The SELECT has a parameter :$name, and nothing says where its value comes from.",
            );
        }
    }
}
