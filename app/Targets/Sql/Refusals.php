<?php

namespace App\Targets\Sql;

use App\Targets\TargetLink;
use Baggage\Core\Loading\Said;
use Baggage\Core\Targets\Entity;
use PDO;
use PDOException;

/** Understands what MariaDB says when it refuses a record of one entity. Numbers of errors: MariaDB's list of error codes. */
final class Refusals
{
    private const DEADLOCK = [1205, 1213];

    private const DUPLICATE = [1062, 1169, 1586];

    private const DENIED = [1044, 1142, 1143, 1370];

    private const NOT_SO = [1265, 1292, 1366, 1411, 1525];

    private readonly Checks $checks;

    public function __construct(private readonly PDO $pdo, private readonly Entity $entity)
    {
        $this->checks = new Checks($pdo, $entity);
    }

    /** Whether the target answered and said no to a record; a lost connection, a deadlock or a missing right is something else. */
    public static function is(PDOException $e): bool
    {
        return ! TargetLink::isLost($e) && ! self::isInTheWay($e) && ! self::isAboutRights($e);
    }

    public static function isInTheWay(PDOException $e): bool
    {
        return in_array(self::number($e), self::DEADLOCK, true);
    }

    public static function isAboutRights(PDOException $e): bool
    {
        return in_array(self::number($e), self::DENIED, true);
    }

    public static function isTaken(PDOException $e): bool
    {
        return in_array(self::number($e), self::DUPLICATE, true);
    }

    /**
     * Why it said no to one record, in words a client can read.
     *
     * @param  array<string, string|null>  $values  of the record
     * @param  string|null  $key  its target key, where it is there already
     */
    public function said(PDOException $e, array $values, ?string $key = null): Said
    {
        $own = self::own($e);
        $number = self::number($e);

        return match (true) {
            self::isTaken($e) => $this->taken($own, $values, $key),
            in_array($number, [1216, 1452], true) => $this->noParent($own),
            in_array($number, [1217, 1451], true) => new Said(
                Said::REFERRED_TO, [], ucfirst(self::found('/`([^`]+)`, CONSTRAINT/', $own, 'other')).' records still refer to it', $own,
            ),
            $number === 1406 => new Said(Said::TOO_LONG, $this->column($own), 'Longer than the target takes', $own),
            in_array($number, [1264, 1690], true) => new Said(
                Said::OUT_OF_RANGE, $this->column($own), 'Outside the range the target takes', $own,
            ),
            in_array($number, [1048, 1263, 1364], true) => new Said(Said::MISSING, $this->column($own), 'Required by the target', $own),
            $number === 4025 => $this->checks->said(self::found('/CONSTRAINT `(?:[^`]*\.)?([^`]+)` failed/', $own, ''), $own),
            in_array($number, self::NOT_SO, true) => new Said(
                Said::REFUSED, $this->column($own), 'The target does not take such a value there', $own,
            ),
            default => new Said(Said::REFUSED, $this->column($own), "The target refused it: $own"),
        };
    }

    /**
     * Who has a value of a record that must be unique.
     *
     * @param  list<string>  $fields  of a unique key
     * @param  array<string, string|null>  $values
     * @return string|null target key
     */
    private function holder(array $fields, array $values, ?string $but): ?string
    {
        $where = [];
        foreach ($fields as $field) {
            $value = $values[$field] ?? $this->entity->fields[$field]->default ?? null;
            if ($value === null) {
                return null;
            }
            $where[] = SqlTarget::name($field).' = '.$this->pdo->quote($value);
        }
        $key = SqlTarget::name($this->entity->key);
        $found = $this->pdo->query(
            "SELECT $key FROM ".SqlTarget::name($this->entity->name).' WHERE '.implode(' AND ', $where)
                .($but === null ? '' : " AND $key <> ".$this->pdo->quote($but)).' LIMIT 1',
        );
        $holder = $found === false ? false : $found->fetchColumn();

        return $holder === false ? null : (string) $holder;
    }

    /** @param  array<string, string|null>  $values */
    private function taken(string $own, array $values, ?string $key): Said
    {
        foreach ($this->entity->uniques as $fields) {
            $by = $this->holder($fields, $values, $key);
            if ($by !== null) {
                return new Said(Said::TAKEN, $fields, "Already taken by another {$this->entity->name} in the target", null, $by);
            }
        }

        return new Said(Said::TAKEN, [], 'A value that must be unique is already taken', $own);
    }

    private function noParent(string $own): Said
    {
        $field = self::found('/FOREIGN KEY \(`([^`]+)`\)/', $own, '');
        $parent = str_replace('_', ' ', self::found('/REFERENCES `([^`]+)`/', $own, 'record'));

        return new Said(Said::NO_PARENT, isset($this->entity->fields[$field]) ? [$field] : [], "The target has no such $parent", $own);
    }

    /** @return list<string> the field the target names */
    private function column(string $own): array
    {
        $named = [
            self::found("/column [`'](?:[^`']*`\\.`)*([^`']+)[`']/i", $own, ''),
            self::found("/Field '([^']+)'/", $own, ''),
        ];

        return array_values(array_filter($named, fn (string $name) => isset($this->entity->fields[$name])));
    }

    private static function found(string $pattern, string $text, string $else): string
    {
        return preg_match($pattern, $text, $m) === 1 ? $m[1] : $else;
    }

    private static function number(PDOException $e): int
    {
        return (int) ($e->errorInfo[1] ?? 0);
    }

    /** Its own text, without which of our rows it was of those in one statement. */
    private static function own(PDOException $e): string
    {
        $text = (string) ($e->errorInfo[2] ?? $e->getMessage());

        return mb_substr((string) preg_replace('/ at row \d+$/', '', $text), 0, 300);
    }
}
