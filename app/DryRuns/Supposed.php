<?php

namespace App\DryRuns;

use App\Decisions\AnswerChanges;
use App\Ledger\CauseSet;
use Baggage\Core\Loading\PlanVersion;

/** A repair that is not made yet, as a dry run supposes it. */
final readonly class Supposed
{
    /**
     * @param  int  $load  whose rows are to be repaired
     * @param  CauseSet|null  $causes  they were left out for
     * @param  list<int>  $rows  or their numbers
     * @param  string|null  $header  of the column that gets a value
     * @param  list<string|null>|null  $cells  or the whole row as it is to be
     * @param  array{crosswalk: string, olds: list<string>, new: string|null, rejects: bool}|null  $code
     * @param  array{field: string, expression: string}|null  $rule
     * @param  bool  $stays  whether the rows are left behind
     * @param  string|null  $record  target key of the record the rows are
     * @param  int|null  $answer  whose changes are taken in
     * @param  list<int>|null  $changes  only these of them
     */
    public function __construct(
        public int $load,
        public ?CauseSet $causes = null,
        public array $rows = [],
        public ?string $header = null,
        public ?string $new = null,
        public ?array $cells = null,
        public ?array $code = null,
        public ?array $rule = null,
        public bool $stays = false,
        public ?string $record = null,
        public ?int $answer = null,
        public ?array $changes = null,
    ) {
    }

    /** @param  array<string, mixed>  $a  as made by toArray() */
    public static function fromArray(array $a): self
    {
        return new self(...['causes' => isset($a['causes']) ? CauseSet::fromArray($a['causes']) : null] + $a);
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        $of = ['causes' => $this->causes?->toArray()] + get_object_vars($this);

        return array_filter($of, fn ($v) => $v !== null && $v !== [] && $v !== false);
    }

    /** Whether rows are to say something else than they do. */
    public function corrects(): bool
    {
        return $this->header !== null || $this->cells !== null || $this->answer !== null;
    }

    /** What the client answered, where that is it. */
    public function answered(): ?AnswerChanges
    {
        return $this->answer === null ? null : new AnswerChanges($this->answer, $this->load, $this->changes);
    }

    /** Whether it changes what loads are made by, and so concerns rows of other causes too. */
    public function changesPlan(): bool
    {
        return $this->code !== null || $this->rule !== null;
    }

    public function plan(PlanVersion $plan): PlanVersion
    {
        foreach ($this->code['olds'] ?? [] as $old) {
            $plan = $plan->withCode($this->code['crosswalk'], $old, $this->code['new'], $this->code['rejects']);
        }

        return $this->rule === null ? $plan : $plan->withRule($this->load, $this->rule['field'], $this->rule['expression']);
    }
}
