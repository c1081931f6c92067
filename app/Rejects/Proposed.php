<?php

namespace App\Rejects;

use App\DryRuns\Supposed;
use App\Ledger\CauseSet;
use App\Models\Load;
use App\Models\Round;
use App\Support\Amount;
use Baggage\Core\Rows\Outcome;
use Baggage\Core\Rows\Stage;

/** A repair as somebody proposes it: tried first, and kept as it was tried. */
final readonly class Proposed
{
    /**
     * @param  int  $load  whose rows are repaired
     * @param  CauseSet|null  $causes  they were left out for; null where one row is meant
     * @param  int|null  $row  its number
     * @param  int  $rows  how many are meant
     * @param  string|null  $header  column that gets the value
     * @param  string|null  $new  the value; null for a field left empty on purpose, where a code is given
     * @param  list<string|null>|null  $cells  the whole row as it is to be
     * @param  string|null  $crosswalk  name of the code crosswalk
     * @param  list<string>  $olds  old values that get the new one
     * @param  bool  $rejects  whether those reject their rows
     * @param  string|null  $field  whose rule is changed
     * @param  string|null  $expression  the rule as it is to be
     * @param  int  $version  of the rule somebody looked at
     * @param  string|null  $record  target key
     * @param  int|null  $seen  the last decision whoever proposes it could have seen
     * @param  string|null  $was  what a form showed, as forms send it
     * @param  int|null  $answer  whose changes are taken in
     * @param  list<int>|null  $changes  only these of them; null for all that are open and no conflict
     */
    public function __construct(
        public ProposedKind $kind,
        public int $load,
        public ?CauseSet $causes = null,
        public ?int $row = null,
        public int $rows = 1,
        public ?string $header = null,
        public ?string $new = null,
        public ?array $cells = null,
        public ?string $crosswalk = null,
        public array $olds = [],
        public bool $rejects = false,
        public ?string $field = null,
        public ?string $expression = null,
        public int $version = 0,
        public ?string $record = null,
        public string $reason = '',
        public ?int $seen = null,
        public ?string $was = null,
        public ?int $answer = null,
        public ?array $changes = null,
    ) {
    }

    /**
     * All rows of a load whose parent in a field is nowhere, or was left behind, get the one with a legacy key.
     *
     * @param  string  $code  orphan or parent_left
     */
    public static function withParent(Round $round, Load $load, string $field, string $code, string $key, string $space): self
    {
        $rule = $load->rules()->where('field', $field)->first();
        $causes = CauseSet::alike(Stage::Parents->value, $code, $field);
        $expression = 'parent_or('.($rule->expression ?? '')
            .", parent('".addcslashes($key, "'\\")."', '$space'))";

        return new self(
            ProposedKind::Parent,
            $load->id,
            $causes,
            rows: $causes->rows($round->laneId(), $load->id, Outcome::Rejected),
            field: $field,
            expression: $expression,
            version: (int) $rule?->version,
            reason: 'a record of its own for those without',
        );
    }

    /** @param  array<string, mixed>  $a  as made by toArray() */
    public static function fromArray(array $a): self
    {
        return new self(...[
            'kind' => ProposedKind::from($a['kind']),
            'causes' => isset($a['causes']) ? CauseSet::fromArray($a['causes']) : null,
        ] + $a);
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return ['kind' => $this->kind->value, 'causes' => $this->causes?->toArray()] + get_object_vars($this);
    }

    /** As a dry run supposes it. */
    public function supposed(): Supposed
    {
        $rows = $this->row === null ? [] : [$this->row];

        return match ($this->kind) {
            ProposedKind::Correct => new Supposed($this->load, $this->causes, $rows, header: $this->header, new: $this->new),
            ProposedKind::Row => new Supposed($this->load, rows: $rows, cells: $this->cells),
            ProposedKind::Code => new Supposed($this->load, $this->causes, $rows, code: [
                'crosswalk' => (string) $this->crosswalk, 'olds' => $this->olds, 'new' => $this->new, 'rejects' => $this->rejects,
            ]),
            ProposedKind::Rule, ProposedKind::Parent => new Supposed($this->load, $this->causes, $rows, rule: [
                'field' => (string) $this->field, 'expression' => (string) $this->expression,
            ]),
            ProposedKind::Match => new Supposed($this->load, rows: $rows, record: $this->record),
            ProposedKind::Stay => new Supposed($this->load, $this->causes, $rows, stays: true),
            ProposedKind::Answers => new Supposed($this->load, answer: $this->answer, changes: $this->changes),
        };
    }

    /** In a few words, for headings and lists. */
    public function title(string $load): string
    {
        $rows = $this->row === null ? Amount::of($this->rows, 'row')." of $load" : "row $this->row of $load";
        $olds = implode(', ', array_map(fn (string $old) => "\"$old\"", array_slice($this->olds, 0, 3)))
            .(count($this->olds) > 3 ? ' and '.(count($this->olds) - 3).' more' : '');

        $isOne = count($this->olds) === 1;

        return match ($this->kind) {
            ProposedKind::Correct => "$this->header becomes ".($this->new === '' ? 'blank' : "\"$this->new\"")." in $rows",
            ProposedKind::Row => "Row $this->row of $load put right",
            ProposedKind::Code => "$olds in $this->crosswalk ".match (true) {
                $this->rejects => $isOne ? 'rejects the row' : 'reject their rows',
                $this->new === null => $isOne ? 'stays empty' : 'stay empty',
                default => ($isOne ? 'becomes' : 'become')." \"$this->new\"",
            },
            ProposedKind::Rule => "Another rule for $this->field of $load",
            ProposedKind::Parent => "A parent for those without one: $this->field of $load",
            ProposedKind::Match => "Row $this->row of $load is record $this->record",
            ProposedKind::Stay => ucfirst($rows).' stay behind',
            ProposedKind::Answers => "Answers to $rows",
        };
    }
}
