<?php

namespace App\Targets\Sql;

use Baggage\Core\Loading\Answer;
use Baggage\Core\Loading\Done;
use Baggage\Core\Loading\Order;
use Baggage\Core\Targets\Entity;
use PDO;

/** Reads records back in the transaction that wrote them: what a target makes of a value is seen before anybody else can change it. */
final readonly class ReadBack
{
    private const AT_ONCE = 2_000;

    public function __construct(private PDO $pdo, private Entity $entity)
    {
    }

    /**
     * @param  list<Order>  $orders
     * @param  array<int, Answer>  $answers  row → answer
     * @return array<int, Answer> the same, each with what its record says otherwise
     */
    public function of(array $orders, array $answers): array
    {
        $written = [];
        foreach ($orders as $order) {
            $answer = $answers[$order->row];
            if (($answer->done === Done::Created || $answer->done === Done::Changed) && $order->values !== []) {
                $written[] = $order;
            }
        }
        foreach (array_chunk($written, self::AT_ONCE) as $some) {
            foreach ($this->otherwise($some, $answers) as $row => $holds) {
                $a = $answers[$row];
                $answers[$row] = new Answer($row, $a->done, $a->targetKey, $a->said, $a->before, $holds);
            }
        }

        return $answers;
    }

    /**
     * @param  non-empty-list<Order>  $orders
     * @param  array<int, Answer>  $answers  row → answer
     * @return array<int, array<string, string|null>> row → fields that say something else, with what they say
     */
    private function otherwise(array $orders, array $answers): array
    {
        $fields = [];
        foreach ($orders as $order) {
            $fields += $order->values;
        }
        $names = array_keys($fields);
        $key = SqlTarget::name($this->entity->key);
        $keys = implode(',', array_map(fn (Order $o) => $this->pdo->quote((string) $answers[$o->row]->targetKey), $orders));
        $list = implode(',', array_map(SqlTarget::name(...), $names));
        $found = $this->pdo->query("SELECT $key,$list FROM ".SqlTarget::name($this->entity->name)." WHERE $key IN ($keys)");
        $records = [];
        foreach ($found === false ? [] : $found->fetchAll(PDO::FETCH_NUM) as $record) {
            $records[$record[0]] = $record;
        }
        $otherwise = [];
        foreach ($orders as $order) {
            $record = $records[(string) $answers[$order->row]->targetKey] ?? [];
            foreach ($names as $i => $name) {
                // A value that is null may leave what is there.
                $sent = $order->values[$name] ?? null;
                $is = $record[$i + 1] ?? null;
                if ($sent !== null && $sent !== $is && $sent !== (string) $is) {
                    $otherwise[$order->row][$name] = $is === null ? null : (string) $is;
                }
            }
        }

        return $otherwise;
    }
}
