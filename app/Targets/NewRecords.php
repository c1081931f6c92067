<?php

namespace App\Targets;

use Baggage\Core\Loading\BatchProcessor;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Rows\Journey;
use Baggage\Core\Rows\Outcome;
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

    public function __construct(private readonly PDO $pdo, private readonly Entity $entity)
    {
    }

    /** @param  list<Journey>  $journeys */
    public function create(array $journeys): void
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
            $this->insert($columns, $journeys);
        } catch (PDOException $e) {
            if (! Refusals::is($e)) {
                throw $e;
            }
            if ((int) ($e->errorInfo[1] ?? 0) === Refusals::DUPLICATE) {
                $this->rejectTaken($journeys);
            }
            $this->insertSplitting($columns, array_values(array_filter($journeys, fn (Journey $j) => $j->isOpen())));
        }
    }

    /**
     * @param  list<string>  $columns
     * @param  list<Journey>  $journeys
     */
    private function insertSplitting(array $columns, array $journeys): void
    {
        if ($journeys === []) {
            return;
        }
        try {
            $this->insert($columns, $journeys);
        } catch (PDOException $e) {
            if (! Refusals::is($e)) {
                throw $e;
            }
            if (count($journeys) === 1) {
                $journeys[0]->reject(Refusals::cause($this->entity, $journeys[0], $e));

                return;
            }
            $half = intdiv(count($journeys), 2);
            $this->insertSplitting($columns, array_slice($journeys, 0, $half));
            $this->insertSplitting($columns, array_slice($journeys, $half));
        }
    }

    /**
     * @param  list<string>  $columns
     * @param  list<Journey>  $journeys
     */
    private function insert(array $columns, array $journeys): void
    {
        $this->pdo->exec('SAVEPOINT records');
        try {
            $head = 'INSERT INTO '.SqlTarget::name($this->entity->name).' ('
                .implode(',', array_map(SqlTarget::name(...), $columns)).') VALUES ';
            $values = '';
            $group = [];
            foreach ($journeys as $journey) {
                $cells = '';
                foreach ($columns as $column) {
                    $cells .= $cells === '' ? '(' : ',';
                    $cells .= array_key_exists($column, $journey->values)
                        ? ($journey->values[$column] === null
                            ? 'NULL'
                            : $this->pdo->quote($journey->values[$column]))
                        : 'DEFAULT';
                }
                $values .= ($values === '' ? '' : ',').($cells === '' ? '(' : $cells).')';
                $group[] = $journey;
                if (strlen($values) > self::BYTES_PER_STATEMENT) {
                    $this->send($head.$values, $group);
                    $values = '';
                    $group = [];
                }
            }
            if ($group !== []) {
                $this->send($head.$values, $group);
            }
        } catch (PDOException $e) {
            foreach ($journeys as $journey) {
                [$journey->outcome, $journey->targetKey] = [null, null];
            }
            if (! TargetLink::isLost($e) && ! in_array((int) ($e->errorInfo[1] ?? 0), Refusals::DEADLOCK, true)) {
                $this->pdo->exec('ROLLBACK TO SAVEPOINT records');
            }
            throw $e;
        }
    }

    /** @param  list<Journey>  $group */
    private function send(string $sql, array $group): void
    {
        $given = $this->pdo->query($sql.' RETURNING '.SqlTarget::name($this->entity->key));
        $keys = $given === false ? [] : $given->fetchAll(PDO::FETCH_COLUMN);
        if (count($keys) !== count($group)) {
            throw TargetUnavailable::keysMissing(count($keys), count($group));
        }
        foreach ($group as $i => $journey) {
            $journey->settle(Outcome::Loaded, (string) $keys[$i]);
        }
    }

    /** @param  list<Journey>  $journeys */
    private function rejectTaken(array $journeys): void
    {
        foreach ($this->entity->uniques as $fields) {
            $tuples = [];
            foreach ($journeys as $journey) {
                $values = array_map(fn ($f) => $journey->values[$f] ?? null, $fields);
                if ($journey->isOpen() && ! in_array(null, $values, true)) {
                    $tuples[] = '('.implode(',', array_map($this->pdo->quote(...), $values)).')';
                }
            }
            if ($tuples === []) {
                continue;
            }
            $list = implode(',', array_map(SqlTarget::name(...), $fields));
            $found = $this->pdo->query(
                'SELECT '.SqlTarget::name($this->entity->key).", $list FROM ".SqlTarget::name($this->entity->name)
                    ." WHERE ($list) IN (".implode(',', $tuples).')',
            );
            $taken = [];
            foreach ($found === false ? [] : $found->fetchAll(PDO::FETCH_NUM) as $row) {
                $taken[mb_strtolower(implode("\x1F", array_slice($row, 1)))] = $row[0];
            }
            foreach ($journeys as $journey) {
                $key = mb_strtolower(
                    implode("\x1F", array_map(fn ($f) => (string) ($journey->values[$f] ?? ''), $fields)),
                );
                if ($journey->isOpen() && isset($taken[$key])) {
                    $journey->reject(
                        BatchProcessor::taken($fields, $journey, "another {$this->entity->name} in the target"),
                    );
                }
            }
        }
    }
}
