<?php

namespace App\Targets\Sql;

use Baggage\Core\Loading\Answer;
use Baggage\Core\Loading\Done;
use Baggage\Core\Loading\Order;
use Baggage\Core\Loading\Said;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Targets\Entity;
use PDO;
use PDOException;

/**
 * Puts new records of one entity into the target.
 *
 * They go in one INSERT … RETURNING, so the target itself says which key each got. When it refuses the statement, records whose
 * unique values are taken are found by one query per unique key, and what is still refused is split in halves until the guilty
 * rows are alone.
 */
final class NewRecords
{
    private const BYTES_PER_STATEMENT = 4_000_000;

    /** Of what the target takes at once, for what stands around the values. */
    private const AROUND = 4_096;

    private ?int $most = null;

    /** @var array<int, Answer> row → answer */
    private array $answers = [];

    public function __construct(
        private readonly PDO $pdo,
        private readonly Entity $entity,
        private readonly Refusals $refusals,
    ) {
    }

    /**
     * @param  list<Order>  $orders
     * @return array<int, Answer> row → answer
     */
    public function create(array $orders): array
    {
        $this->answers = [];
        if ($orders === []) {
            return [];
        }
        $columns = [];
        foreach ($orders as $order) {
            $columns += $order->values;
        }
        $columns = array_keys($columns);
        $orders = $this->refuseTooLarge($columns, $orders);
        try {
            $this->insert($columns, $orders);
        } catch (PDOException $e) {
            if (! Refusals::is($e)) {
                throw $e;
            }
            if (Refusals::isTaken($e)) {
                $this->refuseTaken($orders);
            }
            $this->insertSplitting($columns, $this->open($orders));
        }

        return $this->answers;
    }

    /**
     * @param  list<string>  $columns
     * @param  list<Order>  $orders
     */
    private function insertSplitting(array $columns, array $orders): void
    {
        if ($orders === []) {
            return;
        }
        try {
            $this->insert($columns, $orders);
        } catch (PDOException $e) {
            if (! Refusals::is($e)) {
                throw $e;
            }
            if (count($orders) === 1) {
                $row = $orders[0]->row;
                $this->answers[$row] = new Answer($row, Done::Refused, null, $this->refusals->said($e, $orders[0]->values));

                return;
            }
            $half = intdiv(count($orders), 2);
            $this->insertSplitting($columns, array_slice($orders, 0, $half));
            $this->insertSplitting($columns, array_slice($orders, $half));
        }
    }

    /**
     * @param  list<string>  $columns
     * @param  list<Order>  $orders
     */
    private function insert(array $columns, array $orders): void
    {
        if ($orders === []) {
            return;
        }
        $this->pdo->exec('SAVEPOINT records');
        $before = $this->answers;
        try {
            $head = 'INSERT INTO '.SqlTarget::name($this->entity->name).' ('
                .implode(',', array_map(SqlTarget::name(...), $columns)).') VALUES ';
            $values = '';
            $group = [];
            foreach ($orders as $order) {
                $line = $this->line($columns, $order->values);
                if ($values !== '' && strlen($values) + strlen($line) > $this->most()) {
                    $this->send($head.$values, $group);
                    $values = '';
                    $group = [];
                }
                $values .= ($values === '' ? '' : ',').$line;
                $group[] = $order;
            }
            $this->send($head.$values, $group);
        } catch (PDOException $e) {
            $this->answers = $before;
            if (Refusals::is($e)) {
                $this->pdo->exec('ROLLBACK TO SAVEPOINT records');
            }
            throw $e;
        }
    }

    /**
     * @param  list<string>  $columns
     * @param  array<string, string|null>  $values
     */
    private function line(array $columns, array $values): string
    {
        $cells = '';
        foreach ($columns as $column) {
            $cells .= $cells === '' ? '(' : ',';
            $cells .= array_key_exists($column, $values)
                ? ($values[$column] === null ? 'NULL' : $this->pdo->quote($values[$column]))
                : 'DEFAULT';
        }

        return ($cells === '' ? '(' : $cells).')';
    }

    /** @param  list<Order>  $group */
    private function send(string $sql, array $group): void
    {
        $given = $this->pdo->query($sql.' RETURNING '.SqlTarget::name($this->entity->key));
        $keys = $given === false ? [] : $given->fetchAll(PDO::FETCH_COLUMN);
        if (count($keys) !== count($group)) {
            throw TargetUnavailable::keysMissing(count($keys), count($group));
        }
        foreach ($group as $i => $order) {
            $this->answers[$order->row] = new Answer($order->row, Done::Created, (string) $keys[$i]);
        }
    }

    /** Bytes of values in one statement. */
    private function most(): int
    {
        return $this->most ??= min(self::BYTES_PER_STATEMENT, SqlTarget::packet($this->pdo) - self::AROUND);
    }

    /**
     * Records larger than the target takes at once would break the connection, and every row beside them.
     *
     * @param  list<string>  $columns
     * @param  list<Order>  $orders
     * @return list<Order> the others
     */
    private function refuseTooLarge(array $columns, array $orders): array
    {
        $packet = SqlTarget::packet($this->pdo);
        $rest = [];
        foreach ($orders as $order) {
            $size = array_sum(array_map(strlen(...), array_map(strval(...), $order->values)));
            // Quoting doubles a byte at the most.
            if (2 * $size + self::AROUND < $packet || strlen($this->line($columns, $order->values)) + self::AROUND < $packet) {
                $rest[] = $order;

                continue;
            }
            $lengths = array_map(fn (?string $v) => strlen((string) $v), $order->values);
            $field = (string) array_search(max($lengths), $lengths, true);
            $said = new Said(Said::TOO_LONG, [$field], 'Longer than the target takes at once: '.number_format($packet).' bytes');
            $this->answers[$order->row] = new Answer($order->row, Done::Refused, null, $said);
        }

        return $rest;
    }

    /**
     * Those whose very values stand in the target. Whether others are the same to it, only it knows.
     *
     * @param  list<Order>  $orders
     */
    private function refuseTaken(array $orders): void
    {
        foreach ($this->entity->uniques as $fields) {
            $wanted = [];
            foreach ($this->open($orders) as $order) {
                $values = array_map(fn ($f) => $order->values[$f] ?? null, $fields);
                if (! in_array(null, $values, true)) {
                    $wanted[implode("\x1F", $values)] = [$order, $values];
                }
            }
            foreach ($wanted === [] ? [] : $this->holders($fields, array_column($wanted, 1)) as $value => $by) {
                $order = $wanted[$value][0] ?? null;
                if ($order !== null) {
                    $said = new Said(Said::TAKEN, $fields, "Already taken by another {$this->entity->name} in the target", null, $by);
                    $this->answers[$order->row] = new Answer($order->row, Done::Refused, null, $said);
                }
            }
        }
    }

    /**
     * @param  list<string>  $fields  of a unique key
     * @param  non-empty-list<list<string|null>>  $wanted
     * @return array<array-key, string> values that stand in the target → its key
     */
    private function holders(array $fields, array $wanted): array
    {
        $tuples = array_map(
            fn (array $values) => '('.implode(',', array_map(fn ($v) => $this->pdo->quote((string) $v), $values)).')',
            $wanted,
        );
        $list = implode(',', array_map(SqlTarget::name(...), $fields));
        $found = $this->pdo->query(
            'SELECT '.SqlTarget::name($this->entity->key).",$list FROM ".SqlTarget::name($this->entity->name)
                ." WHERE ($list) IN (".implode(',', $tuples).')',
        );
        $holders = [];
        foreach ($found === false ? [] : $found->fetchAll(PDO::FETCH_NUM) as $record) {
            $holders[implode("\x1F", array_slice($record, 1))] = (string) $record[0];
        }

        return $holders;
    }

    /**
     * @param  list<Order>  $orders
     * @return list<Order> those without an answer
     */
    private function open(array $orders): array
    {
        return array_values(array_filter($orders, fn (Order $o) => ! isset($this->answers[$o->row])));
    }
}
