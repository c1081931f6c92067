<?php

namespace Baggage\Core\Reconciling;

/**
 * A figure worked out from legacy rows and, apart from that, from target records, which have to agree.
 *
 * An expression is one text for all loads it is about, or one for each load by its name.
 */
final readonly class ControlTotal
{
    /** Characters of a group's name that are told apart. */
    public const GROUP = 190;

    /** Characters of its own name. */
    public const NAME = 100;

    /**
     * @param  string  $entity  whose records it is about
     * @param  string|null  $load  the one load it is about; null for all of the entity it has an expression for
     * @param  string  $field  of the target record
     * @param  string|array<string, string>  $legacy  what a legacy row counts with
     * @param  string|null  $groupField  target field whose value makes groups
     * @param  string|array<string, string>  $groupLegacy  what a legacy row's group is
     * @param  string|null  $parentField  of the record $groupField refers to: what the children of each must add up to
     * @param  string|array<string, string>  $parentLegacy  the same of the parent's legacy row
     * @param  string  $tolerance  a difference up to this is accepted, of the whole and of each group
     * @param  string|null  $because  why it is
     */
    public function __construct(
        public string $name,
        public string $entity,
        public ?string $load,
        public TotalKind $kind,
        public string $field,
        public string|array $legacy,
        public ?string $groupField = null,
        public GroupBy $groupBy = GroupBy::Value,
        public string|array $groupLegacy = '',
        public ?string $parentField = null,
        public string|array $parentLegacy = '',
        public string $tolerance = '0',
        public ?string $because = null,
    ) {
    }

    /** What cannot be in what it says of itself, wherever it is said; null where nothing is wrong. */
    public function problem(): ?TotalProblem
    {
        return match (true) {
            trim($this->name) === '' || mb_strlen($this->name) > self::NAME => TotalProblem::Name,
            preg_match('/^[0-9]{1,30}(?:\.[0-9]{1,20})?$/D', $this->tolerance) !== 1 => TotalProblem::Tolerance,
            trim($this->tolerance, '0.') !== '' && trim((string) $this->because) === '' => TotalProblem::Reason,
            $this->parentField !== null && $this->groupField === null => TotalProblem::Parent,
            default => null,
        };
    }

    /** Whether it is about a load. */
    public function isOf(string $load, string $entity): bool
    {
        return $this->entity === $entity
            && ($this->load === null || $this->load === $load)
            && self::expression($this->legacy, $load) !== null;
    }

    public function legacyOf(string $load): ?string
    {
        return self::expression($this->legacy, $load);
    }

    public function groupOf(string $load): ?string
    {
        return $this->groupField === null ? null : self::expression($this->groupLegacy, $load);
    }

    public function parentOf(string $load): ?string
    {
        return $this->parentField === null ? null : self::expression($this->parentLegacy, $load);
    }

    /** @param  string|array<string, string>  $expressions */
    private static function expression(string|array $expressions, string $load): ?string
    {
        $expression = is_array($expressions) ? $expressions[$load] ?? '' : $expressions;

        return trim($expression) === '' ? null : $expression;
    }

    /** @param  array<string, mixed>  $p  an item of "proofs" as plan.schema.json describes it */
    public static function fromPlan(array $p): self
    {
        return new self(
            (string) $p['name'],
            (string) ($p['entity'] ?? ''),
            isset($p['load']) ? (string) $p['load'] : null,
            TotalKind::from($p['kind'] ?? TotalKind::Sum->value),
            (string) $p['field'],
            self::texts($p['legacy']),
            isset($p['by']) ? (string) $p['by']['field'] : null,
            GroupBy::from($p['by']['of'] ?? GroupBy::Value->value),
            self::texts($p['by']['legacy'] ?? ''),
            isset($p['against']) ? (string) $p['against']['field'] : null,
            self::texts($p['against']['legacy'] ?? ''),
            (string) ($p['tolerance'] ?? '0'),
            isset($p['because']) ? (string) $p['because'] : null,
        );
    }

    /** @return string|array<string, string> */
    private static function texts(mixed $expressions): string|array
    {
        return is_array($expressions) ? array_map(strval(...), $expressions) : (string) $expressions;
    }

    /** @return array<string, mixed> as fromPlan() takes it */
    public function toPlan(): array
    {
        return array_filter([
            'name' => $this->name,
            'entity' => $this->load === null ? $this->entity : null,
            'load' => $this->load,
            'kind' => $this->kind === TotalKind::Sum ? null : $this->kind->value,
            'field' => $this->field,
            'legacy' => $this->legacy,
            'by' => $this->groupField === null ? null : array_filter([
                'field' => $this->groupField,
                'of' => $this->groupBy === GroupBy::Value ? null : $this->groupBy->value,
                'legacy' => $this->groupLegacy,
            ]),
            'against' => $this->parentField === null ? null : ['field' => $this->parentField, 'legacy' => $this->parentLegacy],
            'tolerance' => $this->tolerance === '0' ? null : $this->tolerance,
            'because' => $this->because,
        ], fn ($v) => $v !== null);
    }
}
