<?php

namespace App\Targets;

use Baggage\Core\Loading\BatchId;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Loading\TargetWriter;
use Baggage\Core\Rows\Journey;
use Baggage\Core\Targets\Entity;
use PDO;
use PDOException;

/**
 * Writes batches into a MariaDB target, each in one transaction with its receipt: NewRecords and ExistingRecords know how.
 */
final class SqlTarget implements TargetWriter
{
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
                    throw TargetUnavailable::because($this->link->explain($e), $e);
                }
                $this->rollBack();
                if (! in_array($code, Refusals::DEADLOCK, true) || $try === 5) {
                    throw TargetUnavailable::brokeOff($e);
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
     * Sets a reference of records that are there already. Setting one twice changes nothing.
     *
     * @param  list<array{string, string}>  $pairs  target key of the record, target key it refers to
     *
     * @throws TargetUnavailable
     */
    public function setReference(Entity $entity, string $field, array $pairs): void
    {
        if ($pairs === []) {
            return;
        }
        try {
            $pdo = $this->link->pdo();
            $values = array_map(
                fn (array $p) => $pdo->quote($p[0]).' AS child,'.$pdo->quote($p[1]).' AS parent',
                $pairs,
            );
            $pdo->exec(
                'UPDATE '.self::name($entity->name).' t JOIN (SELECT '.implode(' UNION ALL SELECT ', $values)
                    .') x ON t.'.self::name($entity->key).' = x.child SET t.'.self::name($field).' = x.parent',
            );
        } catch (PDOException $e) {
            throw TargetUnavailable::referencesNotSet($entity->name, $field, $e);
        }
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
                $journey->targetKey === null ? ($new[] = $journey) : ($existing[] = $journey);
            }
        }
        $before = array_map(fn (Journey $j) => $j->targetKey, $existing);
        $pdo->beginTransaction();
        try {
            (new NewRecords($pdo, $entity))->create($new);
            (new ExistingRecords($pdo, $entity))->change($existing, $mayUpdate);
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
                throw TargetUnavailable::noReceipts(Receipts::TABLE, $e);
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

    public static function name(string $identifier): string
    {
        return '`'.str_replace('`', '``', $identifier).'`';
    }
}
