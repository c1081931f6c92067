<?php

namespace App\Targets\Sql;

use App\Targets\TargetLink;
use Baggage\Core\Loading\Mark;
use Baggage\Core\Loading\Receipt;
use Baggage\Core\Loading\Stretch;
use Baggage\Core\Loading\Target;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Loading\Writing;
use Baggage\Core\Targets\Entity;
use PDO;
use PDOException;

/** A MariaDB target. Each stretch is one transaction with its receipt, a SqlWriting. */
final class SqlTarget implements Target
{
    /** @var \WeakMap<PDO, int>|null */
    private static ?\WeakMap $packets = null;

    private ?PDO $prepared = null;

    /** The mark that is there for certain. */
    private ?Mark $marked = null;

    public function __construct(private readonly TargetLink $link)
    {
    }

    public function begin(Entity $entity, Stretch $stretch, Mark $mark): Writing
    {
        return $this->asked(function (PDO $pdo) use ($entity, $stretch, $mark) {
            if ($pdo->inTransaction()) {
                $pdo->rollBack();
            }
            $pdo->beginTransaction();
            $isMarked = $this->marked === $mark;

            return new SqlWriting($this->link, $pdo, $entity, $stretch, $isMarked ? null : $mark, function () use ($mark): void {
                $this->marked = $mark;
            });
        });
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
                fn (array $p) => $pdo->quote($p[0]).' AS child,'.($p[1] === null ? 'NULL' : $pdo->quote($p[1])).' AS parent',
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

    public function unmark(string $installation, int $lane): void
    {
        $this->marked = null;
        $this->asked(fn (PDO $pdo) => Marks::remove($pdo, $installation, $lane));
    }

    public function forget(string $installation, int $pass): void
    {
        $this->asked(fn (PDO $pdo) => Receipts::clear($pdo, $installation, $pass));
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

    /** Bytes a target takes in one statement (MariaDB, max_allowed_packet). */
    public static function packet(PDO $pdo): int
    {
        self::$packets ??= new \WeakMap;
        if (! isset(self::$packets[$pdo])) {
            $found = $pdo->query('SELECT @@max_allowed_packet');
            self::$packets[$pdo] = max(16_384, $found === false ? 0 : (int) $found->fetchColumn());
        }

        return self::$packets[$pdo];
    }

    public static function name(string $identifier): string
    {
        return '`'.str_replace('`', '``', $identifier).'`';
    }
}
