<?php

namespace App\Targets\Sql;

use App\Targets\TargetLink;
use Baggage\Core\Loading\Answer;
use Baggage\Core\Loading\Mark;
use Baggage\Core\Loading\Order;
use Baggage\Core\Loading\Receipt;
use Baggage\Core\Loading\Stretch;
use Baggage\Core\Loading\Target;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Loading\Verb;
use Baggage\Core\Targets\Entity;
use PDO;
use PDOException;

/** A MariaDB target. Each stretch is one transaction with its receipt: NewRecords and ExistingRecords know how. */
final class SqlTarget implements Target
{
    private const TRIES = 5;

    private ?PDO $prepared = null;

    /** The mark that is there for certain. */
    private ?Mark $marked = null;

    public function __construct(private readonly TargetLink $link)
    {
    }

    public function write(Entity $entity, array $orders, Stretch $stretch, Mark $mark): array
    {
        for ($try = 1; ; $try++) {
            try {
                return $this->attempt($entity, $orders, $stretch, $mark);
            } catch (PDOException $e) {
                $code = (int) ($e->errorInfo[1] ?? 0);
                if (TargetLink::isLost($e)) {
                    $this->link->drop();
                    throw TargetUnavailable::because($this->link->explain($e), $e);
                }
                $this->rollBack();
                if (! in_array($code, Refusals::DEADLOCK, true) || $try === self::TRIES) {
                    throw TargetUnavailable::brokeOff($e);
                }
                usleep(50_000 * 2 ** $try);
            }
        }
    }

    public function recall(Stretch $stretch): ?Receipt
    {
        return $this->asked(fn (PDO $pdo) => Receipts::find($pdo, $stretch));
    }

    public function marks(): array
    {
        return $this->asked(Marks::all(...));
    }

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

    public function forget(string $installation, int $pass): void
    {
        $this->asked(fn (PDO $pdo) => Receipts::clear($pdo, $installation, $pass));
    }

    /**
     * @param  list<Order>  $orders
     * @return list<Answer>
     */
    private function attempt(Entity $entity, array $orders, Stretch $stretch, Mark $mark): array
    {
        $pdo = $this->ready();
        $new = $existing = [];
        foreach ($orders as $order) {
            $order->verb === Verb::Create ? ($new[] = $order) : ($existing[] = $order);
        }
        $pdo->beginTransaction();
        $answers = (new NewRecords($pdo, $entity))->create($new) + (new ExistingRecords($pdo, $entity))->change($existing);
        $inOrder = array_map(fn (Order $o) => $answers[$o->row], $orders);
        if ($this->marked !== $mark) {
            Marks::put($pdo, $mark);
        }
        Receipts::put($pdo, $stretch, (new Receipt($stretch->to, $inOrder))->pack());
        $pdo->commit();
        $this->marked = $mark;

        return $inOrder;
    }

    private function ready(): PDO
    {
        $pdo = $this->link->pdo();
        if ($this->prepared !== $pdo) {
            try {
                Receipts::prepare($pdo);
                Marks::prepare($pdo);
            } catch (PDOException $e) {
                throw TargetUnavailable::noReceipts(Receipts::TABLE, $e);
            }
            $this->prepared = $pdo;
        }

        return $pdo;
    }

    /**
     * @template T
     *
     * @param  \Closure(PDO): T  $ask
     * @return T
     */
    private function asked(\Closure $ask): mixed
    {
        try {
            return $ask($this->ready());
        } catch (PDOException $e) {
            if (TargetLink::isLost($e)) {
                $this->link->drop();
            }
            throw TargetUnavailable::because($this->link->explain($e), $e);
        }
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
