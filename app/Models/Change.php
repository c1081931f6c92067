<?php

namespace App\Models;

/** One thing a document that came back says differently. */
final readonly class Change
{
    /**
     * @param  string  $where  what it is about, in words
     * @param  string  $part  which part of it
     * @param  array<string, mixed>  $data  what making it needs
     * @param  string|null  $problem  why it cannot be made
     */
    public function __construct(
        public ChangeKind $kind,
        public string $where,
        public string $part,
        public string $from,
        public string $to,
        public array $data = [],
        public ?string $problem = null,
        public ChangeState $state = ChangeState::Open,
    ) {
    }

    /** One that cannot be made is void from the beginning. */
    public function but(?string $problem): self
    {
        return $problem === null ? $this : $this->decided(ChangeState::Void, $problem);
    }

    public function decided(ChangeState $state, ?string $problem = null): self
    {
        return new self($this->kind, $this->where, $this->part, $this->from, $this->to, $this->data, $problem, $state);
    }

    public function isOpen(): bool
    {
        return $this->state === ChangeState::Open;
    }

    /** @param  array<string, mixed>  $a as made by toArray() */
    public static function fromArray(array $a): self
    {
        return new self(
            ChangeKind::from($a['kind']),
            $a['where'],
            $a['part'],
            $a['from'],
            $a['to'],
            $a['data'],
            $a['problem'],
            ChangeState::from($a['state']),
        );
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return ['kind' => $this->kind->value, 'state' => $this->state->value] + get_object_vars($this);
    }
}
