<?php

namespace App\Rejects;

use Baggage\Core\Rows\Cause;

/** Rejects of one load that fail alike. */
final readonly class CauseGroup
{
    public function __construct(
        public int $load,
        public string $stage,
        public string $code,
        public ?string $field,
        public string $message,
        public int $own,
        public int $held,
        public int $kinds,
        public ?string $value,
        public int $due = 0,
    ) {
    }

    public function freed(): int
    {
        return $this->own + $this->held;
    }

    /** The message without what differs from row to row. */
    public function title(): string
    {
        return Cause::title($this->code, $this->message, $this->kinds > 1);
    }

    /** Which field it is about, and how many values where there are several. */
    public function fieldTitle(): string
    {
        return ($this->field ?? 'whole row').($this->kinds > 1 ? ', '.number_format($this->kinds).' values' : '');
    }

    /** Where it is on its page. */
    public function anchor(): string
    {
        return self::anchorOf($this->id());
    }

    public static function anchorOf(string $id): string
    {
        return 'c-'.substr(hash('xxh64', $id), 0, 10);
    }

    public function id(): string
    {
        return implode('~', [$this->load, $this->stage, $this->code, $this->field]);
    }
}
