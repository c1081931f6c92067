<?php

namespace App\Files;

use App\Decisions\Numbers;
use App\Ledger\CauseReader;
use App\Models\Audit;
use App\Models\ClientFile;
use App\Models\Load;
use App\Models\Round;
use App\Models\Take;
use App\Models\Work;
use App\Models\WorkKind;
use App\Rejects\CauseGroup;
use App\Support\Amount;
use Baggage\Core\Rows\RowSet;
use Baggage\Core\Writing\Reference;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\DB;

/** Files of rejected rows: begun, sent, closed. */
final class FileBook
{
    /** Rows that are written while a page waits. */
    public const AT_ONCE = 2_000;

    /** Bytes of a file that is copied while a page waits. */
    public const BYTES_AT_ONCE = 300_000;

    /**
     * @param  list<int>  $loads  of the round, in the order they are listed
     * @param  CauseGroup|null  $cause  the rows it is about; null for all rejected ones
     *
     * @throws \DomainException
     */
    public static function begin(Round $round, array $loads, ?CauseGroup $cause, string $format, string $title): ClientFile
    {
        if ($round->hasEnded()) {
            throw new \DomainException("Round $round->name has ended, and no answer to it could be taken in.");
        }
        $loads = array_values(array_intersect($loads, $round->roundLoads()->pluck('load_id')->all()));
        $of = (new CauseReader($round->laneId()))->rejectedAlike($loads);
        $rows = $cause === null ? (int) array_sum(array_column($of, 'n')) : $cause->own;
        $with = array_values(array_intersect($loads, array_map(fn ($g) => (int) $g->load_id, $of)));
        if ($rows === 0) {
            throw new \DomainException('No row is rejected there: there is nothing to write.');
        }
        if ($format === 'csv' && count($with) > 1) {
            throw new \DomainException('Rows of '.Amount::of(count($with), 'load').' have different columns. Write an .xlsx with a sheet '
                .'for each, or a .csv of one load.');
        }
        $file = ClientFile::query()->create([
            'migration_id' => $round->migration_id,
            'round_id' => $round->id,
            'code' => Reference::code(),
            'title' => mb_substr($title, 0, 255),
            'format' => $format,
            'words' => Words::of($round->migration->words)->language,
            'loads' => $with,
            'alike' => $cause?->id(),
            'decision' => Numbers::last($round->migration_id),
            'row_count' => $rows,
            'user_id' => Auth::id(),
        ]);

        return $file;
    }

    /** Has it written: at once where it is short, else by a worker. @return Work|null who does it */
    public static function write(ClientFile $file): ?Work
    {
        $work = Work::ask($file->migration, WorkKind::File, "Writing $file->title", ['of' => $file->id], $file->row_count);
        $file->update(['work_id' => $work->id]);
        $file->row_count <= self::AT_ONCE ? WriteFile::dispatchSync($work->id) : WriteFile::dispatch($work->id);

        return $work->refresh()->isGoing() ? $work : null;
    }

    /** Rows of a file that are in another one which is open. */
    public static function elsewhere(ClientFile $file): int
    {
        $all = [];
        foreach (self::shared($file) as [$load, , $both]) {
            $all[$load] = isset($all[$load]) ? $all[$load]->or($both) : $both;
        }

        return array_sum(array_map(fn (RowSet $set) => $set->count(), $all));
    }

    /** @return array<int, array{string, int}> other open files with rows of this one → title, and how many */
    public static function others(ClientFile $file): array
    {
        $found = [];
        foreach (self::shared($file) as [, $other, $both]) {
            $n = ($found[$other->id][1] ?? 0) + $both->count();
            if ($n > 0) {
                $found[$other->id] = ["$other->title, $other->code", $n];
            }
        }

        return $found;
    }

    /**
     * What a file has in common with others that are open.
     *
     * @return \Generator<array{int, \stdClass, RowSet}> load, the other's id, title and code, and the rows in both
     */
    private static function shared(ClientFile $file): \Generator
    {
        foreach (DB::table('file_loads')->where('file_id', $file->id)->get() as $own) {
            $set = RowSet::unpacked($own->row_set);
            $others = DB::table('file_loads as l')
                ->join('files as f', 'f.id', '=', 'l.file_id')
                ->where('l.take_id', $own->take_id)
                ->where('f.id', '<>', $file->id)
                ->whereNull('f.closed_at')
                ->orderBy('f.id')
                ->get(['f.id', 'f.title', 'f.code', 'l.row_set']);
            foreach ($others as $other) {
                yield [(int) $own->load_id, $other, $set->and(RowSet::unpacked($other->row_set))];
            }
        }
    }

    public static function close(ClientFile $file): void
    {
        $file->update(['closed_at' => now()]);
        @unlink($file->path());
        foreach ($file->answers()->whereNotNull('path')->pluck('path') as $path) {
            @unlink((string) $path);
        }
        Audit::note($file->migration_id, 'closed a file of rejected rows', ['file' => $file->title, 'code' => $file->code]);
    }

    /** @return array<int, string> take of the round → the client's file it was read from, where a copy of that can be made */
    public static function copies(Round $round): array
    {
        $takes = [];
        foreach (Take::ofRound($round) as $take) {
            if (! isset($takes[$take->id]) && Annotator::canDo($take)) {
                $takes[$take->id] = $take->file_name;
            }
        }
        asort($takes);

        return $takes;
    }

    /** Removes files nobody knows any more. */
    public static function sweep(): void
    {
        foreach (glob(config('baggage.vault').'/files/*.*') ?: [] as $path) {
            $isOld = (int) @filemtime($path) < now()->subHour()->timestamp;
            $isOld && ! ClientFile::query()->whereKey((int) basename($path))->whereNull('closed_at')->exists() ? @unlink($path) : null;
        }
    }

    /**
     * What a file is about, in a few words.
     *
     * @param  list<Load>  $loads
     */
    public static function title(array $loads, ?CauseGroup $cause, ?string $entity): string
    {
        $names = implode(', ', array_map(fn (Load $l) => $l->name, array_slice($loads, 0, 3)));

        return match (true) {
            $cause !== null => $cause->title().($cause->field === null ? '' : ", $cause->field").' ('.$names.')',
            $entity !== null => 'Rejected rows of '.$entity,
            count($loads) <= 3 => "Rejected rows of $names",
            default => 'Rejected rows',
        };
    }
}
