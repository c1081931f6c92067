<?php

namespace Baggage\Core\Targets\Conditions;

use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Types\ChoiceType;

/** What the target wants of a record besides types and keys: a CHECK, in words and to be tried. */
final readonly class Condition
{
    /**
     * @param  Test|null  $test  null where the clause is not understood
     * @param  string|null  $why  what is not understood of it
     * @param  list<string>  $fields
     */
    private function __construct(public string $clause, private ?Test $test, public ?string $why, public array $fields)
    {
    }

    /** @return list<self> those of an entity; a list of one field's values is its type, not told twice */
    public static function of(Entity $entity): array
    {
        $all = [];
        foreach ($entity->checks as $clause) {
            try {
                $test = Clause::read($clause, $entity);
                foreach ($test instanceof All ? $test->tests : [$test] as $one) {
                    if (! $one instanceof Among || ! self::isType($one, $entity)) {
                        $all[] = new self($clause, $one, null, $one->fields());
                    }
                }
            } catch (NotRead $e) {
                $all[] = new self($clause, null, $e->getMessage(), self::named($clause, $entity));
            }
        }

        return $all;
    }

    /** @return list<string> clauses as they are shown, without those that are a field's type */
    public static function clauses(Entity $entity): array
    {
        return array_values(array_unique(array_map(fn (self $c) => str_replace('`', '', $c->clause), self::of($entity))));
    }

    /**
     * A clause of another database, in which a backslash is no escape and the word CHECK stands before the bracket.
     *
     * @return string as MariaDB would state it
     */
    public static function plain(string $clause): string
    {
        $clause = (string) preg_replace(['/^\s*CHECK\s*/i', '/\s+NOT VALID\s*$/i'], '', $clause);

        return (string) preg_replace_callback("/'(?:[^']|'')*+'/s", fn ($m) => str_replace('\\', '\\\\', $m[0]), $clause);
    }

    /** True or false; null where only the target can tell, and where the clause is not understood. */
    public function holds(Record $record): ?bool
    {
        return $this->test?->holds($record);
    }

    public function words(): string
    {
        return $this->test === null
            ? 'CHECK '.str_replace('`', '', $this->clause)." is not read ($this->why): only the target tries it"
            : $this->test->words();
    }

    /** As it is said beside the field: "more than 0" where it looks at nothing else. */
    public function wordsBeside(string $field): string
    {
        $words = $this->words();

        return $this->fields === [$field] && $this->isRead() && ! str_contains($words, ', ')
            ? (string) preg_replace('/^'.preg_quote($field, '/').' (?:is |has )?/', '', $words)
            : $words;
    }

    /** @return list<string>|null the values it lists for its one field */
    public function values(): ?array
    {
        return $this->test instanceof Among ? $this->test->constants() : null;
    }

    public function isRead(): bool
    {
        return $this->test !== null;
    }

    private static function isType(Among $test, Entity $entity): bool
    {
        $fields = $test->fields();

        return count($fields) === 1 && ($entity->fields[$fields[0]] ?? null)?->type instanceof ChoiceType;
    }

    /** @return list<string> fields whose names stand in a clause */
    private static function named(string $clause, Entity $entity): array
    {
        $clause = (string) preg_replace("/'(?:[^'\\\\]|''|\\\\.)*+'/s", '', $clause);
        $is = fn (string $name) => preg_match('/(?<![\w$])'.preg_quote($name, '/').'(?![\w$])/i', $clause) === 1;

        return array_values(array_filter(array_map(strval(...), array_keys($entity->fields)), $is));
    }
}
