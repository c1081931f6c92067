<?php

namespace Baggage\Core\Plan;

/** A plan as it was read, with where everything in it stands. */
final readonly class PlanFile
{
    /** @param  array<string, mixed>  $plan  as plan.schema.json describes it */
    public function __construct(public string $name, public array $plan, private Places $places)
    {
    }

    /** @return array{name: string, plan: array<string, mixed>, at: array<string, array{int, int}>} can be written as JSON */
    public function toArray(): array
    {
        return ['name' => $this->name, 'plan' => $this->plan, 'at' => $this->places->all()];
    }

    /** @param  array{name: string, plan: array<string, mixed>, at: array<string, array{int, int}>}  $read  as toArray() */
    public static function fromArray(array $read): self
    {
        return new self($read['name'], $read['plan'], Places::known($read['at']));
    }

    /**
     * Another plan of the same name, whose parts stand where those of this one do.
     *
     * @param  array<string, mixed>  $plan
     */
    public function with(array $plan): self
    {
        return new self($this->name, $plan, $this->places);
    }

    /** @param  list<string|int>  $path  of what is wrong */
    public function mistake(array $path, string $message): Mistake
    {
        [$line, $column] = $this->places->find($path) ?? [null, null];

        return new Mistake($this->name, $line, $column, implode('.', $path), $message);
    }

    /** @param  list<string|int>  $path */
    public function line(array $path): ?int
    {
        return ($this->places->find($path) ?? [null])[0];
    }

    /** @param  list<string|int>  $path */
    public function wrong(array $path, string $message): PlanError
    {
        return PlanError::of([$this->mistake($path, $message)]);
    }
}
