<?php

namespace Baggage\Core\Reconciling;

use Baggage\Core\Crosswalks\ParentKey;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Field;

/** One control total on the rows of one load. */
final class LoadTotal
{
    /** Names of groups that are remembered. */
    private const NAMES = 4_000;

    /** What the field refers to. */
    private readonly ?string $refers;

    /** What the field that makes groups refers to. */
    private readonly ?string $groupRefers;

    private readonly ?Field $groupField;

    /** @var array<array-key, string> what groups were called → their names */
    private array $names = [];

    /**
     * @param  int  $load  number of the load
     * @param  Entity  $entity  what the load fills
     * @param  Reading  $legacy  what a row counts with
     * @param  Reading|null  $group  the group it belongs to
     * @param  \Closure(int, CountedRow, string, string|null): void|null  $told  of the load, each row, its group and what it counts with
     */
    public function __construct(
        private readonly TotalCount $count,
        private readonly int $load,
        Entity $entity,
        private readonly Reading $legacy,
        private readonly ?Reading $group,
        private readonly GroupKeys $keys,
        private readonly ?\Closure $told = null,
    ) {
        $this->refers = $entity->fields[$count->total->field]->refers ?? null;
        $this->groupField = $entity->fields[(string) $count->total->groupField] ?? null;
        $this->groupRefers = $entity->fields[(string) $count->total->groupField]->refers ?? null;
    }

    /** @return list<string> fields of records it needs */
    public function fields(): array
    {
        return array_values(array_filter([$this->count->total->field, $this->count->total->groupField]));
    }

    /** @param  list<CountedRow>  $rows */
    public function page(array $rows): void
    {
        $found = $parents = [];
        foreach ($rows as $i => $row) {
            $found[$i] = $row->now === null ? null : $this->read($row->now, $parents, $row->row);
            foreach ([$row->raw, $row->made] as $cells) {
                $cells === null || $cells === $row->now ?: $this->read($cells, $parents);
            }
        }
        $parents === [] ?: $this->keys->look($parents);
        foreach ($rows as $i => $row) {
            $this->row($row, $found[$i]);
        }
    }

    /** @param  array{mixed, mixed}|null  $now  value and group as the expressions give them */
    private function row(CountedRow $row, ?array $now): void
    {
        $value = $name = null;
        if ($row->part !== null && $now !== null) {
            [$value, $name] = $this->understood($now);
            $this->told === null ?: ($this->told)($this->load, $row, $name, $value);
            if ($row->part === Part::AsIs && $row->raw === $row->now && $row->record !== null) {
                $this->standing($row, $row->record, $value, $name);

                return;
            }
            if ($row->raw === $row->now || $row->raw === null) {
                $this->count->asRead($row->part->value, $name, $value);
            } else {
                $this->count->add($row->part->value, $name, $value);
                [$raw, $from] = $this->understood($this->read($row->raw));
                $this->count->add(Figures::RAW, $from, $raw);
                $this->count->corrected($from, $raw, $name, $value);
            }
        }
        $slot = $row->madeAs();
        if ($slot === null || $row->made === null || $row->part === Part::Merged || $row->part === Part::Removed) {
            return;
        }
        if ($row->part !== Part::AsIs || $name === null) {
            [$value, $name] = $this->understood($this->read($row->made));
            $this->count->add($slot, $name, $value);
        }
        $this->record($row, $value, $name);
    }

    /**
     * A row that stands as it is and was read so, which is what most are.
     *
     * @param  array<string, string|null>  $record
     */
    private function standing(CountedRow $row, array $record, ?string $value, string $name): void
    {
        $total = $this->count->total;
        $is = $record[$total->field] ?? null;
        $target = $is === $value && $total->kind === TotalKind::Sum ? $value : $this->count->amount->ofRecord($is);
        $group = $total->groupField === null ? '' : $this->group((string) ($record[$total->groupField] ?? ''));
        if ($group === $name && ($value === $target || $this->count->amount->isSame($value, $target))) {
            $this->count->even($name, $value);

            return;
        }
        $this->count->asRead(Part::AsIs->value, $name, $value);
        $this->record($row, $value, $name);
    }

    private function record(CountedRow $row, ?string $value, string $name): void
    {
        $total = $this->count->total;
        [$target, $group] = [null, $name];
        if ($row->record !== null) {
            $target = $this->count->amount->ofRecord($row->record[$total->field] ?? null);
            $group = $total->groupField === null ? '' : $this->group((string) ($row->record[$total->groupField] ?? ''));
            $this->count->add(Figures::TARGET, $group, $target);
        }
        $this->count->seen('legacy', $name, $value);
        $this->count->seen('target', $group, $target);
        $this->count->compare($this->load, $row->row, $name, $value, $group, $target);
    }

    /**
     * @param  list<string|null>  $cells
     * @param  list<array{string, ParentKey}>  $parents  those it refers to are put here
     * @param  int|null  $row  where they are the cells of a row as they count now
     * @return array{mixed, mixed} value and group as the expressions give them
     */
    private function read(array $cells, array &$parents = [], ?int $row = null): array
    {
        $value = $row === null ? $this->legacy->of($cells) : $this->legacy->ofRow($row, $cells);
        $group = $row === null ? $this->group?->of($cells) : $this->group?->ofRow($row, $cells);
        if ($value instanceof ParentKey && $this->refers !== null) {
            $parents[] = [$this->refers, $value];
        }
        if ($group instanceof ParentKey && $this->groupRefers !== null) {
            $parents[] = [$this->groupRefers, $group];
        }

        return [$value, $group];
    }

    /**
     * @param  array{mixed, mixed}  $read
     * @return array{string|null, string} what it counts with, and the name of its group
     */
    private function understood(array $read): array
    {
        [$value, $group] = $read;

        return [
            $this->count->amount->of(
                $value instanceof ParentKey && $this->refers !== null ? $this->keys->target($this->refers, $value) : $value,
            ),
            match (true) {
                is_string($group) => $this->group($group),
                $group instanceof ParentKey => $this->groupRefers === null
                    ? (string) $group
                    : self::cut($this->keys->name($this->groupRefers, $group)),
                is_scalar($group) => $this->group(is_bool($group) ? ($group ? '1' : '0') : (string) $group),
                default => '',
            },
        ];
    }

    /** The name of a group in one form whichever side it comes from. */
    private function group(string $value): string
    {
        return $this->names[$value] ??= $this->named($value);
    }

    private function named(string $value): string
    {
        $total = $this->count->total;
        if (count($this->names) > self::NAMES) {
            $this->names = [];
        }
        $value = trim($value);
        $isWhole = $value !== '' && $total->groupBy === GroupBy::Value;
        $accepted = $isWhole ? $this->groupField?->type->accept($value) : null;

        return self::cut($total->groupBy->of(is_string($accepted) ? $accepted : $value));
    }

    /** Groups are told apart by so much of their name. */
    public static function cut(string $name): string
    {
        return strlen($name) <= ControlTotal::GROUP ? $name : mb_substr($name, 0, ControlTotal::GROUP - 20).' '.hash('xxh3', $name);
    }
}
