<?php

namespace App\Targets;

use Baggage\Core\Rows\Cause;
use Baggage\Core\Rows\Journey;
use Baggage\Core\Rows\Outcome;
use Baggage\Core\Rows\Stage;
use Baggage\Core\Targets\Entity;
use PDO;
use PDOException;

/** Changes records of one entity that the target holds already, one by one. */
final class ExistingRecords
{
    public function __construct(private readonly PDO $pdo, private readonly Entity $entity)
    {
    }

    /**
     * A rule that gives nothing leaves what the record has: early users may have typed it.
     *
     * @param  list<Journey>  $journeys
     */
    public function change(array $journeys, bool $mayUpdate): void
    {
        if (! $mayUpdate || $journeys === []) {
            foreach ($journeys as $journey) {
                $journey->settle(Outcome::Unchanged, (string) $journey->targetKey);
            }

            return;
        }
        $now = $this->locked($journeys);
        foreach ($journeys as $journey) {
            $target = (string) $journey->targetKey;
            $record = $now[$target] ?? null;
            if ($record === null) {
                $journey->targetKey = null;
                $why = "The record $target is no longer in the target";
                $journey->reject(new Cause(Stage::Writing, 'record_gone', null, $target, $why));

                continue;
            }
            $changes = array_filter(
                $journey->values,
                fn ($v, $f) => $v !== null && (string) $record[$f] !== $v,
                ARRAY_FILTER_USE_BOTH,
            );
            if ($changes === []) {
                $journey->settle(Outcome::Unchanged, $target);
            } else {
                $this->update($journey, $target, $changes);
            }
        }
    }

    /**
     * The records of the journeys as they are, kept from others until the transaction ends.
     *
     * @param  non-empty-list<Journey>  $journeys
     * @return array<array-key, array<string, mixed>> by target key
     */
    private function locked(array $journeys): array
    {
        $key = SqlTarget::name($this->entity->key);
        $table = SqlTarget::name($this->entity->name);
        $keys = implode(',', array_map(fn (Journey $j) => $this->pdo->quote((string) $j->targetKey), $journeys));
        $found = $this->pdo->query("SELECT * FROM $table WHERE $key IN ($keys) FOR UPDATE");
        $now = [];
        foreach ($found === false ? [] : $found->fetchAll(PDO::FETCH_ASSOC) as $record) {
            $now[$record[$this->entity->key]] = $record;
        }

        return $now;
    }

    /** @param  array<string, string>  $changes  field → new value */
    private function update(Journey $journey, string $target, array $changes): void
    {
        $set = implode(
            ',',
            array_map(
                fn ($f, $v) => SqlTarget::name($f).'='.$this->pdo->quote($v),
                array_keys($changes),
                $changes,
            ),
        );
        $table = SqlTarget::name($this->entity->name);
        $key = SqlTarget::name($this->entity->key);
        $this->pdo->exec('SAVEPOINT record');
        try {
            $this->pdo->exec("UPDATE $table SET $set WHERE $key = ".$this->pdo->quote($target));
            $journey->settle(Outcome::Updated, $target);
        } catch (PDOException $e) {
            if (! Refusals::is($e)) {
                throw $e;
            }
            $this->pdo->exec('ROLLBACK TO SAVEPOINT record');
            $journey->targetKey = null;
            $journey->reject(Refusals::cause($this->entity, $journey, $e));
        }
    }
}
