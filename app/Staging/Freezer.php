<?php

namespace App\Staging;

use App\Models\Extract;
use App\Models\Take;
use App\Support\BulkRows;
use Baggage\Core\Profiling\ColumnTally;
use Baggage\Core\Reading\Columns;
use Baggage\Core\Reading\DelimitedReader;
use Baggage\Core\Reading\ReadingError;
use Illuminate\Support\Facades\DB;

/** Reads a file into staged rows, all or nothing, and makes it the extract's take. */
final class Freezer
{
    private const ROWS_PER_WRITE = 20_000;

    private const BYTES_PER_WRITE = 8_000_000;

    public function freeze(Take $take): void
    {
        $extract = $take->extract()->firstOrFail();
        $db = DB::connection();
        DB::table('staged_rows')->where('take_id', $take->id)->delete();
        $take->update(['state' => 'reading', 'error' => null, 'bytes_read' => 0]);
        try {
            $this->read($take, $extract);
        } catch (\Throwable $e) {
            // Nothing half frozen stays behind; the extract keeps the take it had.
            DB::table('staged_rows')->where('take_id', $take->id)->delete();
            DB::table('column_values')->where('take_id', $take->id)->delete();
            $take->update(['state' => 'failed', 'error' => $e->getMessage(), 'rows' => null]);
            if (! $e instanceof ReadingError) {
                throw $e;
            }
        }
    }

    private function read(Take $take, Extract $extract): void
    {
        $format = $extract->format();
        $file = new FileChunks($take->file);
        $reader = new DelimitedReader($format);
        $columns = null;
        /** @var list<ColumnTally> $tallies */
        $tallies = [];
        $lines = '';
        $pending = $number = $ragged = 0;
        if (! is_file($take->file) || filesize($take->file) === 0) {
            throw ReadingError::empty();
        }
        foreach ($reader->rows($file->chunks()) as $row) {
            if ($columns === null) {
                $columns = $format->header ? Columns::fromHeaders($row->cells) : Columns::numbered(count($row->cells));
                $limit = (int) config('baggage.column_limit');
                if ($columns->count() > $limit) {
                    throw ReadingError::tooWide($columns->count(), $limit);
                }
                for ($i = 0; $i < $columns->count(); $i++) {
                    $tallies[] = new ColumnTally;
                }
                if ($format->header) {
                    continue;
                }
            }
            $number++;
            if (count($row->cells) !== count($tallies)) {
                $ragged++;
            }
            foreach ($tallies as $i => $tally) {
                $tally->add($row->cells[$i] ?? null);
            }
            $cells = json_encode($row->cells, JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES | JSON_THROW_ON_ERROR);
            $lines .= BulkRows::line([$take->id, $number, $row->line, hash('xxh3', $cells), $cells]);
            if (++$pending === self::ROWS_PER_WRITE || strlen($lines) > self::BYTES_PER_WRITE) {
                $this->write($lines, $pending);
                $lines = '';
                $pending = 0;
                $take->update(['bytes_read' => $file->read, 'rows' => $number]);
            }
        }
        $this->write($lines, $pending);
        if ($columns === null) {
            throw $format->skip > 0 ? ReadingError::skipsAll($format->skip) : ReadingError::empty();
        }
        if ($number === 0) {
            throw ReadingError::nothingBelowHeader();
        }
        $remarks = $columns->remarks;
        if ($ragged > 0) {
            $remarks[] = number_format($ragged).' rows have more or fewer cells than the header; they are kept as read'
                .($format->padShort ? ', short ones are filled up with blanks when they load.' : ' and rejected when they load.');
        }
        if (! $reader->endsInLineBreak()) {
            $remarks[] = 'The last line does not end in a line break: compare it with the source, it may be cut off.';
        }
        if (in_array($number, [100, 500, 1000, 5000, 10000, 65535, 65536, 100000, 1000000, 1048575, 1048576], true)) {
            $remarks[] = 'Exactly '.number_format($number).' rows: many programs stop an export at such a number. Compare it with the source\'s own count.';
        }
        DB::transaction(function () use ($take, $extract, $columns, $tallies, $file, $reader, $number, $remarks) {
            $this->keepValues($take->id, $tallies);
            $take->update([
                'state' => 'frozen', 'rows' => $number, 'source_rows' => $reader->expectedRows(), 'bytes_read' => $file->read,
                'checksum' => $file->checksum(), 'taken_at' => now(), 'remarks' => $remarks,
                'profile' => array_map(fn (ColumnTally $t) => [
                    'filled' => $t->filled, 'distinct' => $t->counts === null ? null : count($t->counts), 'examples' => $t->examples,
                ], $tallies),
            ]);
            $extract->update(['columns' => $columns->toArray(), 'take_id' => $take->id]);
        });
    }

    private function write(string $lines, int $rows): void
    {
        BulkRows::load(DB::connection(), 'staged_rows', '(take_id, row_no, line, @h, cells) SET hash = UNHEX(@h)', $lines, $rows);
    }

    /** @param  list<ColumnTally>  $tallies */
    private function keepValues(int $take, array $tallies): void
    {
        $lines = '';
        $n = 0;
        foreach ($tallies as $position => $tally) {
            foreach ($tally->counts ?? [] as $value => $count) {
                $lines .= BulkRows::line([$take, $position, (string) $value, $count]);
                $n++;
            }
        }
        BulkRows::load(DB::connection(), 'column_values', '(take_id, position, value, n)', $lines, $n);
    }
}
