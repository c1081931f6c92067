<?php

namespace App\Support;

use Illuminate\Database\Query\Builder;

/** One page of row numbers, for tables that hold the rows behind a figure. */
final readonly class NumberPage
{
    private const PAGE = 50;

    /**
     * @param  list<int>  $shown
     * @param  int|null  $next  row after which the next page begins
     */
    private function __construct(public array $shown, public ?int $next)
    {
    }

    /** @param  Builder  $of  rows with a row_no */
    public static function of(Builder $of, int $after): self
    {
        return self::cut(
            $of
                ->where('row_no', '>', $after)
                ->orderBy('row_no')
                ->limit(self::PAGE + 1)
                ->pluck('row_no')
                ->all(),
        );
    }

    /** @param  array<int>  $rows  all there are, in any order */
    public static function among(array $rows, int $after): self
    {
        sort($rows);

        return self::cut(array_slice(array_filter($rows, fn ($row) => $row > $after), 0, self::PAGE + 1));
    }

    /** @param  array<int>  $rows  one more than a page where there is a next one */
    private static function cut(array $rows): self
    {
        $shown = array_map(intval(...), array_slice(array_values($rows), 0, self::PAGE));

        return new self($shown, count($rows) > self::PAGE ? $shown[self::PAGE - 1] : null);
    }
}
