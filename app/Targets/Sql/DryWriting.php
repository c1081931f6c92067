<?php

namespace App\Targets\Sql;

use App\Targets\DryRecords;
use Baggage\Core\Loading\Answer;
use Baggage\Core\Loading\Done;
use Baggage\Core\Loading\Order;
use Baggage\Core\Loading\Provisional;
use Baggage\Core\Loading\Said;
use Baggage\Core\Loading\Stretch;
use Baggage\Core\Loading\TargetRecords;
use Baggage\Core\Loading\Verb;
use Baggage\Core\Loading\Writing;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Fold;

/** A stretch of rows in a dry run: each order is answered as the target would, as far as it can be foreseen. */
final readonly class DryWriting implements Writing
{
    public function __construct(
        private Foresight $target,
        private TargetRecords $records,
        private DryRecords $dry,
        private Entity $entity,
        private Stretch $stretch,
    ) {
    }

    public function do(array $orders): array
    {
        $now = $this->now($orders);
        $answers = $records = $byRow = [];
        foreach ($orders as $order) {
            $byRow[$order->row] = $order;
            $is = $order->targetKey === null ? null : $now[$order->targetKey] ?? null;
            if ($order->targetKey !== null && $is === null && ! Provisional::is($order->targetKey)) {
                $answers[$order->row] = new Answer($order->row, Done::Gone, $order->targetKey);
            } elseif ($order->verb === Verb::Remove || $order->verb === Verb::Withdraw) {
                $answers[$order->row] = new Answer($order->row, Done::Removed, $order->targetKey);
            } else {
                $records[$order->row] = $this->record($order, $is);
                if ($is !== null && $records[$order->row] === $is) {
                    $answers[$order->row] = new Answer($order->row, Done::Same, $order->targetKey);
                    unset($records[$order->row]);
                }
            }
        }
        $refused = $this->refused($records, $byRow);
        foreach ($records as $row => $record) {
            $answers[$row] = isset($refused[$row])
                ? new Answer($row, Done::Refused, null, $refused[$row])
                : $this->taken($byRow[$row], $record, $now[(string) $byRow[$row]->targetKey] ?? []);
        }

        return array_map(fn (Order $o) => $answers[$o->row], $orders);
    }

    public function keep(): void
    {
        $this->dry->keep();
    }

    public function drop(): void
    {
        $this->dry->drop();
    }

    /**
     * @param  array<string, string|null>  $record
     * @param  array<string, string|null>  $before  as it is, where it is there
     */
    private function taken(Order $order, array $record, array $before): Answer
    {
        $key = $order->targetKey ?? Provisional::of($this->stretch->load, $order->row);
        $this->dry->put($this->entity, $key, $record, $order->targetKey === null);

        return $order->targetKey === null
            ? new Answer($order->row, Done::Created, $key)
            : new Answer($order->row, Done::Changed, $key, null, array_intersect_key($before, $this->entity->writable()));
    }

    /**
     * The records of the orders as the run left them, or as they are in the target.
     *
     * @param  list<Order>  $orders
     * @return array<array-key, array<string, string|null>>
     */
    private function now(array $orders): array
    {
        $keys = array_values(array_filter(array_map(fn (Order $o) => $o->targetKey, $orders), fn (?string $k) => $k !== null));
        $now = $keys === [] ? [] : $this->dry->records($this->entity, $keys);
        $rest = array_values(array_filter($keys, fn (string $k) => ! isset($now[$k]) && ! Provisional::is($k)));

        return $now + array_map(
            fn (array $r) => array_map(fn ($v) => $v === null ? null : (string) $v, $r),
            $rest === [] ? [] : $this->records->byKeys($this->entity, $rest),
        );
    }

    /**
     * The record as it would be. A value that is null leaves what is there, unless it is to be as if it were new.
     *
     * @param  array<string, string|null>|null  $is
     * @return array<string, string|null>
     */
    private function record(Order $order, ?array $is): array
    {
        $record = $is ?? [];
        $isWhole = $order->verb === Verb::Create || $order->verb === Verb::Replace;
        foreach ($this->entity->writable() as $name => $field) {
            $isGiven = array_key_exists($name, $order->values);
            $value = $isGiven ? $order->values[$name] : ($isWhole ? $field->default : null);
            if ($isWhole || ($isGiven && ($value !== null || $order->verb === Verb::Change))) {
                $record[$name] = $value;
            }
        }

        return $record;
    }

    /**
     * @param  array<int, array<string, string|null>>  $records  by row
     * @param  array<int, Order>  $orders  by row
     * @return array<int, Said>
     */
    private function refused(array $records, array $orders): array
    {
        $refused = $records === [] ? [] : $this->target->failingChecks($records);
        foreach ($this->entity->uniques as $fields) {
            $open = array_diff_key($records, $refused);
            $refused += $open === [] ? [] : $this->twice($fields, $open, $orders);
        }
        $open = array_diff_key($records, $refused);

        return $refused + ($open === [] ? [] : $this->target->withoutParents($open));
    }

    /**
     * @param  list<string>  $fields  of a unique key
     * @param  array<int, array<string, string|null>>  $records  by row
     * @param  array<int, Order>  $orders  by row
     * @return array<int, Said> those whose values another record has
     */
    private function twice(array $fields, array $records, array $orders): array
    {
        $values = array_map(fn (array $r) => array_map(fn (string $f) => $r[$f] ?? null, $fields), $records);
        $values = array_filter($values, fn (array $v) => ! in_array(null, $v, true));
        $of = $this->dry->alike($this->entity, $fields, array_intersect_key($records, $values));
        $holders = [];
        foreach ($this->target->holders($fields, array_map(fn (array $v) => array_map(strval(...), $v), $values)) as [$key, $has]) {
            $holders[self::folded($has)][$key] = $has;
        }
        $refused = [];
        foreach ($values as $row => $wanted) {
            $candidates = ($of[$row] ?? []) + ($holders[self::folded($wanted)] ?? []);
            foreach ($this->have($candidates, $fields, $wanted) as $by) {
                if ($by !== $orders[$row]->targetKey) {
                    $says = "Already taken by another {$this->entity->name} in the target";
                    $refused[$row] = new Said(Said::TAKEN, $fields, $says, null, $by);
                    break;
                }
            }
        }

        return $refused;
    }

    /** @param  list<string|null>  $values */
    private static function folded(array $values): string
    {
        return implode("\x1F", array_map(fn (?string $v) => Fold::of((string) $v), $values));
    }

    /**
     * @param  array<array-key, list<string|null>>  $candidates  target key → values of a unique key
     * @param  list<string>  $fields
     * @param  list<string|null>  $wanted
     * @return list<string> target keys of those that have the values, as the run left them
     */
    private function have(array $candidates, array $fields, array $wanted): array
    {
        $changed = $candidates === [] ? [] : $this->dry->records($this->entity, array_map(strval(...), array_keys($candidates)));
        $have = [];
        foreach ($candidates as $key => $values) {
            $now = isset($changed[$key]) ? array_map(fn (string $f) => $changed[$key][$f] ?? null, $fields) : $values;
            $isSame = $now !== [] && ! in_array(null, $now, true);
            foreach ($isSame ? $fields : [] as $i => $field) {
                $isSame = $isSame && $this->target->isSame($field, (string) $now[$i], (string) $wanted[$i]);
            }
            if ($isSame) {
                $have[] = (string) $key;
            }
        }

        return $have;
    }
}
