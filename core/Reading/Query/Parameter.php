<?php

namespace Baggage\Core\Reading\Query;

/** Where the value of a query's parameter comes from. */
final readonly class Parameter
{
    /**
     * @param  string  $kind  'fixed', 'today', 'month_start' or 'highest'
     * @param  string  $value  for fixed; for highest the value of the very first take
     * @param  string  $column  for highest: the column whose largest value in the last take is remembered
     */
    private function __construct(public string $kind, public string $value = '', public string $column = '')
    {
    }

    /** @param  array<string, mixed>  $a  {fixed: v}, {today: true}, {month_start: true}, or {highest: column, first: v} */
    public static function fromArray(string $name, array $a): self
    {
        return match (true) {
            isset($a['fixed']) => new self('fixed', (string) $a['fixed']),
            isset($a['today']) => new self('today'),
            isset($a['month_start']) => new self('month_start'),
            isset($a['highest']) => new self('highest', (string) ($a['first'] ?? ''), (string) $a['highest']),
            default => throw new \InvalidArgumentException(
                "The parameter :$name is fixed, today, month_start or highest (of a column in the last take).",
            ),
        };
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return match ($this->kind) {
            'fixed' => ['fixed' => $this->value],
            'highest' => ['highest' => $this->column, 'first' => $this->value],
            default => [$this->kind => true],
        };
    }

    /**
     * @param  \DateTimeImmutable  $now  in UTC
     * @param  string|null  $highest  largest value of the column in the last take
     */
    public function resolve(\DateTimeImmutable $now, ?string $highest): string
    {
        return match ($this->kind) {
            'today' => $now->format('Y-m-d'),
            'month_start' => $now->format('Y-m-01'),
            'highest' => $highest ?? $this->value,
            default => $this->value,
        };
    }
}
