<?php

namespace App\Targets;

use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Targets\Entity;
use PDO;
use PDOException;

/** Looks at the records a target holds. */
final class TargetRecords
{
    private const NO_TABLE = 1146;

    public function __construct(private readonly TargetLink $link)
    {
    }

    /**
     * @return int|null null where the target has no such table
     *
     * @throws TargetUnavailable
     */
    public function count(string $entity): ?int
    {
        $counted = $this->asked('SELECT COUNT(*) AS n FROM '.SqlTarget::name($entity));

        return $counted === null ? null : (int) $counted[0]['n'];
    }

    /**
     * @return list<array<string, string|null>> with the smallest keys; empty also where there is no such table
     *
     * @throws TargetUnavailable
     */
    public function first(Entity $entity, int $most): array
    {
        return $this->asked(
            'SELECT * FROM '.SqlTarget::name($entity->name).' ORDER BY '.SqlTarget::name($entity->key)
                ." LIMIT $most",
        ) ?? [];
    }

    /** @return list<array<string, string|null>>|null */
    private function asked(string $sql): ?array
    {
        try {
            $found = $this->link->pdo()->query($sql);
        } catch (PDOException $e) {
            return (int) ($e->errorInfo[1] ?? 0) === self::NO_TABLE
                ? null
                : throw new TargetUnavailable($this->link->explain($e), 0, $e);
        }

        return $found === false ? [] : $found->fetchAll(PDO::FETCH_ASSOC);
    }
}
