<?php

namespace App\Reconciling;

use App\Models\Load;
use App\Models\Reckoning;
use App\Models\Work;
use App\Queueing\Kind;
use App\Queueing\WorkJob;
use App\Reckoning\Differences;
use App\Reckoning\TotalLine;
use App\Rejects\RowsFile;
use App\Support\Amount;
use App\Support\Csv;
use Baggage\Core\Reconciling\Figures;
use Baggage\Core\Reconciling\Part;

/** Writes what a reckoning found into a file of comma-separated values: groups of a total, its rows, or those compared. */
final class DifferencesFile extends WorkJob
{
    public const GROUPS = 'groups';

    public const ROWS = 'rows';

    public const COMPARED = 'compared';

    private const AT_ONCE = 2_000;

    public function kind(): Kind
    {
        return Kind::Rows;
    }

    protected function done(Work $work): array
    {
        $reckoning = Reckoning::query()->whereHas('round', fn ($q) => $q->where('migration_id', $work->migration_id))
            ->find($work->given['reckoning'])
            ?? throw new \DomainException('It was counted again meanwhile: look at the page as it is now.');
        $path = RowsFile::place($work, 'csv');
        $file = new \SplFileObject($path, 'w');
        chmod($path, 0600);
        $n = -1;
        foreach ($this->lines($reckoning, $work) as $line) {
            $file->fwrite(Csv::line($line));
            if (++$n % self::AT_ONCE === 0) {
                $work->reached($n);
            }
        }

        return ['told' => Amount::of($n, 'line').' written.', 'file' => 'differences.csv', 'total' => $n, 'done' => $n];
    }

    protected function brokeOff(Work $work): string
    {
        return 'Writing the file ended';
    }

    /** @return iterable<list<string|int|null>> the heads, then a line for each */
    private function lines(Reckoning $reckoning, Work $work): iterable
    {
        $found = new Differences($reckoning);
        $names = Load::query()->where('migration_id', $work->migration_id)->pluck('name', 'id')->all();
        $given = $work->given;

        return match ($given['what']) {
            self::GROUPS => $this->groups($reckoning, $found, (int) $given['total']),
            self::ROWS => $this->rows($found, $names, (int) $given['total'], $given['group'] ?? null),
            default => $this->compared($found, $names, $given),
        };
    }

    /** @return \Generator<list<string|int|null>> */
    private function groups(Reckoning $reckoning, Differences $found, int $number): \Generator
    {
        $line = collect(TotalLine::of($reckoning))->firstWhere('number', $number) ?? throw new \DomainException('There is no such total.');
        $slots = [Figures::RAW, ...array_column(Part::cases(), 'value'), Figures::CORRECTED, Figures::THEN, Figures::GONE];
        yield ['Group', 'Legacy', 'Target', 'Difference', 'Rows that differ', ...array_map(ucfirst(...), $slots)];
        for ($after = null; ($groups = $found->groups($number, $after, self::AT_ONCE)) !== []; $after = [$last['weight'], $last['name']]) {
            foreach ($groups as $last) {
                $f = $last['figures'];
                $of = fn (string $side) => $f->extremes[$side] ?? null;
                yield [
                    $last['name'], $line->adds() ? $f->expected() : $of('legacy'), $line->adds() ? $f->sum(Figures::TARGET) : $of('target'),
                    $f->difference($line->total->kind), $f->differ, ...array_map($f->sum(...), $slots),
                ];
            }
        }
    }

    /**
     * @param  array<int, string>  $names  of loads
     * @return \Generator<list<string|int|null>>
     */
    private function rows(Differences $found, array $names, int $number, ?string $group): \Generator
    {
        yield ['Load', 'Row', 'Group', 'The row counts', 'Its record'];
        $after = null;
        while (($rows = $found->rows($number, $group, $after, self::AT_ONCE)) !== []) {
            foreach ($rows as $row) {
                yield [$names[$row->load_id] ?? '', (int) $row->item, $row->name, $row->legacy, $row->target];
                $after = [(float) $row->weight, (int) $row->number];
            }
        }
    }

    /**
     * @param  array<int, string>  $names  of loads
     * @param  array<string, mixed>  $given
     * @return \Generator<list<string|int|null>>
     */
    private function compared(Differences $found, array $names, array $given): \Generator
    {
        yield ['Load', 'Row', 'Field', 'Different', 'Happened', 'Sent', 'The record says'];
        $after = 0;
        $of = [(int) $given['load'], $given['field'], $given['class'], $given['happened']];
        while (($rows = $found->compared(...[...$of, $after, self::AT_ONCE])) !== []) {
            foreach ($rows as $row) {
                yield [$names[$row->load_id] ?? '', (int) $row->item, $row->name, $row->class, $row->happened, $row->legacy, $row->target];
                $after = (int) $row->number;
            }
        }
    }
}
