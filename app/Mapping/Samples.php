<?php

namespace App\Mapping;

use App\Ledger\LedgerReader;
use App\Models\CheckState;
use App\Models\Load;
use App\Models\LoadCheck;
use App\Models\Round;
use App\Staging\ColumnValues;
use App\Staging\StagedRows;

/** Which rows rules are tried on. */
final class Samples
{
    public const KINDS = [
        'spread' => 'first, middle and last row',
        'first' => 'the first rows',
        'random' => 'rows at random',
        'failing' => 'rows that fail',
        'column' => 'usual, smallest and largest of a column',
        'value' => 'rows with a value',
    ];

    /** @return list<int> three row numbers at most */
    public static function pick(
        Load $load,
        string $kind,
        ?Round $round,
        ?LoadCheck $check,
        ?string $column,
        string $value,
    ): array {
        $n = (int) $load->extract->take?->rows;
        $at = $column === null ? null : $load->extract->tidyColumns()->find($column)?->position;

        return array_slice(
            match (true) {
                $kind === 'spread' => RuleSheet::rows($load, null),
                $kind === 'random' && $n > 0 => self::random($n),
                $kind === 'failing' => self::failing($load, $round, $check),
                $kind === 'column' && $at !== null => self::ofColumn($load, $at),
                $kind === 'value' && $at !== null => array_column(
                    StagedRows::withValue((int) $load->extract->take_id, $at, $value, 0)['rows'],
                    0,
                ),
                default => $n === 0 ? [] : range(1, min(3, $n)),
            },
            0,
            3,
        );
    }

    /** @return list<int> */
    private static function random(int $n): array
    {
        $rows = [];
        for ($i = 0; $i < 20 && count($rows) < min(3, $n); $i++) {
            $rows[random_int(1, $n)] = true;
        }
        ksort($rows);

        return array_keys($rows);
    }

    /** @return list<int> one of each cause: of the check, or of the round */
    private static function failing(Load $load, ?Round $round, ?LoadCheck $check): array
    {
        $rows = $check?->state === CheckState::Done ? CheckRows::oneOfEachCause($check) : [];
        if ($rows === [] && $round !== null) {
            $rows = (new LedgerReader($round))->oneOfEachCause($load, 3);
        }

        return $rows;
    }

    /** @return list<int> */
    private static function ofColumn(Load $load, int $at): array
    {
        $take = (int) $load->extract->take_id;
        $usual = ColumnValues::most($take, $at, 1)->value('value');
        $facts = $load->extract->take?->facts()[$at] ?? [];
        $rows = [];
        foreach ([$usual, $facts['smallest'] ?? null, $facts['largest'] ?? null] as $value) {
            $row = $value === null ? null : StagedRows::withValue($take, $at, (string) $value, 0)['rows'][0][0] ?? null;
            if ($row !== null) {
                $rows[$row] = true;
            }
        }

        return array_keys($rows);
    }
}
