<?php

namespace App\View\Tables;

use App\Models\LoadState;
use App\Models\Pass;
use App\Models\PassKind;
use App\Models\PassLoad;
use App\View\Page;
use Illuminate\Http\Request;

/** Tables of Runs. */
final class RunTables
{
    public const OUTCOMES = ['loaded', 'updated', 'unchanged', 'merged', 'excluded', 'held', 'rejected'];

    /** What a delta finds of a load. */
    public const COMPARED = ['added', 'changed', 'gone'];

    /** Loads of a pass, of the chosen entity where one is; a retry shows those it had rows of. */
    public static function loads(Request $request, Page $page, Pass $pass): Table
    {
        $isRetry = $pass->kind !== PassKind::First;
        $shown = $pass->passLoads
            ->filter(fn (PassLoad $l) => $page->entity === null || $page->all()->get($l->load_id)?->entityId === $page->entity->id)
            ->reject(fn (PassLoad $l) => $isRetry && $l->rows_done === 0 && $l->state === LoadState::Done
                && array_sum(array_intersect_key($l->compared ?? [], array_flip(self::COMPARED))) === 0);

        return Table::of($request, "pass$pass->number", [
            Column::number('wave', 'Wave', fn (PassLoad $l) => $l->wave),
            Column::text('load', 'Load', fn (PassLoad $l) => $page->all()->get($l->load_id)->name ?? ''),
            Column::text('state', 'State', fn (PassLoad $l) => $l->state->value),
            ...$pass->kind !== PassKind::Delta ? [] : array_map(
                fn (string $of) => Column::number($of, ucfirst($of), fn (PassLoad $l) => $l->compared[$of] ?? null),
                self::COMPARED,
            ),
            Column::number('rows', 'Rows', fn (PassLoad $l) => $pass->kind === PassKind::Retry ? null : $l->rows_total),
            Column::number('done', 'Done', fn (PassLoad $l) => $l->rows_done),
            ...array_map(
                fn (string $o, string $title) => Column::number($o, $title, fn (PassLoad $l) => $l->counts[$o] ?? 0),
                array_keys(self::counted($pass)),
                array_values(self::counted($pass)),
            ),
            Column::number('seconds', 'Seconds', fn (PassLoad $l) => (float) $l->seconds),
        ], $shown->values()->all(), 100);
    }

    /** @return array<string, string> what is counted of a load in a pass → its title */
    public static function counted(Pass $pass): array
    {
        $outcomes = array_combine(self::OUTCOMES, array_map(ucfirst(...), self::OUTCOMES));

        return match ($pass->kind) {
            PassKind::BackOut => ['removed' => 'Records removed', 'restored' => 'Changed back', 'left' => 'Left'],
            PassKind::Delta => ['same' => 'As before'] + $outcomes + ['removed' => 'Records removed'],
            default => $outcomes,
        };
    }

    /** @param  list<array<string, mixed>>  $newer  of NewerTakes::of */
    public static function newer(Request $request, array $newer): Table
    {
        $rows = [];
        foreach ($newer as $of) {
            foreach ($of['takes'] as $take) {
                $rows[] = $take + $of;
            }
        }

        return Table::of($request, 'newer', [
            Column::text('extract', 'Extract', fn (array $t) => $t['name']),
            Column::number('on', 'This round works on take', fn (array $t) => $t['worked_on']),
            Column::number('take', 'Newer take', fn (array $t) => $t['number']),
            Column::number('added', 'Added', fn (array $t) => $t['added']),
            Column::number('changed', 'Changed', fn (array $t) => $t['changed']),
            Column::number('gone', 'Gone', fn (array $t) => $t['gone']),
        ], $rows);
    }
}
