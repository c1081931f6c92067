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

    /**
     * @param  list<string>  $fields
     * @return array<string, array<string, string|null>> target key → the fields, in the order of keys, those above $key
     *
     * @throws TargetUnavailable
     */
    public function after(Entity $entity, array $fields, ?string $key, int $most): array
    {
        $name = SqlTarget::name($entity->key);
        $page = [];
        $found = $this->asked(
            "SELECT $name AS baggage_key, ".implode(', ', array_map(SqlTarget::name(...), $fields))
                .' FROM '.SqlTarget::name($entity->name)
                .($key === null ? '' : " WHERE $name > ".$this->link->pdo()->quote($key))
                ." ORDER BY $name LIMIT $most",
        );
        foreach ($found ?? [] as $record) {
            $page[(string) $record['baggage_key']] = array_diff_key($record, ['baggage_key' => 1]);
        }

        return $page;
    }

    /** @return list<array<string, string|null>>|null */
    private function asked(string $sql): ?array
    {
        try {
            $found = $this->link->pdo()->query($sql);
        } catch (PDOException $e) {
            return (int) ($e->errorInfo[1] ?? 0) === self::NO_TABLE
                ? null
                : throw TargetUnavailable::because($this->link->explain($e), $e);
        }

        return $found === false ? [] : $found->fetchAll(PDO::FETCH_ASSOC);
    }
}
