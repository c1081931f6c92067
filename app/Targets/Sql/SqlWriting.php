<?php

namespace App\Targets\Sql;

use App\Targets\TargetLink;
use Baggage\Core\Loading\Answer;
use Baggage\Core\Loading\Mark;
use Baggage\Core\Loading\Order;
use Baggage\Core\Loading\Receipt;
use Baggage\Core\Loading\Stretch;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Loading\Verb;
use Baggage\Core\Loading\Writing;
use Baggage\Core\Targets\Entity;
use PDO;
use PDOException;

/** A transaction of a MariaDB target: a stretch of rows with its receipt. */
final class SqlWriting implements Writing
{
    /** @var list<Answer> */
    private array $answers = [];

    private readonly NewRecords $new;

    private readonly ExistingRecords $existing;

    private readonly ReadBack $readBack;

    /**
     * @param  Mark|null  $mark  to be left with the records
     * @param  \Closure(): void  $kept  called when all stands
     */
    public function __construct(
        private readonly TargetLink $link,
        private readonly PDO $pdo,
        private readonly Entity $entity,
        private readonly Stretch $stretch,
        private readonly ?Mark $mark,
        private readonly \Closure $kept,
    ) {
        $refusals = new Refusals($pdo, $entity);
        $this->new = new NewRecords($pdo, $entity, $refusals);
        $this->existing = new ExistingRecords($pdo, $entity, $refusals);
        $this->readBack = new ReadBack($pdo, $entity);
    }

    public function do(array $orders): array
    {
        $new = $existing = [];
        foreach ($orders as $order) {
            match ($order->verb) {
                Verb::Create => $new[] = $order,
                Verb::Revive => $new[] = new Order(
                    $order->row, $order->legacyKey, Verb::Create, null, [$this->entity->key => $order->targetKey] + $order->values,
                ),
                default => $existing[] = $order,
            };
        }
        $answers = $this->asked(fn () => $this->readBack->of(
            $orders,
            $this->new->create($new) + $this->existing->change($existing),
        ));
        $inOrder = array_map(fn (Order $o) => $answers[$o->row], $orders);
        $this->answers = $this->answers === [] ? $inOrder : [...$this->answers, ...$inOrder];

        return $inOrder;
    }

    public function keep(): void
    {
        $this->asked(function () {
            if ($this->mark !== null) {
                Marks::put($this->pdo, $this->mark);
            }
            Receipts::put($this->pdo, $this->stretch, (new Receipt($this->stretch->to, $this->answers))->pack());
            $this->pdo->commit();
        });
        ($this->kept)();
    }

    public function drop(): void
    {
        try {
            if ($this->pdo->inTransaction()) {
                $this->pdo->rollBack();
            }
        } catch (PDOException) {
            $this->link->drop();
        }
    }

    /**
     * @template T
     *
     * @param  \Closure(): T  $do
     * @return T
     */
    private function asked(\Closure $do): mixed
    {
        try {
            return $do();
        } catch (PDOException $e) {
            if (TargetLink::isLost($e)) {
                $this->link->drop();
                throw TargetUnavailable::because($this->link->explain($e), $e);
            }
            $this->drop();
            throw match (true) {
                Refusals::isInTheWay($e) => TargetUnavailable::inTheWay($e),
                Refusals::isAboutRights($e) => TargetUnavailable::noRight((string) ($e->errorInfo[2] ?? ''), $e),
                default => TargetUnavailable::brokeOff($e),
            };
        }
    }
}
