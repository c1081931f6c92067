<?php

namespace App\Ledger;

use Baggage\Core\Rows\Outcome;

/** Which rows of a round a number on a screen is about. */
final readonly class RowFilter
{
    public const OWN = 'own';

    public const DUE = 'due';

    public const BELOW = 'below';

    /**
     * @param  int|null  $cause  rows it keeps out
     * @param  array{int, string, string, string|null}|null  $alike  load, stage, code and field: rows that fail alike
     * @param  string  $which  of these: the rejected ones themselves, those that are due, or those held below them
     * @param  string|null  $waits  a field: rows whose reference in it waits to be set
     * @param  string|null  $open  a field: rows whose reference in it was left open
     * @param  int|null  $root  a cause: rows held, in the end, by those it keeps out
     * @param  string|null  $made  a field: rows whose reference in it was set later
     * @param  bool  $isStanding  rows that stand on a record of their own as they are
     * @param  bool  $isOlder  rows that were left out and whose record stands with the values it had
     */
    public function __construct(
        public ?Outcome $outcome = null,
        public ?int $cause = null,
        public ?array $alike = null,
        public string $which = self::OWN,
        public ?string $waits = null,
        public ?string $open = null,
        public ?string $made = null,
        public ?int $root = null,
        public bool $isOlder = false,
        public bool $isStanding = false,
    ) {
    }

    /** @param  array<string, mixed>  $of  as an address says it */
    public static function of(array $of): self
    {
        $text = fn (string $key) => is_string($of[$key] ?? null) && $of[$key] !== '' ? $of[$key] : null;
        $alike = explode('~', (string) $text('alike'), 4);
        $which = $text('which');

        return new self(
            Outcome::tryFrom((string) $text('outcome')),
            is_numeric($text('cause')) ? (int) $text('cause') : null,
            count($alike) === 4 ? [(int) $alike[0], $alike[1], $alike[2], $alike[3] === '' ? null : $alike[3]] : null,
            $which === self::DUE || $which === self::BELOW ? $which : self::OWN,
            $text('waits'),
            $text('open'),
            $text('made'),
            is_numeric($text('root')) ? (int) $text('root') : null,
            $text('older') !== null,
            $text('standing') !== null,
        );
    }
}
