<?php

namespace App\Targets\Sql;

use Baggage\Core\Loading\Said;
use Baggage\Core\Targets\Entity;
use PDO;

/** The CHECKs of one entity's table. */
final class Checks
{
    /** @var array<string, string>|null name of a constraint → its clause */
    private ?array $clauses = null;

    public function __construct(private readonly PDO $pdo, private readonly Entity $entity)
    {
    }

    /** @return array<string, string> name → clause */
    public function clauses(): array
    {
        if ($this->clauses === null) {
            $found = $this->pdo->query(
                'SELECT constraint_name, check_clause FROM information_schema.check_constraints WHERE '
                    .'constraint_schema = DATABASE() AND table_name = '.$this->pdo->quote($this->entity->name),
            );
            $this->clauses = $found === false ? [] : $found->fetchAll(PDO::FETCH_KEY_PAIR);
        }

        return $this->clauses;
    }

    /** That one does not hold. */
    public function said(string $name, ?string $own): Said
    {
        $clause = $this->clauses()[$name] ?? null;
        $fields = [];
        foreach (array_keys($this->entity->fields) as $field) {
            if ($field === $name || ($clause !== null && str_contains($clause, "`$field`"))) {
                $fields[] = $field;
            }
        }
        $says = $clause === null ? '' : ': '.str_replace('`', '', $clause);

        return new Said(Said::CHECK, $fields, "The target's check \"$name\" does not hold$says", $own);
    }
}
