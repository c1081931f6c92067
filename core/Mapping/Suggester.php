<?php

namespace Baggage\Core\Mapping;

use Baggage\Core\Reading\Column;
use Baggage\Core\Reading\Columns;
use Baggage\Core\Targets\Entity;

/**
 * Suggests rules for fields that have none: from what leads to other extracts, lists of values, the kinds, lengths, ranges and
 * patterns of the values, keys, and the words of the names. Each says why, with figures; no two are of one column.
 */
final readonly class Suggester
{
    private const LEAST = 0.4;

    /** From so much on, and so far before the next, it is sure. */
    private const SURE = 0.6;

    private const AHEAD = 0.1;

    /** Of one that is suggested for want of any other. */
    private const ONLY = 0.41;

    /**
     * @param  list<array<string, mixed>>  $facts  by column, as ColumnFacts::toArray()
     * @param  list<int>  $used  columns some rule reads already: they are suggested last
     */
    private function __construct(
        private Entity $entity,
        private Columns $columns,
        private array $facts,
        private array $used,
        private Known $known,
    ) {
    }

    /**
     * @param  list<string>  $without  fields that have no rule
     * @param  list<array<string, mixed>>  $facts  by column, as ColumnFacts::toArray()
     * @param  list<int>  $used  columns some rule reads already: they are suggested last
     * @return array<string, Suggestion> by field, the best first
     */
    public static function for(Entity $entity, array $without, Columns $columns, array $facts, array $used, Known $known): array
    {
        $suggester = new self($entity, $columns, $facts, $used, $known);
        $pairs = [];
        foreach ($without as $name) {
            if (! isset($entity->fields[$name])) {
                continue;
            }
            $wish = Wish::of($entity, $entity->fields[$name]);
            foreach ($columns->all as $column) {
                $pair = $suggester->pair($wish, $column);
                if ($pair !== null && $pair->weight >= self::LEAST) {
                    $pairs[] = $pair;
                }
            }
        }
        $best = self::best($pairs);

        return $best + $suggester->onlyPairs(array_values(array_diff($without, array_keys($best))), $best);
    }

    /** What speaks for a column filling a field, all together. */
    private function pair(Wish $wish, Column $column): ?Suggestion
    {
        $field = $wish->field;
        $facts = $this->facts[$column->position] ?? null;
        if ($facts === null || $facts['type']['type'] === 'empty') {
            return null;
        }
        [$names, $same] = $this->names($wish, $column);
        $fit = Fit::of($field, $column, $facts);
        $given = $this->given($wish, $column);
        if (($fit ?? $given) === null || ($field->refers !== null && $given === null && $names < 0.5)) {
            return null;
        }
        $values = new ValueEvidence($wish, $column->header, $facts, $this->known->isLegacyKey($column));
        $speaks = $given === null ? $values->for() : [$given, ...$values->for()];
        if ($names === 0.0 && $speaks === []) {
            return null;
        }
        $rest = 1 - (0.7 * $names + 0.15 * ($fit->weight ?? 0.5));
        foreach ($speaks as $evidence) {
            $rest *= 1 - $evidence->weight;
        }
        $weight = 1 - $rest - $values->against() - (in_array($column->position, $this->used, true) ? 0.15 : 0);
        $why = array_map(fn (Evidence $e) => $e->why, $speaks);
        if ($given === null && $fit !== null) {
            $why[] = $fit->why;
        }
        array_unshift($why, ...($same === [] ? [] : ['same word "'.implode('", "', $same).'"']));

        return new Suggestion($field->name, $column->header, $given->rule ?? $fit->rule ?? '', implode('; ', $why), $weight);
    }

    /** What is known of the column for such a field. */
    private function given(Wish $wish, Column $column): ?Evidence
    {
        return match (true) {
            $wish->field->refers !== null => $this->known->reference($wish->field, $column),
            $wish->allowed !== null => $this->known->list($wish->field, $wish->allowed, $column),
            default => null,
        };
    }

    /** @return array{float, list<string>} how much of the names agrees, and the words that do */
    private function names(Wish $wish, Column $column): array
    {
        $squeezed = fn (string $name) => (string) preg_replace('/[^a-z0-9]/', '', strtolower($name));
        if ($squeezed($wish->field->name) === $squeezed($column->header)) {
            return [1.0, [$column->header]];
        }
        $a = $wish->words;
        $b = Words::in($column->header);
        $sum = 0.0;
        $same = $left = [];
        foreach ($a as $word) {
            $most = 0.0;
            foreach ($b as $at => $other) {
                $alike = Words::alike($word, $other);
                if ($alike > $most && ! isset($left[$at])) {
                    [$most, $found] = [$alike, $at];
                }
            }
            if ($most > 0 && isset($found)) {
                $left[$found] = true;
                $same[] = $word;
                $sum += $most;
            }
        }
        if ($sum === 0.0) {
            return [0.0, []];
        }
        // A column named after its own table says no more than without: craft_name is name.
        $own = Words::in($this->entity->name);
        $rest = array_filter(array_diff_key($b, $left), fn (string $w) => ! in_array($w, $own, true));
        $missing = array_filter(array_diff($a, $same), fn (string $w) => ! in_array($w, $own, true));

        return [$sum / (count($same) + 0.5 * count($missing) + 0.25 * count($rest)), $same];
    }

    /**
     * @param  list<Suggestion>  $pairs
     * @return array<string, Suggestion> one column for one field, the best pair first
     */
    private static function best(array $pairs): array
    {
        usort($pairs, fn (Suggestion $a, Suggestion $b) => $b->weight <=> $a->weight);
        $chosen = $taken = [];
        foreach ($pairs as $pair) {
            if (! isset($chosen[$pair->field]) && ! isset($taken[$pair->column])) {
                $chosen[$pair->field] = $pair;
                $taken[$pair->column] = $pair->field;
            }
        }

        return array_map(fn (Suggestion $s) => $s->with(self::isSure($s, $pairs, $chosen, $taken)), $chosen);
    }

    /**
     * Whether no other column comes near for its field, and no other field for its column.
     *
     * @param  list<Suggestion>  $pairs
     * @param  array<string, Suggestion>  $chosen  by field
     * @param  array<string, string>  $taken  column → field
     */
    private static function isSure(Suggestion $one, array $pairs, array $chosen, array $taken): bool
    {
        foreach ($pairs as $other) {
            $isRival = ($other->field === $one->field) !== ($other->column === $one->column);
            // What is surely another's is none.
            $isTaken = $other->field === $one->field
                ? ($chosen[$taken[$other->column] ?? ''] ?? null)?->weight > $other->weight + self::AHEAD
                : ($chosen[$other->field] ?? null)?->weight > $other->weight + self::AHEAD;
            if ($isRival && ! $isTaken && $other->weight > $one->weight - self::AHEAD) {
                return false;
            }
        }

        return $one->weight >= self::SURE;
    }

    /**
     * Where nothing else says anything: the one field left of a kind and the one column left whose values are of it.
     *
     * @param  list<string>  $without
     * @param  array<string, Suggestion>  $best
     * @return array<string, Suggestion> by field
     */
    private function onlyPairs(array $without, array $best): array
    {
        $taken = array_map(fn (Suggestion $s) => $s->column, $best);
        $free = array_filter(
            $this->columns->all,
            fn (Column $c) => ! in_array($c->position, $this->used, true) && ! in_array($c->header, $taken, true),
        );
        $kind = fn (string $n) => (string) ($this->entity->fields[$n] ?? null)?->type->toArray()['kind'];
        $found = [];
        foreach (['date' => 'date', 'datetime' => 'date', 'boolean' => 'yes_no', 'decimal' => 'decimal'] as $of => $type) {
            $fields = array_values(array_filter($without, fn ($n) => $kind($n) === $of && $this->entity->fields[$n]->refers === null));
            $columns = array_values(array_filter($free, fn (Column $c) => ($this->facts[$c->position]['type']['type'] ?? null) === $type));
            if (count($fields) !== 1 || count($columns) !== 1) {
                continue;
            }
            $fit = Fit::of($this->entity->fields[$fields[0]], $columns[0], $this->facts[$columns[0]->position]);
            if ($fit !== null) {
                $why = "the only pair of its kind; $fit->why";
                $found[$fields[0]] = new Suggestion($fields[0], $columns[0]->header, $fit->rule, $why, self::ONLY, false);
            }
        }

        return $found;
    }
}
