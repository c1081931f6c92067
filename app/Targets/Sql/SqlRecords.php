<?php

namespace App\Targets\Sql;

use App\Targets\TargetLink;
use Baggage\Core\Loading\TargetRecords;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Targets\Entity;
use PDO;
use PDOException;

/** The records of a MariaDB target. */
final class SqlRecords implements TargetRecords
{
    private const NO_TABLE = 1146;

    public function __construct(private readonly TargetLink $link)
    {
    }

    public function count(string $entity): ?int
    {
        $counted = $this->asked('SELECT COUNT(*) AS n FROM '.SqlTarget::name($entity));

        return $counted === null ? null : (int) $counted[0]['n'];
    }

    public function newest(Entity $entity): ?string
    {
        $key = SqlTarget::name($entity->key);
        $found = $this->asked("SELECT MAX($key) AS newest FROM ".SqlTarget::name($entity->name));

        return $found[0]['newest'] ?? null;
    }

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

    public function referring(Entity $entity, string $field, array $keys, ?string $key, int $most): array
    {
        $name = SqlTarget::name($entity->key);
        $pdo = $this->link->pdo();
        $found = $this->asked(
            "SELECT $name AS baggage_key FROM ".SqlTarget::name($entity->name)
                .' WHERE '.SqlTarget::name($field).' IN ('.implode(',', array_map($pdo->quote(...), $keys)).')'
                .($key === null ? '' : " AND $name > ".$pdo->quote($key))
                ." ORDER BY $name LIMIT $most",
        );

        return array_map(strval(...), array_column($found ?? [], 'baggage_key'));
    }

    public function referrers(Entity $entity, string $field, string $key): int
    {
        $found = $this->asked('SELECT COUNT(*) AS n FROM '.SqlTarget::name($entity->name).' WHERE '.SqlTarget::name($field).' = '
            .$this->link->pdo()->quote($key));

        return (int) ($found[0]['n'] ?? 0);
    }

    public function byKeys(Entity $entity, array $keys, ?array $fields = null): array
    {
        if ($keys === []) {
            return [];
        }
        $key = SqlTarget::name($entity->key);
        $pdo = $this->link->pdo();
        $what = $fields === null ? '*' : implode(', ', array_map(SqlTarget::name(...), array_unique([$entity->key, ...$fields])));
        $found = $this->asked(
            "SELECT $what FROM ".SqlTarget::name($entity->name)." WHERE $key IN (".implode(',', array_map($pdo->quote(...), $keys)).')',
        );

        // Without its table none of them is gone: nothing can be said of them.
        return array_column($found ?? throw TargetUnavailable::because("The target has no table $entity->name."), null, $entity->key);
    }

    /** @return list<array<string, string|null>>|null */
    private function asked(string $sql): ?array
    {
        try {
            $found = $this->link->pdo()->query($sql);
        } catch (PDOException $e) {
            if (TargetLink::isLost($e)) {
                $this->link->drop();
            }

            return (int) ($e->errorInfo[1] ?? 0) === self::NO_TABLE
                ? null
                : throw TargetUnavailable::because($this->link->explain($e), $e);
        }

        return $found === false ? [] : $found->fetchAll(PDO::FETCH_ASSOC);
    }
}
