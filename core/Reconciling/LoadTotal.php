<?php

namespace Baggage\Core\Reconciling;

use Baggage\Core\Crosswalks\ParentKey;
use Baggage\Core\Targets\Entity;

/** One control total on the rows of one load. */
final readonly class LoadTotal
{
    /**
     * @param  int  $load  number of the load
     * @param  Entity  $entity  what the load fills
     * @param  Reading  $legacy  what a row counts with
     * @param  Reading|null  $group  the group it belongs to
     */
    public function __construct(
        private TotalCount $count,
        private int $load,
        private Entity $entity,
        private Reading $legacy,
        private ?Reading $group,
        private GroupKeys $keys,
    ) {
    }

    /** @return list<string> fields of records it needs */
    public function fields(): array
    {
        return array_values(array_filter([$this->count->total->field, $this->count->total->groupField]));
    }

    /** @param  list<CountedRow>  $rows */
    public function page(array $rows): void
    {
        $this->look($rows);
        foreach ($rows as $row) {
            $this->row($row);
        }
    }

    private function row(CountedRow $row): void
    {
        $value = $name = null;
        if ($row->part !== null && $row->now !== null) {
            [$value, $name] = [$this->value($row->now), $this->name($row->now)];
            $this->count->add($row->part->value, $name, $value);
            [$raw, $from] = $row->raw === $row->now || $row->raw === null ? [$value, $name] : [$this->value($row->raw), $this->name($row->raw)];
            $this->count->add(Figures::RAW, $from, $raw);
            $row->raw === $row->now ?: $this->count->corrected($from, $raw, $name, $value);
        }
        $slot = $row->madeAs();
        if ($slot === null || $row->made === null || $row->part === Part::Merged || $row->part === Part::Removed) {
            return;
        }
        if ($row->part !== Part::AsIs || $name === null) {
            [$value, $name] = [$this->value($row->made), $this->name($row->made)];
            $this->count->add($slot, $name, $value);
        }
        $this->record($row, $value, $name);
    }

    private function record(CountedRow $row, ?string $value, string $name): void
    {
        $total = $this->count->total;
        [$target, $group] = [null, $name];
        if ($row->record !== null) {
            $target = $this->count->amount->of($row->record[$total->field] ?? null);
            $group = $total->groupField === null ? '' : self::cut($total->groupBy->of($row->record[$total->groupField] ?? null));
            $this->count->add(Figures::TARGET, $group, $target);
        }
        $this->count->seen('legacy', $name, $value);
        $this->count->seen('target', $group, $target);
        $this->count->compare($this->load, $row->row, $name, $value, $group, $target);
    }

    /** @param  list<string|null>  $cells */
    private function value(array $cells): ?string
    {
        $value = $this->legacy->of($cells);
        $refers = $this->entity->fields[$this->count->total->field]->refers ?? null;

        return $this->count->amount->of($value instanceof ParentKey && $refers !== null ? $this->keys->target($refers, $value) : $value);
    }

    /** @param  list<string|null>  $cells */
    private function name(array $cells): string
    {
        $value = $this->group?->of($cells);
        $refers = $this->entity->fields[(string) $this->count->total->groupField]->refers ?? null;

        return self::cut(match (true) {
            $value instanceof ParentKey => $refers === null ? (string) $value : $this->keys->name($refers, $value),
            is_scalar($value) => trim(is_bool($value) ? ($value ? '1' : '0') : (string) $value),
            default => '',
        });
    }

    /** Groups are told apart by so much of their name. */
    public static function cut(string $name): string
    {
        return strlen($name) <= ControlTotal::GROUP ? $name : mb_substr($name, 0, ControlTotal::GROUP - 20).' '.hash('xxh3', $name);
    }

    /**
     * Parents of all rows are asked for together.
     *
     * @param  list<CountedRow>  $rows
     */
    private function look(array $rows): void
    {
        $parents = [];
        foreach ([[$this->legacy, $this->count->total->field], [$this->group, $this->count->total->groupField]] as [$reading, $field]) {
            $refers = $this->entity->fields[(string) $field]->refers ?? null;
            if ($reading !== null && $refers !== null) {
                foreach ($rows as $row) {
                    foreach (self::cells($row) as $cells) {
                        $key = $reading->of($cells);
                        $key instanceof ParentKey ? $parents[] = [$refers, $key] : null;
                    }
                }
            }
        }
        $parents === [] ?: $this->keys->look($parents);
    }

    /** @return list<list<string|null>> all that a row says, each way once */
    private static function cells(CountedRow $row): array
    {
        return array_values(array_filter(
            [$row->now, $row->raw === $row->now ? null : $row->raw, $row->made === $row->now ? null : $row->made],
            fn (?array $cells) => $cells !== null,
        ));
    }
}
