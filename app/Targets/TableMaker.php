<?php

namespace App\Targets;

use App\Looking\LookGoing;
use App\Models\Extract;
use App\Models\Migration;
use App\Models\Target;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Field;
use Baggage\Core\Targets\TableText;
use Illuminate\Support\Facades\DB;
use PDOException;

/** Makes tables that the target does not have yet, from what is described of it or from the shape of an extract. */
final class TableMaker
{
    /**
     * @return list<string> described entities the target database has no table for
     *
     * @throws TargetUnavailable|LookGoing
     */
    public static function missing(Migration $migration, Target $target): array
    {
        ['tables' => $tables] = Ports::ask($target, Question::Standing, ['marks' => false]);

        return array_values(array_diff(array_keys($migration->schema()->entities), $tables));
    }

    /**
     * @param  list<string>  $names
     * @return list<string>
     */
    public static function statements(Migration $migration, array $names, string $prefix): array
    {
        $schema = $migration->schema();

        return TableText::statements(
            array_values(array_filter($schema->entities, fn (Entity $e) => in_array($e->name, $names, true))),
            $schema,
            $prefix,
        );
    }

    /**
     * Has a worker run the statements. Entities whose tables have a prefix are called by it from then on.
     *
     * @param  list<string>  $names
     *
     * @throws TargetUnavailable|LookGoing
     */
    public static function make(Migration $migration, Target $target, array $names, string $prefix): int
    {
        $made = Ports::ask($target, Question::Make, ['statements' => self::statements($migration, $names, $prefix)]);
        if ($prefix !== '') {
            DB::transaction(fn () => self::rename($migration, $names, $prefix));
        }

        return $made;
    }

    /**
     * Runs the statements; what was made before one failed is taken away again.
     *
     * @param  list<string>  $statements
     * @return int tables that were made
     *
     * @throws \DomainException|TargetUnavailable
     */
    public static function run(TargetLink $target, array $statements): int
    {
        $pdo = $target->pdo();
        $made = [];
        try {
            foreach ($statements as $statement) {
                $pdo->exec($statement);
                if (preg_match('/^CREATE TABLE (`(?:[^`]|``)+`)/', $statement, $m) === 1) {
                    $made[] = $m[1];
                }
            }
        } catch (PDOException $e) {
            // Statements that make tables cannot be rolled back in MariaDB.
            $pdo->exec('SET FOREIGN_KEY_CHECKS = 0');
            array_map(fn ($table) => $pdo->exec("DROP TABLE $table"), $made);
            $pdo->exec('SET FOREIGN_KEY_CHECKS = 1');
            throw new \DomainException('Nothing was made: '.$e->getMessage());
        }

        return count($made);
    }

    /** @param  list<string>  $names */
    private static function rename(Migration $migration, array $names, string $prefix): void
    {
        foreach ($migration->entities()->get() as $entity) {
            $definition = $entity->definition;
            foreach ($definition['fields'] as $i => $field) {
                if (in_array($field['refers'] ?? null, $names, true)) {
                    $definition['fields'][$i]['refers'] = $prefix.$field['refers'];
                }
            }
            $renamed = in_array($entity->name, $names, true);
            $definition['name'] = $renamed ? $prefix.$entity->name : $entity->name;
            $entity->update(['name' => $definition['name'], 'definition' => $definition]);
        }
    }

    /** An entity with a field for every column of an extract, typed and measured by its profile. */
    public static function ofExtract(Extract $extract, string $name): Entity
    {
        $fields = [Field::fromArray(['name' => 'id', 'kind' => 'integer', 'assigned' => true])];
        foreach ($extract->tidyColumns()->all as $column) {
            $facts = $extract->take?->profile[$column->position] ?? [];
            $type = $facts['type']['type'] ?? 'text';
            $longest = (int) ($facts['longest'] ?? 0);
            $fields[] = Field::fromArray(
                [
                    'name' => $column->name === 'id' ? 'legacy_id' : $column->name,
                    'note' => $column->header === $column->name ? null : "column $column->header",
                ]
                    + match ($type) {
                        'whole' => $longest > 9
                            ? ['kind' => 'integer', 'min' => '-9223372036854775808', 'max' => '9223372036854775807']
                            : ['kind' => 'integer'],
                        'decimal' => ['kind' => 'decimal', 'precision' => 18, 'scale' => 4],
                        'date' => ['kind' => 'date'],
                        'yes_no' => ['kind' => 'boolean'],
                        // Room for what comes later: half as much again, in steps people choose.
                        default => [
                            'kind' => 'text',
                            'length' => $longest > 170 ? 4000 : ($longest > 60 ? 255 : ($longest > 20 ? 100 : 40)),
                        ],
                    },
            );
        }

        return new Entity($name, 'id', $fields);
    }
}
