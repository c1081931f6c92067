<?php

namespace App\Targets;

use Baggage\Core\Loading\BatchId;
use Baggage\Core\Loading\BatchProcessor;
use Baggage\Core\Loading\Journey;
use Baggage\Core\Loading\Outcome;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Loading\TargetWriter;
use Baggage\Core\Rejects\Cause;
use Baggage\Core\Rejects\Stage;
use Baggage\Core\Targets\Entity;
use PDO;
use PDOException;

/**
 * Writes batches into a MariaDB target.
 *
 * All new records go in one INSERT … RETURNING, so the target itself says which key each got. When it refuses the statement,
 * records whose unique values are taken are found by one query per unique key, and what is still refused is split in halves
 * until the guilty rows are alone.
 */
final class SqlTarget implements TargetWriter
{
    private const DUPLICATE = 1062;

    private const DEADLOCK = [1205, 1213];

    private const BYTES_PER_STATEMENT = 4_000_000;

    private ?PDO $prepared = null;

    public function __construct(private readonly TargetLink $link)
    {
    }

    public function write(Entity $entity, array $journeys, bool $mayUpdate, BatchId $batch, \Closure $receipt): void
    {
        for ($try = 1; ; $try++) {
            try {
                $this->attempt($entity, $journeys, $mayUpdate, $batch, $receipt);

                return;
            } catch (PDOException $e) {
                $code = (int) ($e->errorInfo[1] ?? 0);
                if (TargetLink::isLost($e)) {
                    $this->link->drop();
                    throw new TargetUnavailable(TargetLink::explain($e, $this->link->target), 0, $e);
                }
                $this->rollBack();
                if (! in_array($code, self::DEADLOCK, true) || $try === 5) {
                    throw new TargetUnavailable('The target broke off the batch: '.$e->getMessage(), 0, $e);
                }
                usleep(50_000 * 2 ** $try);
            }
        }
    }

    public function findReceipt(BatchId $batch): ?string
    {
        return Receipts::find($this->ready(), $batch);
    }

    /**
     * @param  list<Journey>  $journeys
     * @param  \Closure(): string  $receipt
     */
    private function attempt(Entity $entity, array $journeys, bool $mayUpdate, BatchId $batch, \Closure $receipt): void
    {
        $pdo = $this->ready();
        $new = $existing = [];
        foreach ($journeys as $journey) {
            if ($journey->isOpen()) {
                $journey->targetKey === null ? $new[] = $journey : $existing[] = $journey;
            }
        }
        $before = array_map(fn (Journey $j) => $j->targetKey, $existing);
        $pdo->beginTransaction();
        try {
            $this->create($pdo, $entity, $new);
            $this->change($pdo, $entity, $existing, $mayUpdate);
            Receipts::put($pdo, $batch, $receipt());
            $pdo->commit();
        } catch (PDOException $e) {
            // A second attempt starts from the same place.
            foreach ($new as $journey) {
                [$journey->outcome, $journey->targetKey, $journey->cause] = [null, null, null];
            }
            foreach ($existing as $i => $journey) {
                [$journey->outcome, $journey->targetKey, $journey->cause] = [null, $before[$i], null];
            }
            throw $e;
        }
    }

    private function ready(): PDO
    {
        $pdo = $this->link->pdo();
        if ($this->prepared !== $pdo) {
            try {
                Receipts::prepare($pdo);
            } catch (PDOException $e) {
                throw new TargetUnavailable('The table '.Receipts::TABLE.' cannot be made in the target, so a pass could not be resumed safely: '.$e->getMessage(), 0, $e);
            }
            $this->prepared = $pdo;
        }

        return $pdo;
    }

    private function rollBack(): void
    {
        try {
            if ($this->link->pdo()->inTransaction()) {
                $this->link->pdo()->rollBack();
            }
        } catch (PDOException|TargetUnavailable) {
            $this->link->drop();
        }
    }

    /** @param  list<Journey>  $journeys */
    private function create(PDO $pdo, Entity $entity, array $journeys): void
    {
        if ($journeys === []) {
            return;
        }
        $columns = [];
        foreach ($journeys as $journey) {
            $columns += $journey->values;
        }
        $columns = array_keys($columns);
        try {
            $this->insert($pdo, $entity, $columns, $journeys);
        } catch (PDOException $e) {
            if (! $this->isRefusal($e)) {
                throw $e;
            }
            if ((int) ($e->errorInfo[1] ?? 0) === self::DUPLICATE) {
                $this->rejectTaken($pdo, $entity, $journeys);
            }
            $this->insertSplitting($pdo, $entity, $columns, array_values(array_filter($journeys, fn (Journey $j) => $j->isOpen())));
        }
    }

    /**
     * @param  list<string>  $columns
     * @param  list<Journey>  $journeys
     */
    private function insertSplitting(PDO $pdo, Entity $entity, array $columns, array $journeys): void
    {
        if ($journeys === []) {
            return;
        }
        try {
            $this->insert($pdo, $entity, $columns, $journeys);
        } catch (PDOException $e) {
            if (! $this->isRefusal($e)) {
                throw $e;
            }
            if (count($journeys) === 1) {
                $journeys[0]->reject($this->refusal($entity, $journeys[0], $e));

                return;
            }
            $half = intdiv(count($journeys), 2);
            $this->insertSplitting($pdo, $entity, $columns, array_slice($journeys, 0, $half));
            $this->insertSplitting($pdo, $entity, $columns, array_slice($journeys, $half));
        }
    }

    /**
     * @param  list<string>  $columns
     * @param  list<Journey>  $journeys
     */
    private function insert(PDO $pdo, Entity $entity, array $columns, array $journeys): void
    {
        $pdo->exec('SAVEPOINT records');
        try {
            $head = 'INSERT INTO '.self::name($entity->name).' ('.implode(',', array_map(self::name(...), $columns)).') VALUES ';
            $values = '';
            $group = [];
            foreach ($journeys as $journey) {
                $cells = '';
                foreach ($columns as $column) {
                    $cells .= $cells === '' ? '(' : ',';
                    $cells .= array_key_exists($column, $journey->values)
                        ? ($journey->values[$column] === null ? 'NULL' : $pdo->quote($journey->values[$column])) : 'DEFAULT';
                }
                $values .= ($values === '' ? '' : ',').($cells === '' ? '(' : $cells).')';
                $group[] = $journey;
                if (strlen($values) > self::BYTES_PER_STATEMENT) {
                    $this->send($pdo, $head.$values, $entity, $group);
                    $values = '';
                    $group = [];
                }
            }
            if ($group !== []) {
                $this->send($pdo, $head.$values, $entity, $group);
            }
        } catch (PDOException $e) {
            foreach ($journeys as $journey) {
                [$journey->outcome, $journey->targetKey] = [null, null];
            }
            if (! TargetLink::isLost($e) && ! in_array((int) ($e->errorInfo[1] ?? 0), self::DEADLOCK, true)) {
                $pdo->exec('ROLLBACK TO SAVEPOINT records');
            }
            throw $e;
        }
    }

    /** @param  list<Journey>  $group */
    private function send(PDO $pdo, string $sql, Entity $entity, array $group): void
    {
        $given = $pdo->query($sql.' RETURNING '.self::name($entity->key));
        $keys = $given === false ? [] : $given->fetchAll(PDO::FETCH_COLUMN);
        if (count($keys) !== count($group)) {
            throw new TargetUnavailable('The target gave '.count($keys).' keys for '.count($group).' records; it must be MariaDB 10.5 or later.');
        }
        foreach ($group as $i => $journey) {
            $journey->settle(Outcome::Loaded, (string) $keys[$i]);
        }
    }

    /** @param  list<Journey>  $journeys */
    private function rejectTaken(PDO $pdo, Entity $entity, array $journeys): void
    {
        foreach ($entity->uniques as $fields) {
            $tuples = [];
            foreach ($journeys as $journey) {
                $values = array_map(fn ($f) => $journey->values[$f] ?? null, $fields);
                if ($journey->isOpen() && ! in_array(null, $values, true)) {
                    $tuples[] = '('.implode(',', array_map($pdo->quote(...), $values)).')';
                }
            }
            if ($tuples === []) {
                continue;
            }
            $list = implode(',', array_map(self::name(...), $fields));
            $found = $pdo->query('SELECT '.self::name($entity->key).", $list FROM ".self::name($entity->name)." WHERE ($list) IN (".implode(',', $tuples).')');
            $taken = [];
            foreach ($found === false ? [] : $found->fetchAll(PDO::FETCH_NUM) as $row) {
                $taken[mb_strtolower(implode("\x1F", array_slice($row, 1)))] = $row[0];
            }
            foreach ($journeys as $journey) {
                $key = mb_strtolower(implode("\x1F", array_map(fn ($f) => (string) ($journey->values[$f] ?? ''), $fields)));
                if ($journey->isOpen() && isset($taken[$key])) {
                    $journey->reject(BatchProcessor::taken($fields, $journey, "another $entity->name in the target"));
                }
            }
        }
    }

    /**
     * A rule that gives nothing leaves what the record has: early users may have typed it.
     *
     * @param  list<Journey>  $journeys
     */
    private function change(PDO $pdo, Entity $entity, array $journeys, bool $mayUpdate): void
    {
        if (! $mayUpdate || $journeys === []) {
            foreach ($journeys as $journey) {
                $journey->settle(Outcome::Unchanged, (string) $journey->targetKey);
            }

            return;
        }
        $key = self::name($entity->key);
        $table = self::name($entity->name);
        $keys = implode(',', array_map(fn (Journey $j) => $pdo->quote((string) $j->targetKey), $journeys));
        $now = [];
        $found = $pdo->query("SELECT * FROM $table WHERE $key IN ($keys) FOR UPDATE");
        foreach ($found === false ? [] : $found->fetchAll(PDO::FETCH_ASSOC) as $record) {
            $now[$record[$entity->key]] = $record;
        }
        foreach ($journeys as $journey) {
            $target = (string) $journey->targetKey;
            $record = $now[$target] ?? null;
            if ($record === null) {
                $journey->targetKey = null;
                $journey->reject(new Cause(Stage::Writing, 'record_gone', null, $target, "The record $target is no longer in the target"));

                continue;
            }
            $changes = array_filter($journey->values, fn ($v, $f) => $v !== null && (string) $record[$f] !== $v, ARRAY_FILTER_USE_BOTH);
            if ($changes === []) {
                $journey->settle(Outcome::Unchanged, $target);

                continue;
            }
            $set = implode(',', array_map(fn ($f, $v) => self::name($f).'='.$pdo->quote($v), array_keys($changes), $changes));
            $pdo->exec('SAVEPOINT record');
            try {
                $pdo->exec("UPDATE $table SET $set WHERE $key = ".$pdo->quote($target));
                $journey->settle(Outcome::Updated, $target);
            } catch (PDOException $e) {
                if (! $this->isRefusal($e)) {
                    throw $e;
                }
                $pdo->exec('ROLLBACK TO SAVEPOINT record');
                $journey->targetKey = null;
                $journey->reject($this->refusal($entity, $journey, $e));
            }
        }
    }

    private function isRefusal(PDOException $e): bool
    {
        return ! TargetLink::isLost($e) && ! in_array((int) ($e->errorInfo[1] ?? 0), self::DEADLOCK, true);
    }

    private function refusal(Entity $entity, Journey $journey, PDOException $e): Cause
    {
        $text = (string) ($e->errorInfo[2] ?? $e->getMessage());
        $field = match (true) {
            preg_match('/FOREIGN KEY \(`([^`]+)`\)/', $text, $m) === 1,
            preg_match("/column [`'](?:[^`']*`\.`)*([^`']+)[`']/i", $text, $m) === 1 => $m[1],
            preg_match('/CONSTRAINT `(?:[^`]*\.)?([^`]+)` failed/', $text, $m) === 1 => $this->fieldIn($entity, $m[1]),
            default => null,
        };
        $message = match ((int) ($e->errorInfo[1] ?? 0)) {
            1452 => 'Target refused: it has no record with this key to refer to',
            4025 => 'Target refused: its own check "'.($m[1] ?? '').'" does not hold',
            self::DUPLICATE => 'Target refused: a value that must be unique is already taken',
            default => 'Target refused: '.$text,
        };

        return new Cause(Stage::Writing, 'refused', $field, $field === null ? null : ($journey->values[$field] ?? null), mb_substr($message, 0, 400));
    }

    private function fieldIn(Entity $entity, string $constraint): ?string
    {
        foreach (array_keys($entity->fields) as $name) {
            if (str_contains($constraint, $name)) {
                return $name;
            }
        }

        return null;
    }

    public static function name(string $identifier): string
    {
        return '`'.str_replace('`', '``', $identifier).'`';
    }
}
