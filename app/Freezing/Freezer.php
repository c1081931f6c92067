<?php

namespace App\Freezing;

use App\Decisions\Following;
use App\Feeds\FeedTable;
use App\Models\Extract;
use App\Models\Finding;
use App\Models\FindingDecision;
use App\Models\Take;
use App\Models\TakeState;
use App\Profiling\FindingWalk;
use App\Reading\TableOpener;
use App\Reading\Unpacked;
use App\Staging\ColumnValues;
use App\Staging\KeyFiles;
use App\Staging\StagedRows;
use App\Support\Attempts;
use App\Support\Plain;
use App\Support\Unforeseen;
use Baggage\Core\Feeds\FeedFormat;
use Baggage\Core\Profiling\ColumnFacts;
use Baggage\Core\Profiling\Profiled;
use Baggage\Core\Profiling\TableProfile;
use Baggage\Core\Reading\Columns;
use Baggage\Core\Reading\DelimitedFormat;
use Baggage\Core\Reading\Limits;
use Baggage\Core\Reading\ReaderSettings;
use Baggage\Core\Reading\ReadingError;
use Baggage\Core\Reading\Remark;
use Baggage\Core\Reading\Table;
use Baggage\Core\Reading\Workbook\WorkbookFormat;
use Illuminate\Support\Facades\DB;

/** Reads a source into staged rows, all or nothing, gets to know its columns on the way, and makes it the extract's take. */
final class Freezer
{
    public const STOPPED = 'It was stopped. Nothing of it is kept.';

    private const ROUND = [
        100,
        256,
        500,
        1000,
        2000,
        5000,
        10_000,
        16_384,
        32_767,
        32_768,
        50_000,
        65_535,
        65_536,
        100_000,
        250_000,
        500_000,
        1_000_000,
        1_048_575,
        1_048_576,
    ];

    private ?Room $room = null;

    public function freeze(Take $take): void
    {
        $extract = $take->extract()->firstOrFail();
        self::forget($take->id);
        // A stop asked for while the take still waited holds too.
        if ($take->refresh()->state !== TakeState::Stopping) {
            $take->update([
                'state' => TakeState::Reading,
                'error' => null,
                'bytes_read' => 0,
                'rows' => null,
                'taken_at' => now(),
            ]);
        }
        try {
            $this->read($take, $extract);
        } catch (\Throwable $e) {
            $this->fail($take, $e instanceof ReadingError ? $e->getMessage() : Unforeseen::said('Reading broke off', $e));

            return;
        }
        Following::complete($take->refresh());
    }

    /** Nothing half frozen stays behind; the extract keeps the take it had. */
    public function fail(Take $take, string $why): void
    {
        self::forget($take->id);
        $take->update(['state' => TakeState::Failed, 'error' => Plain::said($why), 'rows' => null]);
    }

    /** Ends a take whose reading ended its process too often. */
    public function giveUp(Take $take): void
    {
        self::forget($take->id);
        $take->update([
            'state' => TakeState::Failed,
            'rows' => null,
            'error' => Attempts::exhausted(
                'Reading it',
                Attempts::within((int) $take->rows, (int) config('baggage.rows_per_write')),
            ).' Nothing of it is kept.',
        ]);
    }

    /**
     * Says how far it is, unless somebody asked to stop.
     *
     * @param  array<string, int>  $reached
     */
    private function goOn(Take $take, array $reached): void
    {
        $this->refuseTooMuch((int) ($reached['rows'] ?? 0), $reached['staged_bytes'] ?? 0);
        if (
            Take::query()->whereKey($take->id)->where('state', TakeState::Reading)->update($reached) === 0
            && Take::query()->whereKey($take->id)->value('state') === TakeState::Stopping
        ) {
            throw ReadingError::broken(self::STOPPED);
        }
    }

    private function refuseTooMuch(int $rows, int $bytes): void
    {
        $most = (int) config('baggage.most_rows');
        if ($rows > $most) {
            throw ReadingError::broken(
                'It has more than '.number_format($most).' rows, which is the most that is taken. Nothing of it is kept.',
            );
        }
        if (Room::free() === 0) {
            throw ReadingError::broken(
                'Less than '.number_format((int) config('baggage.disk_reserve')).' MB are left on the disk of Baggage, so reading was '
                    .'ended. Nothing of it is kept: make room, then read it again.',
            );
        }
        try {
            $this->room?->refuse($rows, $bytes);
        } catch (\DomainException $e) {
            throw ReadingError::broken($e->getMessage().' Nothing of it is kept.');
        }
    }

    /** What is known to be too much is not begun. */
    private function prepare(Take $take, Extract $extract): void
    {
        $this->room = Room::of((int) $extract->source?->migration_id, $take);
        if ($take->file === '' || ! is_file($take->file)) {
            return;
        }
        $settings = $extract->settings();
        try {
            $needed = Room::neededFor($settings, Unpacked::bytes($take->file, $settings->member));
            Room::refuseOnDisk($needed, 'Reading it');
            $this->room->refuse(0, $needed);
        } catch (\DomainException $e) {
            throw ReadingError::broken($e->getMessage());
        }
    }

    /** Deletes what was staged of a take, once nobody writes it any more. */
    public static function forget(int $take): void
    {
        RowSink::waitForOthers($take);
        StagedRows::forget($take);
        ColumnValues::forget($take);
        (new KeyFiles($take))->forget();
        Finding::query()->where('take_id', $take)->delete();
    }

    private function read(Take $take, Extract $extract): void
    {
        // Looking for circles among millions of short-lived rows takes as long as reading them, and there are none.
        gc_disable();
        try {
            $this->stage($take, $extract);
        } finally {
            gc_enable();
        }
    }

    private function stage(Take $take, Extract $extract): void
    {
        $this->prepare($take, $extract);
        $number = 0;
        $table = $this->open($take, $extract->settings(), $number);
        $columns = $table->columns();
        Limits::now()->refuseWide($columns->count());
        $sink = new RowSink(
            $take->id,
            TableProfile::of($columns),
            fn (int $rows, int $bytes) => $this->goOn($take, ['rows' => $rows, 'staged_bytes' => $bytes]),
            (int) config('baggage.rows_per_write'),
            Limits::now(),
        );
        try {
            $hash = $this->pour($table, $sink, $take->file === '' ? hash_init('sha256') : null, $number);
            // While the helpers still work on the last rows.
            $checksum = $hash ?? (string) hash_file('sha256', $take->file);
            $profile = $sink->finish($number);
        } catch (\Throwable $e) {
            $sink->abandon();
            throw $e;
        }
        if ($number === 0 && ! $extract->allow_empty) {
            $format = $extract->settings()->format;
            throw $format instanceof DelimitedFormat || $format instanceof WorkbookFormat
                ? ReadingError::nothingBelowHeader()
                : ReadingError::noRows();
        }
        $this->keep($take, $extract, $table, $profile, $number, $checksum);
    }

    /** @param  int  $number  rows read so far, as the caller counts them on */
    private function open(Take $take, ReaderSettings $settings, int &$number): Table
    {
        $last = 0.0;
        $progress = function (int $bytes) use ($take, &$last, &$number) {
            if (microtime(true) - $last > 0.5) {
                $last = microtime(true);
                $this->goOn($take, ['bytes_read' => min($bytes, $take->bytes), 'rows' => $number]);
            }
        };

        return $settings->format instanceof FeedFormat
            ? FeedTable::of($settings->format, $take)
            : (new TableOpener)->open($settings, $take, $progress);
    }

    /**
     * @param  \HashContext|null  $hash  of the rows, where there is no file to take one of
     * @return string|null that hash
     */
    private function pour(Table $table, RowSink $sink, ?\HashContext $hash, int &$number): ?string
    {
        foreach ($table->rows() as $row) {
            $number++;
            $json = json_encode($row->cells, StagedRows::JSON | JSON_THROW_ON_ERROR);
            if ($hash !== null) {
                hash_update($hash, $json);
            }
            $sink->add($number, $row->line, $row->cells, $json);
        }

        return $hash === null ? null : hash_final($hash);
    }

    private function keep(
        Take $take,
        Extract $extract,
        Table $table,
        Profiled $profile,
        int $number,
        string $checksum,
    ): void {
        $columns = $table->columns();
        $facts = $profile->facts;
        $remarks = (new FindingWalk($take))->complete(
            [...$table->remarks(), ...$this->roundCount($number), ...$profile->remarks],
            $facts,
        );
        [$last, $now] = RowNumbers::keep($take, $extract, $columns, $number);
        $remarks = array_map(fn (Remark $r) => $r->inLines ? $r : new Remark(
            $r->code, $r->message, $r->count, $now($r->rows), $r->column,
        ), $remarks);
        DB::transaction(function () use ($take, $extract, $columns, $profile, $facts, $table, $number, $remarks, $checksum, $last) {
            $this->keepValues($take->id, $profile->values);
            $this->keepFindings($take, $extract, $columns, $remarks);
            $take->update([
                'state' => TakeState::Frozen,
                'rows' => $number,
                'last_row' => $last,
                'source_rows' => $table->sourceRows() ?? $number,
                'counted_by' => $table->sourceRows() === null ? null : $table->countedBy(),
                'bytes_read' => $take->bytes,
                'checksum' => $checksum,
                'reader' => $extract->settings()->toArray(),
                'taken_at' => now(),
                'columns' => $columns->toArray(),
                'profile' => array_map(fn (ColumnFacts $f) => $f->toArray(), $facts),
            ]);
            $extract->update(['columns' => $columns->toArray(), 'take_id' => $take->id]);
        });
    }

    /** @return list<Remark> */
    private function roundCount(int $rows): array
    {
        return in_array($rows, self::ROUND, true)
            ? [
                new Remark(
                    'round_count',
                    'Exactly '.number_format($rows)
                        .' rows: many programs stop an export at such a number. Compare it with the source\'s own count.',
                ),
            ]
            : [];
    }

    /** @param  list<array<array-key, int>>  $values  by position of their column */
    private function keepValues(int $take, array $values): void
    {
        $lines = '';
        $n = 0;
        foreach ($values as $position => $of) {
            foreach ($of as $value => $count) {
                $lines .= ColumnValues::line($take, $position, (string) $value, $count);
                $n++;
            }
        }
        ColumnValues::write($lines, $n);
    }

    /** @param  list<Remark>  $remarks */
    private function keepFindings(Take $take, Extract $extract, Columns $columns, array $remarks): void
    {
        $rows = [];
        foreach ($remarks as $r) {
            $header = $r->column === null ? null : $columns->all[$r->column]->header;
            $old = $extract->decisionOn($r->code, $header);
            // What was accepted or has a rule stays so in every take; what was to be fixed at source is there again, so it is open.
            $kept = $old !== null && $old['is'] !== FindingDecision::AtSource->value;
            $rows[] = [
                'extract_id' => $extract->id,
                'take_id' => $take->id,
                'code' => $r->code,
                'position' => $r->column,
                'header' => $header,
                'n' => $r->count,
                'message' => $r->message,
                'rows' => json_encode($r->rows),
                'decision' => $kept ? $old['is'] : FindingDecision::Open->value,
                'note' => $kept || $old === null
                        ? $old['note'] ?? null
                        : trim(
                            "Was to be fixed at source, and is in take $take->number again. ".($old['note'] ?? ''),
                        ),
                'user_id' => $kept ? $old['by'] ?? null : null,
                'created_at' => now(),
                'updated_at' => now(),
            ];
        }
        foreach (array_chunk($rows, 200) as $chunk) {
            DB::table('findings')->insert($chunk);
        }
    }
}
