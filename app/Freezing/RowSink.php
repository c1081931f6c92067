<?php

namespace App\Freezing;

use App\Staging\KeyFiles;
use App\Staging\StagedRows;
use App\Support\BrokenOff;
use App\Support\BulkRows;
use Baggage\Core\Profiling\ColumnFacts;
use Baggage\Core\Profiling\Inference;
use Baggage\Core\Profiling\KeyWatch;
use Baggage\Core\Profiling\Profiled;
use Baggage\Core\Profiling\TableProfile;
use Baggage\Core\Reading\Limits;
use Baggage\Core\Reading\ReadingError;
use Baggage\Core\Reading\Remark;
use Baggage\Core\Reading\RowList;
use Illuminate\Support\Facades\DB;

/**
 * Takes rows as they are read, stages them and profiles their columns. From the second file of rows on both happen in processes of
 * their own while the next rows are read.
 */
final class RowSink
{
    private const PARTS = [Profiled::class, ColumnFacts::class, Inference::class, RowList::class, Remark::class];

    /** Different values kept of a column, and of one with more. */
    private const VALUES_KEPT = [5_000, 200];

    private const BYTES_PER_WRITE = 8_000_000;

    /** Cells of a file of rows: they are in memory all at once while they are profiled. */
    private const CELLS_PER_WRITE = 250_000;

    /** Rows of a file of the widest tables. */
    private const LEAST_PER_WRITE = 50;

    /** Files of rows that may lie ready for a helper. */
    private const READY = 3;

    private string $lines = '';

    private int $bytes = 0;

    /** @var list<list<string|null>> the same rows, while no helper profiles them */
    private array $rows = [];

    private int $first = 1;

    private int $pending = 0;

    private ?Helper $loader = null;

    private ?Helper $profiler = null;

    /** @var list<string> files of rows that no helper has dropped yet, the oldest first */
    private array $files = [];

    private int $dropped = 0;

    private bool $isLong = false;

    private readonly KeyWatch $watch;

    private readonly KeyFiles $keys;

    /**
     * @param  \Closure(int, int): void  $staged  told how many rows and bytes are on their way after each file of them
     * @param  int  $perWrite  rows of a file
     */
    public function __construct(
        private readonly int $take,
        private TableProfile $profile,
        private readonly \Closure $staged,
        private readonly int $perWrite,
        private readonly Limits $limits,
    ) {
        $this->watch = new KeyWatch($profile);
        $this->keys = new KeyFiles($take);
    }

    /**
     * @param  list<string|null>  $cells
     * @param  string  $json  the same cells
     */
    public function add(int $number, int $line, array $cells, string $json): void
    {
        if ($this->profiler === null) {
            $this->rows[] = $cells;
        }
        strlen($json) > $this->limits->cell ? $this->refuseLarge($number, $cells, strlen($json)) : null;
        // Of what LOAD DATA reads escaped, a JSON text holds only backslashes.
        $this->lines
            .= "$this->take\t$number\t$line\t".hash('xxh3', $json)."\t".str_replace('\\', '\\\\', $json)."\n";
        if (++$this->pending === $this->atOnce() || strlen($this->lines) > self::BYTES_PER_WRITE) {
            $this->write($number, true);
        }
    }

    /** @param  list<string|null>  $cells */
    private function refuseLarge(int $number, array $cells, int $bytes): void
    {
        foreach ($cells as $column => $cell) {
            if (strlen((string) $cell) > $this->limits->cell) {
                throw ReadingError::largeCell($number, $column + 1, $this->limits->cell);
            }
        }
        // MEDIUMTEXT holds no more.
        $most = min($this->limits->record, (1 << 24) - 1);
        if ($bytes > $most) {
            $size = Limits::size($most + 1);
            throw ReadingError::broken("Row $number has more than $size of cells, which is more than a row may have.");
        }
    }

    private function atOnce(): int
    {
        $columns = max(1, $this->profile->width());

        return min($this->perWrite, max(self::LEAST_PER_WRITE, intdiv(self::CELLS_PER_WRITE, $columns)));
    }

    /** @param  bool  $more  whether more rows may come */
    private function write(int $number, bool $more): void
    {
        if ($this->pending === 0) {
            return;
        }
        $path = BulkRows::file($this->lines, self::files($this->take));
        $this->bytes += strlen($this->lines);
        $this->files[] = $path;
        if ($this->loader !== null && $this->profiler !== null) {
            $this->profiler->give($path, $this->first, $this->pending);
            $this->loader->give($path, $this->first, $this->pending);
            $this->drop(min($this->loader->wait(self::READY), $this->profiler->wait(self::READY)));
        } else {
            // The rows of a short take are sooner read again than written beside it.
            $this->isLong = $this->isLong || $more;
            self::know($this->profile, $this->isLong ? $this->watch : null, $this->keys, $this->first, $this->rows);
            $this->rows = [];
            self::load(DB::getDefaultConnection(), $path, $this->pending);
            $this->drop($this->dropped + 1);
            if ($more) {
                $this->startHelpers();
            }
        }
        $this->lines = '';
        $this->first = $number + 1;
        $this->pending = 0;
        ($this->staged)($number, $this->bytes);
    }

    private function startHelpers(): void
    {
        $file = fn (): string => BulkRows::file('', self::files($this->take));
        $this->dropped = 0;
        $this->loader = Helper::start(self::loading(self::lock($this->take)), null, $file());
        if ($this->loader === null) {
            return;
        }
        $profile = $this->profile;
        $work = self::profiling($profile, $this->watch, $this->keys);
        $this->profiler = Helper::start($work, fn () => $profile->finish(...self::VALUES_KEPT), $file());
        if ($this->profiler === null) {
            $this->loader->abandon();
            $this->loader = null;
        }
    }

    /** @return \Closure(string, int, int): void loads a file of rows through a connection of its own, under the take's lock */
    private static function loading(string $lock): \Closure
    {
        return function (string $path, int $first, int $rows) use ($lock) {
            static $ready = false;
            if (! $ready) {
                config([
                    'database.connections.helper' => config('database.connections.'.DB::getDefaultConnection()),
                ]);
                DB::connection('helper')->select('SELECT GET_LOCK(?, 60)', [$lock]);
                $ready = true;
            }
            self::load('helper', $path, $rows);
        };
    }

    /** @return \Closure(string, int, int): void */
    private static function profiling(TableProfile $profile, KeyWatch $watch, KeyFiles $keys): \Closure
    {
        return function (string $path, int $first, int $rows) use ($profile, $watch, $keys) {
            gc_disable();
            // What stands before the cells of each row becomes the comma between two rows.
            $cells = preg_replace('/^[^[]++/m', ',', str_replace('\\\\', '\\', (string) file_get_contents($path)));
            self::know($profile, $watch, $keys, $first, json_decode('['.substr((string) $cells, 1).']', true, 8, JSON_THROW_ON_ERROR));
        };
    }

    /** @param  list<list<string|null>>  $rows */
    private static function know(TableProfile $profile, ?KeyWatch $watch, KeyFiles $keys, int $first, array $rows): void
    {
        $profile->add($first, $rows);
        if ($watch !== null) {
            $keys->append($watch->add($rows));
        }
    }

    /** Deletes files of rows that both helpers are done with. */
    private function drop(int $done): void
    {
        while ($this->dropped < $done) {
            unlink((string) array_shift($this->files));
            $this->dropped++;
        }
    }

    private static function load(string $connection, string $path, int $rows): void
    {
        StagedRows::load(DB::connection($connection), $path, $rows);
    }

    /** @return Profiled of all rows, which are staged then */
    public function finish(int $number): Profiled
    {
        $this->write($number, false);
        if ($this->loader === null || $this->profiler === null) {
            return $this->profile->finish(...self::VALUES_KEPT);
        }
        $this->loader->finish();
        $profile = $this->profiler->finish(self::PARTS);
        $this->abandon();

        return $profile instanceof Profiled ? $profile : throw BrokenOff::helper('');
    }

    /** Ends the helpers and deletes what lies ready for them. */
    public function abandon(): void
    {
        $this->loader?->abandon();
        $this->profiler?->abandon();
        foreach ($this->files as $file) {
            @unlink($file);
        }
        $this->files = [];
    }

    /**
     * Waits until no helper of an earlier attempt writes rows of the take any more, however that attempt ended, and
     * deletes what it left.
     */
    public static function waitForOthers(int $take): void
    {
        DB::select('SELECT GET_LOCK(?, 120)', [self::lock($take)]);
        DB::select('SELECT RELEASE_LOCK(?)', [self::lock($take)]);
        BulkRows::sweep(self::files($take));
    }

    /** How the names of files with rows of the take begin. */
    private static function files(int $take): string
    {
        return "take-$take-";
    }

    private static function lock(int $take): string
    {
        return DB::connection()->getDatabaseName().":rows:$take";
    }
}
