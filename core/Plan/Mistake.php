<?php

namespace Baggage\Core\Plan;

/** One thing that is wrong with a plan: where, in what field, and why. */
final readonly class Mistake
{
    /**
     * @param  int|null  $line  from 1; null where it stands in no line
     * @param  int|null  $column  from 1, counted in bytes as the lines are
     * @param  string|null  $field  path in the plan with dots, as loads.0.key
     */
    public function __construct(
        public string $file,
        public ?int $line,
        public ?int $column,
        public ?string $field,
        public string $message,
    ) {
    }

    public function text(): string
    {
        $place = $this->line === null ? '' : ", line $this->line".($this->column === null ? '' : ", column $this->column");

        return $this->file.$place.($this->field === null || $this->field === '' ? '' : ", $this->field").": $this->message";
    }

    /** @param  array{file: string, line: int|null, column: int|null, field: string|null, message: string}  $said  as toArray() */
    public static function fromArray(array $said): self
    {
        return new self(...$said);
    }

    /** @return array{file: string, line: int|null, column: int|null, field: string|null, message: string} */
    public function toArray(): array
    {
        return [
            'file' => $this->file,
            'line' => $this->line,
            'column' => $this->column,
            'field' => $this->field,
            'message' => $this->message,
        ];
    }
}
