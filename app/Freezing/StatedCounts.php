<?php

namespace App\Freezing;

use App\Models\Audit;
use App\Models\Extract;
use App\Models\Source;
use App\Models\Take;
use App\Models\TakeState;
use App\Staging\StagedRows;
use Baggage\Core\Reconciling\CoveringSheet;
use Illuminate\Support\Facades\Auth;

/** What the client says of the number of rows: typed in, or read from a covering sheet that came with the delivery. */
final class StatedCounts
{
    /** Lines of a covering sheet that are read. */
    private const LINES = 5_000;

    /** @param  int|null  $rows  null to take it back */
    public static function say(Take $take, ?int $rows): void
    {
        $take->update(['stated_rows' => $rows, 'stated_by' => $rows === null ? null : Auth::user()->name ?? 'the command line']);
        $of = "{$take->extract->source->code}/{$take->extract->name}, take $take->number";
        Audit::note($take->extract->source->migration_id, $rows === null
            ? "took back what the client says of the rows of $of"
            : "noted that the client says $of has $rows rows");
    }

    /**
     * Reads the covering sheets of a source again. A sheet says something of one take of each extract, the newest when it came: a later
     * take waits for a later sheet.
     *
     * @return list<string> names of extracts it said something of
     */
    public static function read(Source $source): array
    {
        $told = [];
        $extracts = $source->extracts()->get();
        foreach ($extracts->whereNotNull('covering') as $sheet) {
            $take = $sheet->takes()->where('state', TakeState::Frozen)->orderByDesc('number')->limit(1)->get()->first();
            $counts = $take === null ? [] : self::counts($sheet, $take);
            $by = $take === null ? '' : "covering sheet $sheet->name, take $take->number";
            foreach ($counts === [] ? [] : $extracts->where('id', '<>', $sheet->id) as $extract) {
                $rows = self::of($extract, $counts);
                if ($rows !== null && self::note($extract, $rows, $by)) {
                    $told[] = (string) $extract->name;
                }
            }
        }

        return $told;
    }

    /** @return array<string, int> folded name → rows */
    private static function counts(Extract $sheet, Take $take): array
    {
        $columns = $take->tidyColumns();
        $name = $columns->find((string) ($sheet->covering['name'] ?? ''))?->position;
        $rows = $columns->find((string) ($sheet->covering['rows'] ?? ''))?->position;

        return $name === null || $rows === null
            ? []
            : CoveringSheet::counts((new StagedRows($take->id))->after(0, self::LINES), $name, $rows);
    }

    /** @param  array<string, int>  $counts */
    private static function of(Extract $extract, array $counts): ?int
    {
        $file = (string) $extract->takes()->orderByDesc('number')->value('file_name');

        return $counts[CoveringSheet::folded($extract->name)] ?? ($file === '' ? null : $counts[CoveringSheet::folded($file)] ?? null);
    }

    private static function note(Extract $extract, int $rows, string $by): bool
    {
        $newest = $extract->takes()->where('state', TakeState::Frozen)->orderByDesc('number')->limit(1)->get()->first();
        $isNew = $newest !== null && $newest->stated_rows === null
            && ! $extract->takes()->where('stated_by', $by)->exists();
        $isNew ? $newest->update(['stated_rows' => $rows, 'stated_by' => $by]) : null;

        return $isNew;
    }
}
