<?php

namespace App\Reckoning;

use App\Models\Reckoning;
use Baggage\Core\Reconciling\Figures;
use Baggage\Core\Reconciling\Part;
use Baggage\Core\Reconciling\SampleSize;

/** Control totals and comparison as data: part of the result of a headless run (docs/running.md). */
final class Reckoned
{
    /** Groups that differ, and rows, told of each total. */
    private const FIRST = 100;

    /** Stated where nothing else is: how sure a sample makes. */
    public const CONFIDENCE = 0.95;

    /** @return array{totals?: list<array<string, mixed>>, totals_at?: string, comparison?: array<string, mixed>} */
    public static function of(?Reckoning $totals, ?Reckoning $comparison): array
    {
        return ($totals === null ? [] : [
            'totals_at' => (string) $totals->done_at?->toIso8601ZuluString(),
            'totals' => array_map(fn (TotalLine $l) => self::total($l, new Differences($totals)), TotalLine::of($totals)),
        ]) + ($comparison === null ? [] : ['comparison' => self::comparison($comparison)]);
    }

    /** @return array<string, mixed> */
    private static function total(TotalLine $line, Differences $found): array
    {
        $figures = $line->figures;
        $parts = [];
        foreach ($figures === null || ! $line->adds() ? [] : [
            Figures::RAW, ...array_map(fn (Part $p) => $p->value, Part::cases()), Figures::CORRECTED, Figures::THEN, Figures::GONE,
        ] as $slot) {
            $parts[str_replace(' ', '_', $slot)] = $figures->sum($slot);
        }

        return [
            'total' => $line->total->name, 'entity' => $line->total->entity, 'load' => $line->total->load,
            'kind' => $line->total->kind->value, 'field' => $line->total->field,
            'parts' => (object) $parts, 'no_number' => $figures?->rows(Figures::RAW.' none') ?? 0,
            'legacy' => $line->legacy(), 'target' => $line->target(), 'difference' => $line->difference(),
            'tolerance' => $line->total->tolerance, 'because' => $line->total->because, 'holds' => $line->holds(),
            'rows_differ' => $figures->differ ?? 0, 'groups_differ' => $line->groupsDiffer,
            'groups_do_not_foot' => $line->groupsDoNotFoot, 'error' => $line->error,
            'groups' => $line->total->groupField === null ? [] : array_map(
                fn (array $g) => self::group($line, $g['name'], $g['figures']),
                $found->groups($line->number, null, self::FIRST, differing: true),
            ),
            'rows' => array_map(fn (\stdClass $r) => [
                'load' => (int) $r->load_id, 'row' => (int) $r->item, 'group' => $r->name, 'legacy' => $r->legacy, 'target' => $r->target,
            ], $found->rows($line->number, null, null, self::FIRST)),
        ];
    }

    /** @return array<string, mixed> */
    private static function group(TotalLine $line, string $name, Figures $figures): array
    {
        $kind = $line->total->kind;

        return [
            'group' => $name,
            'legacy' => $kind->adds() ? $figures->expected() : $figures->extremes['legacy'] ?? null,
            'target' => $kind->adds() ? $figures->sum(Figures::TARGET) : $figures->extremes['target'] ?? null,
            'difference' => $figures->difference($kind),
        ] + ($line->total->parentField === null ? [] : [
            'legacy_parent' => $figures->sum(Figures::PARENT), 'target_parent' => $figures->sum(Figures::PARENT_TARGET),
            'legacy_cross' => $figures->crossLegacy(), 'target_cross' => $figures->crossTarget(),
        ]);
    }

    /** @return array<string, mixed> */
    private static function comparison(Reckoning $of): array
    {
        $figures = $of->figures ?? [];
        [$there, $looked] = [(int) ($figures['of'] ?? 0), (int) ($figures['looked'] ?? 0)];
        $confidence = (float) ($of->asked['confidence'] ?? self::CONFIDENCE);

        return [
            'compared_at' => (string) $of->done_at?->toIso8601ZuluString(),
            'records' => $there, 'looked_at' => $looked,
            'sample' => $of->asked['sample'] ?? null, 'seed' => $of->asked['seed'] ?? null,
            // Were more of them wrong than this, one would have been among those looked at so surely.
            'shown' => ['confidence' => $confidence, 'share' => round(SampleSize::shown($there, $looked, $confidence), 6)],
            'equal' => self::isEqual($of),
            'loads' => array_map(
                fn (array $l) => ['load' => $l['name']] + array_diff_key($l, ['name' => 0, 'load' => 0]),
                $figures['loads'] ?? [],
            ),
        ];
    }

    /** Whether nothing that was looked at says anything else than was sent. */
    public static function isEqual(Reckoning $comparison): bool
    {
        foreach ($comparison->figures['loads'] ?? [] as $load) {
            if ($load['missing'] > 0 || array_sum(array_column($load['fields'], 'different')) > 0) {
                return false;
            }
        }

        return true;
    }

    /** @param  array<string, mixed>  $report  with what of() gave */
    public static function holds(array $report): bool
    {
        return array_filter($report['totals'] ?? [], fn (array $t) => ! $t['holds']) === [] && ($report['comparison']['equal'] ?? true);
    }
}
