<?php

namespace App\Targets\Sql;

use Baggage\Core\Loading\Answer;
use Baggage\Core\Loading\Done;
use Baggage\Core\Loading\Order;
use Baggage\Core\Loading\Verb;
use Baggage\Core\Targets\Entity;
use PDO;
use PDOException;

/** Changes records of one entity that the target holds already, one by one. */
final readonly class ExistingRecords
{
    public function __construct(private PDO $pdo, private Entity $entity, private Refusals $refusals)
    {
    }

    /**
     * @param  list<Order>  $orders
     * @return array<int, Answer> row → answer
     */
    public function change(array $orders): array
    {
        if ($orders === []) {
            return [];
        }
        $isRemoval = fn (Order $o) => $o->verb === Verb::Remove || $o->verb === Verb::Withdraw;
        $told = array_values(array_filter($orders, fn (Order $o) => $o->verb === Verb::Withdraw));
        $was = $told === [] ? [] : $this->locked($told);
        $answers = $this->remove(array_values(array_filter($orders, $isRemoval)));
        foreach ($was === [] ? [] : $answers as $row => $answer) {
            $before = array_intersect_key($was[(string) $answer->targetKey] ?? [], $this->entity->writable());
            $answers[$row] = $answer->done === Done::Removed ? new Answer($row, Done::Removed, $answer->targetKey, null, $before) : $answer;
        }
        $orders = array_values(array_filter($orders, fn (Order $o) => ! $isRemoval($o)));
        $now = $orders === [] ? [] : $this->locked($orders);
        foreach ($orders as $order) {
            $record = $now[(string) $order->targetKey] ?? null;
            $answers[$order->row] = $record === null
                ? new Answer($order->row, Done::Gone, $order->targetKey)
                : $this->changeOne($order, $record);
        }

        return $answers;
    }

    /**
     * All at once; one by one where another record refers to one of them, or one is gone.
     *
     * @param  list<Order>  $orders
     * @return array<int, Answer> row → answer
     */
    private function remove(array $orders): array
    {
        $table = SqlTarget::name($this->entity->name);
        $key = SqlTarget::name($this->entity->key);
        $delete = function (array $some) use ($table, $key): int {
            $keys = implode(',', array_map(fn (Order $o) => $this->pdo->quote((string) $o->targetKey), $some));

            return (int) $this->pdo->exec("DELETE FROM $table WHERE $key IN ($keys)");
        };
        $answers = [];
        if ($orders === []) {
            return [];
        }
        $this->pdo->exec('SAVEPOINT records');
        try {
            $isWhole = $delete($orders) === count($orders);
        } catch (PDOException $e) {
            Refusals::is($e) ?: throw $e;
            $isWhole = false;
        }
        if ($isWhole) {
            return array_map(fn (Order $o) => new Answer($o->row, Done::Removed, $o->targetKey), array_column($orders, null, 'row'));
        }
        $this->pdo->exec('ROLLBACK TO SAVEPOINT records');
        foreach ($orders as $order) {
            $this->pdo->exec('SAVEPOINT record');
            try {
                $done = $delete([$order]) === 1 ? Done::Removed : Done::Gone;
                $answers[$order->row] = new Answer($order->row, $done, $order->targetKey);
            } catch (PDOException $e) {
                Refusals::is($e) ?: throw $e;
                $this->pdo->exec('ROLLBACK TO SAVEPOINT record');
                $answers[$order->row] = new Answer($order->row, Done::Refused, null, $this->refusals->said($e, [], $order->targetKey));
            }
        }

        return $answers;
    }

    /** @param  array<string, string|null>  $record as it is */
    private function changeOne(Order $order, array $record): Answer
    {
        $changes = $this->changes($order, $record);
        if ($changes === []) {
            return new Answer($order->row, Done::Same, $order->targetKey);
        }
        $set = implode(',', array_map(fn ($f, $v) => SqlTarget::name($f)."=$v", array_keys($changes), $changes));
        $table = SqlTarget::name($this->entity->name);
        $key = SqlTarget::name($this->entity->key);
        $this->pdo->exec('SAVEPOINT record');
        try {
            $this->pdo->exec("UPDATE $table SET $set WHERE $key = ".$this->pdo->quote((string) $order->targetKey));
        } catch (PDOException $e) {
            if (! Refusals::is($e)) {
                throw $e;
            }
            $this->pdo->exec('ROLLBACK TO SAVEPOINT record');

            return new Answer($order->row, Done::Refused, null, $this->refusals->said($e, $order->values, $order->targetKey));
        }

        return new Answer($order->row, Done::Changed, $order->targetKey, null, array_intersect_key($record, $this->entity->writable()));
    }

    /**
     * A value that is null leaves what the record has, unless the record is to be as if it were new.
     *
     * @param  array<string, string|null>  $record  as it is
     * @return array<string, string> field → its new value, as SQL
     */
    private function changes(Order $order, array $record): array
    {
        $changes = [];
        if ($order->verb === Verb::Restore || $order->verb === Verb::Change) {
            $other = array_filter($order->values, fn (?string $v, string $f) => ($record[$f] ?? null) !== $v, ARRAY_FILTER_USE_BOTH);

            return array_map(fn (?string $v) => $v === null ? 'NULL' : $this->pdo->quote($v), $other);
        }
        $isWhole = $order->verb === Verb::Replace;
        foreach ($isWhole ? array_keys($this->entity->writable()) : array_keys($order->values) as $field) {
            $isGiven = array_key_exists($field, $order->values);
            $value = $isGiven ? $order->values[$field] : $this->entity->fields[$field]->default ?? null;
            if (($isWhole || $value !== null) && ($record[$field] ?? null) !== $value) {
                $changes[$field] = match (true) {
                    ! $isGiven => 'DEFAULT',
                    $value === null => 'NULL',
                    default => $this->pdo->quote($value),
                };
            }
        }

        return $changes;
    }

    /**
     * The records of the orders as they are, kept from others until the transaction ends.
     *
     * @param  non-empty-list<Order>  $orders
     * @return array<array-key, array<string, string|null>> by target key
     */
    private function locked(array $orders): array
    {
        $key = SqlTarget::name($this->entity->key);
        $table = SqlTarget::name($this->entity->name);
        $keys = implode(',', array_map(fn (Order $o) => $this->pdo->quote((string) $o->targetKey), $orders));
        $found = $this->pdo->query("SELECT * FROM $table WHERE $key IN ($keys) FOR UPDATE");
        $now = [];
        foreach ($found === false ? [] : $found->fetchAll(PDO::FETCH_ASSOC) as $record) {
            $now[$record[$this->entity->key]] = array_map(fn ($v) => $v === null ? null : (string) $v, $record);
        }

        return $now;
    }
}
