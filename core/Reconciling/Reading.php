<?php

namespace Baggage\Core\Reconciling;

use Baggage\Core\Expressions\Context;
use Baggage\Core\Expressions\Rule;
use Baggage\Core\Expressions\RuleFailure;

/** An expression read off many rows; where it reads one column, what it gives for a value is worked out once. */
final class Reading
{
    private const REMEMBERED = 4_000;

    /** @var array<array-key, mixed> cell → what it gives */
    private array $known = [];

    private readonly ?int $column;

    /** @var array<int, mixed>|null row → what it gives, of the page that is gone through; null where one total alone reads it */
    private ?array $page = null;

    private int $asked = 0;

    private bool $remembers = true;

    public function __construct(private readonly Rule $rule, private readonly Context $context)
    {
        $this->column = count($rule->columns) === 1 ? $rule->columns[0] : null;
    }

    /** More than one total reads it: what it gave of the rows of a page is kept until the page is turned. */
    public function share(): void
    {
        $this->page ??= [];
    }

    public function turn(): void
    {
        $this->page = $this->page === null ? null : [];
    }

    /**
     * Of a row as it counts now.
     *
     * @param  list<string|null>  $cells
     * @return mixed null where it fails
     */
    public function ofRow(int $row, array $cells): mixed
    {
        if ($this->page === null) {
            return $this->of($cells);
        }
        if (! array_key_exists($row, $this->page)) {
            $this->page[$row] = $this->of($cells);
        }

        return $this->page[$row];
    }

    /**
     * @param  list<string|null>  $cells
     * @return mixed null where it fails
     */
    public function of(array $cells): mixed
    {
        $cell = $this->column === null ? null : $cells[$this->column] ?? null;
        if ($cell === null || ! $this->remembers) {
            return $this->applied($cells);
        }
        $this->asked++;
        if (array_key_exists($cell, $this->known)) {
            return $this->known[$cell];
        }
        if (count($this->known) >= self::REMEMBERED) {
            // Of a column with few repeats it costs more than it saves.
            $this->remembers = $this->asked > 2 * self::REMEMBERED;
            [$this->known, $this->asked] = [[], 0];
        }

        return $this->known[$cell] = $this->applied($cells);
    }

    /** @param  list<string|null>  $cells */
    private function applied(array $cells): mixed
    {
        try {
            return $this->rule->apply($cells, $this->context);
        } catch (RuleFailure) {
            return null;
        }
    }
}
