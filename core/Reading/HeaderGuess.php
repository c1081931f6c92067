<?php

namespace Baggage\Core\Reading;

/** Finds the header among the first rows of a sheet. */
final class HeaderGuess
{
    /**
     * @param  list<RawRow>  $rows  the first rows, blank ones included
     * @return array{Layout, string} and why
     */
    public static function of(array $rows): array
    {
        $filled = fn (RawRow $r) => count(array_filter($r->cells, fn ($c) => $c !== null && trim($c) !== ''));
        $widest = $rows === [] ? 0 : max(array_map($filled, $rows));
        foreach ($rows as $row) {
            if ($widest > 0 && $filled($row) * 10 >= $widest * 6) {
                $cells = array_filter($row->cells, fn ($c) => $c !== null && trim($c) !== '');
                $words = array_filter($cells, fn ($c) => preg_match('/^[-+]?[\d.,\/: -]+$/', trim($c)) !== 1);
                if (count($words) === count($cells)) {
                    return [
                        new Layout(true, $row->line - 1),
                        $row->line === 1
                            ? 'the first row holds words only'
                            : "row $row->line is the first that fills most columns",
                    ];
                }

                return [new Layout(false, $row->line - 1), "row $row->line holds numbers, like the rows below it"];
            }
        }

        return [new Layout, 'the sheet has no cells'];
    }
}
