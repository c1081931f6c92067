<?php

namespace App\Rejects;

use App\Ledger\CauseReader;
use App\Ledger\RowFilter;
use App\Ledger\RowList;
use App\Models\Load;
use App\Models\Round;
use App\Models\Work;
use App\Queueing\Kind;
use App\Queueing\WorkJob;
use App\Support\Amount;
use App\Support\Csv;
use Baggage\Core\Crosswalks\LegacyKey;

/** Writes all rows behind a number into a file of comma-separated values, for whoever asked. It is kept for a day. */
final class RowsFile extends WorkJob
{
    private const AT_ONCE = 5_000;

    private const HEAD = ['Load', 'Row', 'Legacy key', 'New key', 'Outcome', 'Because', 'Field', 'Value'];

    public function kind(): Kind
    {
        return Kind::Rows;
    }

    protected function done(Work $work): array
    {
        $n = self::write($work);

        return ['told' => Amount::of($n, 'row').' written.', 'file' => 'rows.csv', 'total' => $n, 'done' => $n];
    }

    protected function brokeOff(Work $work): string
    {
        return 'Writing the rows ended';
    }

    public static function path(Work $work): ?string
    {
        return $work->file !== null && is_file(self::at($work)) ? self::at($work) : null;
    }

    /** Deletes those that are a day old, with what they were asked for. */
    public static function sweep(): void
    {
        foreach (Work::query()->whereNotNull('file')->where('updated_at', '<', now()->subDay())->get() as $work) {
            @unlink(self::at($work));
            $work->update(['file' => null, 'seen' => true]);
        }
    }

    /** Where a file lies that a work makes; its folder is there. */
    public static function place(Work $work, string $extension): string
    {
        $path = config('baggage.vault')."/made/$work->id.$extension";
        is_dir(dirname($path)) || mkdir(dirname($path), 0700, true);

        return $path;
    }

    private static function at(Work $work): string
    {
        return self::place($work, pathinfo((string) $work->file, PATHINFO_EXTENSION) ?: 'csv');
    }

    private static function write(Work $work): int
    {
        $round = Round::query()->where('migration_id', $work->migration_id)->findOrFail($work->given['round']);
        $names = Load::query()->where('migration_id', $work->migration_id)->pluck('name', 'id')->all();
        $list = new RowList($round->laneId());
        $causes = new CauseReader($round->laneId());
        $filter = RowFilter::of($work->given['filter']);
        $file = new \SplFileObject(self::at($work), 'w');
        chmod(self::at($work), 0600);
        $file->fwrite(Csv::line(self::HEAD));
        $done = 0;
        $after = null;
        while (($rows = $list->page($work->given['loads'], $filter, $after, self::AT_ONCE)) !== []) {
            $because = $causes->byId(array_column($rows, 'cause_id'));
            foreach ($rows as $row) {
                $file->fwrite(Csv::line(self::line($row, $names, $because[$row->cause_id] ?? null)));
            }
            $last = end($rows);
            $after = [(int) $last->load_id, (int) $last->row_no];
            $work->reached($done += count($rows));
        }

        return $done;
    }

    /**
     * @param  array<int, string>  $names  of loads
     * @return list<string|int|null>
     */
    private static function line(\stdClass $row, array $names, ?\stdClass $cause): array
    {
        return [
            $names[$row->load_id] ?? '',
            (int) $row->row_no,
            LegacyKey::show((string) $row->legacy_key),
            $row->target_key,
            $row->outcome,
            $cause?->message,
            $cause?->field,
            $cause?->value,
        ];
    }
}
