<?php

namespace Baggage\Core\Plan;

/** One thing that is wrong with a plan: where, in what field, and why. */
final readonly class Mistake
{
    /** Characters of what a file says that are said again. */
    private const SHOWN = 400;

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

    /** The same place, said otherwise. */
    public function with(string $message): self
    {
        return new self($this->file, $this->line, $this->column, $this->field, $message);
    }

    private static function short(string $text): string
    {
        return mb_strlen($text) > self::SHOWN ? mb_substr($text, 0, self::SHOWN).' …' : $text;
    }

    public function text(): string
    {
        $place = $this->line === null ? '' : ", line $this->line".($this->column === null ? '' : ", column $this->column");

        $field = $this->field === null || $this->field === '' ? '' : ', '.self::short($this->field);

        return $this->file.$place."$field: ".self::short($this->message);
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
