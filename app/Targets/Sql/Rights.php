<?php

namespace App\Targets\Sql;

use App\Targets\TargetLink;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Targets\Entity;
use PDOException;

/** Tries what a pass will do in a target on no record at all, so that a missing right is told before the first row. */
final readonly class Rights
{
    public function __construct(private TargetLink $link)
    {
    }

    /**
     * @param  list<Entity>  $entities  that loads fill
     * @return list<string> what the account may not do, with what to grant; empty where it may all
     *
     * @throws TargetUnavailable
     */
    public function missing(array $entities): array
    {
        $pdo = $this->link->pdo();
        $missing = [];
        foreach ([fn () => Receipts::prepare($pdo), fn () => Marks::prepare($pdo)] as $do) {
            $this->try($do, $missing);
        }
        foreach ($entities as $entity) {
            $table = SqlTarget::name($entity->name);
            $key = SqlTarget::name($entity->key);
            $this->try(fn () => $pdo->exec("INSERT INTO $table ($key) SELECT $key FROM $table WHERE FALSE"), $missing);
            $this->try(fn () => $pdo->exec("UPDATE $table SET $key = $key WHERE FALSE"), $missing);
        }
        foreach ($missing === [] ? [Receipts::TABLE, Marks::TABLE] : [] as $table) {
            foreach (["INSERT INTO $table SELECT * FROM $table WHERE FALSE", "DELETE FROM $table WHERE FALSE"] as $sql) {
                $this->try(fn () => $pdo->exec($sql), $missing);
            }
        }

        return array_values(array_unique($missing));
    }

    /**
     * @param  \Closure(): mixed  $do
     * @param  list<string>  $missing
     */
    private function try(\Closure $do, array &$missing): void
    {
        try {
            $do();
        } catch (PDOException $e) {
            if (TargetLink::isLost($e)) {
                throw TargetUnavailable::because($this->link->explain($e), $e);
            }
            // Anything else it says, such as that a field has no default, it says to one who has the right.
            if (Refusals::isAboutRights($e)) {
                $missing[] = TargetUnavailable::noRight((string) ($e->errorInfo[2] ?? ''), $e)->getMessage();
            }
        }
    }
}
