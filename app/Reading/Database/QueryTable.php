<?php

namespace App\Reading\Database;

use App\Support\Apart;
use Baggage\Core\Reading\Columns;
use Baggage\Core\Reading\Decoder;
use Baggage\Core\Reading\Encoding;
use Baggage\Core\Reading\Query\Filter;
use Baggage\Core\Reading\Query\QueryFormat;
use Baggage\Core\Reading\RawRow;
use Baggage\Core\Reading\ReadingError;
use Baggage\Core\Reading\Remark;
use Baggage\Core\Reading\RowList;
use Baggage\Core\Reading\Table;
use PDO;
use PDOException;
use PDOStatement;

/** Rows of a database, fetched one by one. The database's own count is asked before and after. */
final class QueryTable implements Table
{
    private const FETCH = 5_000;

    private ?Columns $columns = null;

    private ?PDOStatement $statement = null;

    private ?int $before = null;

    private ?int $after = null;

    /** @var array<string, string> */
    private array $bound = [];

    /** @var list<string|null>|null the first row, fetched to learn the columns */
    private ?array $first = null;

    private readonly RowList $bytes;

    /**
     * @param  array<string, string>  $values  of the query's parameters
     * @param  int|null  $limit  rows at most, for a preview
     */
    public function __construct(
        private readonly DatabaseLink $link,
        private readonly QueryFormat $format,
        private readonly array $values = [],
        private readonly ?int $limit = null,
    ) {
        $this->bytes = new RowList;
    }

    public function columns(): Columns
    {
        if ($this->columns !== null) {
            return $this->columns;
        }
        $sql = $this->select(
            $this->format->table === ''
                ? null
                : ($this->format->columns === []
                    ? '*'
                    : implode(', ', array_map($this->link->quote(...), $this->format->columns))),
        );
        try {
            if ($this->limit === null) {
                $this->before = $this->count();
            }
            if ($this->link->driver === 'pgsql') {
                // The client library would hold a whole result in memory.
                $this->run('DECLARE baggage NO SCROLL CURSOR FOR '.$sql);
                $this->statement = $this->link->pdo->query('FETCH '.self::FETCH.' FROM baggage') ?: null;
            } else {
                $this->statement = $this->run($sql);
            }
            $names = [];
            $statement = $this->statement ?? throw ReadingError::broken('The database gives no rows.');
            for ($i = 0, $n = $statement->columnCount(); $i < $n; $i++) {
                $names[] = (string) ($statement->getColumnMeta($i)['name'] ?? 'column '.($i + 1));
            }
            if ($names === []) {
                $row = $statement->fetch(PDO::FETCH_ASSOC);
                $names = is_array($row) ? array_map(strval(...), array_keys($row)) : [];
                $this->first = is_array($row) ? array_values($row) : null;
            }
        } catch (PDOException $e) {
            throw ReadingError::broken('The database refuses the query: '.$this->said($e));
        }

        return $this->columns = Columns::fromHeaders($names);
    }

    public function rows(): \Generator
    {
        $this->columns();
        // Its driver reads the rest of what it was sent when it is let go.
        Apart::hold($this);
        $number = 0;
        try {
            if ($this->first !== null) {
                yield new RawRow(++$number, $this->cells($this->first, $number));
            }
            while ($this->statement !== null) {
                $fetched = 0;
                while (($row = $this->statement->fetch(PDO::FETCH_NUM)) !== false) {
                    $fetched++;
                    yield new RawRow(++$number, $this->cells($row, $number));
                    if ($number === $this->limit) {
                        return;
                    }
                }
                $this->statement->closeCursor();
                $this->statement = $this->link->driver === 'pgsql' && $fetched === self::FETCH
                    ? ($this->link->pdo->query('FETCH '.self::FETCH.' FROM baggage')
                    ?: null)
                    : null;
            }
            if ($this->limit === null) {
                $this->after = $this->count();
            }
        } catch (PDOException $e) {
            throw ReadingError::broken(
                'The connection to the database broke off after '.number_format($number).' rows: '.$this->said($e)
                    .' Nothing of it is kept; read it again.',
            );
        }
    }

    public function sourceRows(): ?int
    {
        return $this->after ?? $this->before;
    }

    public function countedBy(): string
    {
        return 'by the database\'s own count';
    }

    public function remarks(): array
    {
        return array_values(
            array_filter([
                ...array_map(fn (string $r) => new Remark('header', $r), $this->columns()->remarks),
                $this->before === $this->after || $this->after === null
                    ? null
                    : new Remark(
                        'moving_source',
                        'The database counted '.number_format((int) $this->before).' rows before and '
                            .number_format($this->after).' after reading: somebody is still working in it.',
                    ),
                $this->bytes->count === 0
                    ? null
                    : new Remark(
                        'bytes',
                        Remark::say(
                            $this->bytes->count,
                            'cell holds bytes that are no text; it is kept',
                            'cells hold bytes that are no text; they are kept',
                        ).' as hexadecimal digits led by 0x.',
                        $this->bytes->count,
                        $this->bytes->rows,
                    ),
            ]),
        );
    }

    private function select(?string $list): string
    {
        if ($this->format->sql !== '') {
            $sql = rtrim($this->format->sql, "; \n\t");
            $this->bound = array_intersect_key($this->values, $this->format->parameters);

            return $list === null ? $sql : "SELECT $list FROM ($sql) baggage_rows";
        }
        $this->bound = [];
        $where = [];
        foreach ($this->format->where as $i => $filter) {
            $where[] = $this->condition($filter, $i);
        }

        return "SELECT $list FROM ".$this->link->quoteTable($this->format->table)
            .($where === [] ? '' : ' WHERE '.implode(' AND ', $where));
    }

    private function condition(Filter $f, int $i): string
    {
        $column = $this->link->quote($f->column);
        $bind = function (string $value, int $n = 0) use ($i): string {
            $this->bound["f{$i}_$n"] = $value;

            return ":f{$i}_$n";
        };
        $value = $this->comparedWith($f);
        $like = fn (string $before) => "$column LIKE "
            .$bind($before.str_replace(['!', '%', '_'], ['!!', '!%', '!_'], $value).'%').' ESCAPE \'!\'';
        if ($f->test === 'one of') {
            $values = explode(',', $value);
            $names = array_map(fn ($v, $n) => $bind(trim($v), $n), $values, array_keys($values));

            return "$column IN (".implode(', ', $names).')';
        }

        return match ($f->test) {
            'is' => "$column = ".$bind($value),
            'is not' => "($column <> ".$bind($value)." OR $column IS NULL)",
            'less than' => "$column < ".$bind($value),
            'at most' => "$column <= ".$bind($value),
            'more than' => "$column > ".$bind($value),
            'at least' => "$column >= ".$bind($value),
            'begins with' => $like(''),
            'contains' => $like('%'),
            'is blank' => "($column IS NULL OR TRIM($column) = '')",
            default => "($column IS NOT NULL AND TRIM($column) <> '')",
        };
    }

    private function comparedWith(Filter $f): string
    {
        if (preg_match('/^:(\w+)$/', $f->value, $m) !== 1) {
            return $f->value;
        }

        return $this->values[$m[1]]
            ?? throw ReadingError::broken(
                "The filter on \"$f->column\" names the parameter $f->value, and nothing says where its value comes from.",
            );
    }

    private function run(string $sql): PDOStatement
    {
        $statement = $this->link->pdo->prepare($sql);
        $statement->execute($this->bound);

        return $statement;
    }

    private function count(): int
    {
        $statement = $this->run($this->select('COUNT(*)'));
        $n = (int) $statement->fetchColumn();
        $statement->closeCursor();

        return $n;
    }

    /**
     * @param  array<int, mixed>  $row
     * @return list<string|null>
     */
    private function cells(array $row, int $number): array
    {
        $cells = [];
        foreach ($row as $value) {
            if (is_resource($value)) {
                $value = stream_get_contents($value);
            }
            $value = $value === null ? null : (string) $value;
            if ($value !== null && preg_match('//u', $value) !== 1) {
                if ($this->format->encoding !== Encoding::Utf8) {
                    $value = implode(
                        '',
                        iterator_to_array((new Decoder($this->format->encoding))->decode([$value]), false),
                    );
                } else {
                    $value = '0x'.bin2hex($value);
                    $this->bytes->add($number);
                }
            }
            $cells[] = $value;
        }

        return $cells;
    }

    private function said(PDOException $e): string
    {
        if (preg_match('/max_statement_time|maximum statement execution time|statement timeout/i', $e->getMessage()) === 1) {
            return 'It took longer than a statement may take here, and was ended by the database.';
        }

        return rtrim(mb_substr((string) preg_replace('/^SQLSTATE\[\w+\]:?\s*/', '', $e->getMessage()), 0, 300), '. ')
            .'.';
    }
}
