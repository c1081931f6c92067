<?php

namespace App\Targets\Sql;

use App\Targets\TargetLink;
use Baggage\Core\Loading\Said;
use Baggage\Core\Targets\Entity;
use PDOException;

/** Understands what MariaDB says when it refuses a record. */
final class Refusals
{
    public const DUPLICATE = 1062;

    public const DEADLOCK = [1205, 1213];

    /** Whether the target answered and said no; a lost connection or a deadlock is something else. */
    public static function is(PDOException $e): bool
    {
        return ! TargetLink::isLost($e) && ! in_array((int) ($e->errorInfo[1] ?? 0), self::DEADLOCK, true);
    }

    /** Why it said no to one record, in words a client can read. */
    public static function said(Entity $entity, PDOException $e): Said
    {
        $text = (string) ($e->errorInfo[2] ?? $e->getMessage());
        $field = match (true) {
            preg_match('/FOREIGN KEY \(`([^`]+)`\)/', $text, $m) === 1,
            preg_match("/column [`'](?:[^`']*`\.`)*([^`']+)[`']/i", $text, $m) === 1 => $m[1],
            preg_match('/CONSTRAINT `(?:[^`]*\.)?([^`]+)` failed/', $text, $m) === 1 => self::fieldIn($entity, $m[1]),
            default => null,
        };
        $message = match ((int) ($e->errorInfo[1] ?? 0)) {
            1452 => 'Target refused: it has no record with this key to refer to',
            4025 => 'Target refused: its own check "'.($m[1] ?? '').'" does not hold',
            self::DUPLICATE => 'Target refused: a value that must be unique is already taken',
            default => 'Target refused: '.$text,
        };

        return new Said(Said::REFUSED, $field === null ? [] : [$field], mb_substr($message, 0, 400));
    }

    private static function fieldIn(Entity $entity, string $constraint): ?string
    {
        foreach (array_keys($entity->fields) as $name) {
            if (str_contains($constraint, $name)) {
                return $name;
            }
        }

        return null;
    }
}
