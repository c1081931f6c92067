<?php

namespace Tests\Support;

use Baggage\Core\Loading\Answer;
use Baggage\Core\Loading\Done;
use Baggage\Core\Loading\Mark;
use Baggage\Core\Loading\Order;
use Baggage\Core\Loading\Receipt;
use Baggage\Core\Loading\Said;
use Baggage\Core\Loading\Stretch;
use Baggage\Core\Loading\Target;
use Baggage\Core\Loading\TargetRecords;
use Baggage\Core\Loading\Verb;
use Baggage\Core\Loading\Writing;
use Baggage\Core\Targets\Entity;

/** A target that keeps its records in memory: what any target must do, in the fewest lines. */
final class MemoryTarget implements Target, TargetRecords
{
    /** @var array<string, array<string, array<string, string|null>>> entity → target key → record */
    public array $records = [];

    /** @var array<string, string> name of a stretch → packed receipt */
    public array $receipts = [];

    /** @var array<string, Mark> */
    private array $marks = [];

    /** Called with "write" before anything is done and with "answer" before it is told; what it throws is what happens. */
    public ?\Closure $fault = null;

    private int $last = 0;

    public function begin(Entity $entity, Stretch $stretch, Mark $mark): Writing
    {
        ($this->fault ?? fn () => null)('write');

        return new MemoryWriting($this, clone $this, $entity, $stretch, $mark);
    }

    public function become(self $draft, Mark $mark): void
    {
        [$this->records, $this->receipts, $this->last] = [$draft->records, $draft->receipts, $draft->last];
        $this->marks["$mark->installation $mark->lane"] ??= $mark;
    }

    public function recall(Stretch $stretch): ?Receipt
    {
        ($this->fault ?? fn () => null)('recall');
        $kept = $this->receipts[$stretch->name()] ?? null;

        return $kept === null ? null : Receipt::unpack($kept);
    }

    public function marks(): array
    {
        return array_values($this->marks);
    }

    public function setReference(Entity $entity, string $field, array $pairs): void
    {
        ($this->fault ?? fn () => null)('reference');
        foreach ($pairs as [$key, $parent]) {
            if (isset($this->records[$entity->name][$key])) {
                $this->records[$entity->name][$key][$field] = $parent;
            }
        }
    }

    public function unmark(string $installation, int $lane): void
    {
        unset($this->marks["$installation $lane"]);
    }

    public function forget(string $installation, int $pass): void
    {
        $this->receipts = array_filter(
            $this->receipts,
            fn (string $name) => ! str_starts_with($name, "$installation:$pass:"),
            ARRAY_FILTER_USE_KEY,
        );
    }

    public function count(string $entity): ?int
    {
        return count($this->records[$entity] ?? []);
    }

    public function newest(Entity $entity): ?string
    {
        $keys = array_map(strval(...), array_keys($this->records[$entity->name] ?? []));
        natsort($keys);

        return $keys === [] ? null : end($keys);
    }

    public function after(Entity $entity, array $fields, ?string $key, int $most): array
    {
        $all = $this->records[$entity->name] ?? [];
        ksort($all, SORT_NATURAL);
        $page = array_filter($all, fn ($k) => $key === null || strnatcmp((string) $k, $key) > 0, ARRAY_FILTER_USE_KEY);

        return array_map(
            fn (array $r) => array_intersect_key($r, array_flip($fields)),
            array_slice($page, 0, $most, true),
        );
    }

    public function referring(Entity $entity, string $field, array $keys, ?string $key, int $most): array
    {
        $all = array_filter($this->after($entity, [$field], $key, PHP_INT_MAX), fn (array $r) => in_array($r[$field] ?? null, $keys, true));

        return array_map(strval(...), array_keys(array_slice($all, 0, $most, true)));
    }

    public function referrers(Entity $entity, string $field, string $key): int
    {
        return count($this->referring($entity, $field, [$key], null, PHP_INT_MAX));
    }

    public function byKeys(Entity $entity, array $keys, ?array $fields = null): array
    {
        $found = array_intersect_key($this->records[$entity->name] ?? [], array_flip($keys));

        return $fields === null
            ? $found
            : array_map(fn (array $r) => array_intersect_key($r, array_flip([...$fields, $entity->key])), $found);
    }

    public function one(Entity $entity, Order $order): Answer
    {
        $now = $order->targetKey === null ? null : $this->records[$entity->name][$order->targetKey] ?? null;
        if ($order->verb !== Verb::Create && $order->verb !== Verb::Revive && $now === null) {
            return new Answer($order->row, Done::Gone, $order->targetKey);
        }
        if ($order->verb === Verb::Remove || $order->verb === Verb::Withdraw) {
            unset($this->records[$entity->name][(string) $order->targetKey]);

            return new Answer($order->row, Done::Removed, $order->targetKey, null, array_intersect_key($now ?? [], $entity->writable()));
        }
        $key = $order->targetKey ?? (string) ($this->last + 1);
        if ($order->verb === Verb::Restore) {
            $this->records[$entity->name][$key] = $order->values + ($now ?? []);

            return new Answer($order->row, $order->values + ($now ?? []) == $now ? Done::Same : Done::Changed, $key);
        }
        $isWhole = $now === null || $order->verb === Verb::Replace;
        $values = $isWhole || $order->verb === Verb::Change ? $order->values : array_filter($order->values, fn ($v) => $v !== null);
        $record = $values + ($isWhole ? array_fill_keys(array_keys($entity->fields), null) : $now);
        $record[$entity->key] = $key;
        if ($now !== null && $record == $now) {
            return new Answer($order->row, Done::Same, $key);
        }
        $said = $this->against($entity, $key, $record);
        if ($said !== null) {
            return new Answer($order->row, Done::Refused, null, $said);
        }
        $this->last = max($this->last, (int) $key);
        $this->records[$entity->name][$key] = $record;
        $before = $now === null ? [] : array_intersect_key($now, $entity->writable());

        return new Answer($order->row, $now === null ? Done::Created : Done::Changed, $key, null, $before);
    }

    /** @param  array<string, string|null>  $record */
    private function against(Entity $entity, string $key, array $record): ?Said
    {
        foreach ($entity->writable() as $name => $field) {
            if ($field->required && ($record[$name] ?? null) === null) {
                return new Said(Said::MISSING, [$name], 'Required by the target', 'null');
            }
            $refers = $record[$name] ?? null;
            if ($field->refers !== null && $refers !== null && ! isset($this->records[$field->refers][$refers])) {
                return new Said(Said::NO_PARENT, [$name], "The target has no such $field->refers");
            }
        }
        if (str_contains((string) ($record['name'] ?? ''), '!')) {
            return new Said(Said::CHECK, ['name'], 'Its check on name does not hold');
        }
        foreach ($entity->uniques as $fields) {
            $of = fn (array $r) => array_map(fn ($f) => isset($r[$f]) ? mb_strtolower($r[$f]) : null, $fields);
            foreach ($this->records[$entity->name] ?? [] as $other => $is) {
                if ((string) $other !== $key && ! in_array(null, $of($record), true) && $of($is) === $of($record)) {
                    return new Said(Said::TAKEN, $fields, "Already taken by another $entity->name", null, (string) $other);
                }
            }
        }

        return null;
    }
}
