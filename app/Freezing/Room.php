<?php

namespace App\Freezing;

use App\Models\Take;
use App\Models\TakeState;
use App\Reading\Part;
use Baggage\Core\Feeds\FeedFormat;
use Baggage\Core\Reading\ReaderSettings;
use Baggage\Core\Reading\Workbook\WorkbookFormat;
use Illuminate\Support\Facades\DB;

/**
 * The room there is: on the disk for all, and of it for each migration. What is needed is estimated from what there is to read: measured
 * with the demo's files and rows, where staged rows take 1.8 bytes for a byte of cells, their values a little more, and outcomes of a pass
 * 272 bytes each. Rows lie where the database does; with bin/start that is the disk the files lie on.
 */
final readonly class Room
{
    /** Bytes on the disk for a byte that is read; a workbook's XML is several times its cells. */
    private const STAGED = 2.2;

    private const STAGED_OF_WORKBOOK = 1.0;

    /** Bytes for a row of a pass: outcome, indexes, causes, links. */
    private const ROW_OF_PASS = 400;

    /**
     * @param  int  $rows  read of all takes of the migration
     * @param  int  $bytes  of its files and its rows
     */
    private function __construct(public int $rows, public int $bytes)
    {
    }

    /** @param  Take|null  $but  one that is being read */
    public static function of(int $migration, ?Take $but = null): self
    {
        $takes = fn () => Take::query()
            ->join('extracts', 'extracts.id', '=', 'takes.extract_id')
            ->join('sources', 'sources.id', '=', 'extracts.source_id')
            ->where('sources.migration_id', $migration)
            ->toBase();
        $staged = $takes()
            ->where('takes.state', TakeState::Frozen->value)
            ->when($but !== null, fn ($q) => $q->where('takes.id', '<>', $but?->id))
            ->selectRaw('COALESCE(SUM(takes.`rows`), 0) AS n, COALESCE(SUM(COALESCE(takes.staged_bytes, takes.bytes)), 0) AS size')
            ->first();
        // One file may hold many tables.
        $files = $takes()->where('takes.file', '<>', '')->groupBy('takes.file')->selectRaw('MAX(takes.bytes) AS size');

        return new self(
            (int) ($staged->n ?? 0),
            (int) (($staged->size ?? 0) * self::STAGED) + (int) DB::query()->fromSub($files, 'files')->sum('size'),
        );
    }

    /** Bytes that may still be taken on the disk. */
    public static function free(): int
    {
        $folder = (string) config('baggage.vault');
        while (! is_dir($folder)) {
            // Before the first file there is none yet.
            $folder = dirname($folder);
        }
        $free = disk_free_space($folder);

        return (int) max(0, (float) $free - (int) config('baggage.disk_reserve') * 1e6);
    }

    /** @param  int  $bytes  there are to read */
    public static function neededFor(ReaderSettings $settings, int $bytes): int
    {
        return (int) ($bytes * match (true) {
            $settings->format instanceof WorkbookFormat => self::STAGED_OF_WORKBOOK,
            $settings->format instanceof FeedFormat => 0,
            default => self::STAGED,
        });
    }

    public static function neededForRows(int $rows): int
    {
        return $rows * self::ROW_OF_PASS;
    }

    /** What freezing a part of a file needs beside what there is, in words; null where nothing is known of it. */
    public static function saidOf(Part $part): ?string
    {
        return $part->settings === null || $part->bytes === null
            ? null
            : self::said(self::neededFor($part->settings, $part->bytes));
    }

    public static function said(int $needed): string
    {
        return 'About '.self::size($needed).' on the disk, where '.self::size(self::free()).' are free.';
    }

    /** @throws \DomainException where the disk has no room for so much */
    public static function refuseOnDisk(int $needed, string $what): void
    {
        $free = self::free();
        if ($needed > $free) {
            throw new \DomainException(
                "$what needs about ".self::size($needed).' on the disk, and '.self::size($free).' may be taken ('
                    .number_format((int) config('baggage.disk_reserve')).' MB stay free). Make room first.',
            );
        }
    }

    /** @throws \DomainException where the migration would have more than one may */
    public function refuse(int $rows, int $bytes): void
    {
        $most = ['rows' => (int) config('baggage.migration.rows'), 'disk' => (int) config('baggage.migration.disk') * 1_000_000];
        if ($this->rows + $rows > $most['rows']) {
            throw new \DomainException(
                'With it the takes of this migration have more than '.number_format($most['rows']).' rows, which is the most for one.',
            );
        }
        if ($this->bytes + $bytes > $most['disk']) {
            throw new \DomainException(
                'With it the files and rows of this migration take more than '.self::size($most['disk'])
                    .' of the disk, which is the most for one. Remove files that are not needed any more.',
            );
        }
    }

    private static function size(int $bytes): string
    {
        return match (true) {
            $bytes >= 10_000_000_000 => number_format($bytes / 1e9).' GB',
            $bytes >= 1_500_000 => number_format($bytes / 1e6).' MB',
            default => '1 MB',
        };
    }
}
