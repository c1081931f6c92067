<?php

namespace App\Reading;

use App\Models\Connection;
use App\Models\Extract;
use App\Models\Take;
use App\Reading\Database\DatabaseLink;
use App\Reading\Database\QueryTable;
use App\Reading\Http\HttpPages;
use Baggage\Core\Reading\Columns;
use Baggage\Core\Reading\Dbase\DbaseFormat;
use Baggage\Core\Reading\Dbase\DbaseTable;
use Baggage\Core\Reading\DelimitedFormat;
use Baggage\Core\Reading\DelimitedReader;
use Baggage\Core\Reading\FixedWidth\FixedWidthFormat;
use Baggage\Core\Reading\FixedWidth\FixedWidthReader;
use Baggage\Core\Reading\Http\HttpFormat;
use Baggage\Core\Reading\Nested\FirstRecords;
use Baggage\Core\Reading\Nested\JsonFormat;
use Baggage\Core\Reading\Nested\JsonRecords;
use Baggage\Core\Reading\Nested\NestedTable;
use Baggage\Core\Reading\Nested\Records;
use Baggage\Core\Reading\Nested\XmlFormat;
use Baggage\Core\Reading\Nested\XmlRecords;
use Baggage\Core\Reading\Query\QueryFormat;
use Baggage\Core\Reading\ReaderSettings;
use Baggage\Core\Reading\ReadingError;
use Baggage\Core\Reading\Table;
use Baggage\Core\Reading\Workbook\Workbook;
use Baggage\Core\Reading\Workbook\WorkbookFormat;

/** Opens a file as the table its reader's settings describe. */
final class TableOpener
{
    /** Records looked at to learn the columns of a preview. */
    private const FIRST = 200;

    /** Unpacked copies of archive members that have to be read out of order; removed with this object. */
    private ?string $unpacked = null;

    /** @throws ReadingError */
    private static function refuseMissing(string $path): void
    {
        if (! is_file($path)) {
            throw ReadingError::broken('The file is not there any more, or may not be read.');
        }
        if (filesize($path) === 0) {
            throw ReadingError::empty();
        }
    }

    /**
     * @param  Take|string  $from  a take, or the path of a file
     * @param  \Closure(int): void|null  $progress  told how many bytes have been read so far
     * @param  bool  $preview  whether only the first rows are wanted, at once
     *
     * @throws ReadingError
     */
    public function open(
        ReaderSettings $settings,
        Take|string $from,
        ?\Closure $progress = null,
        bool $preview = false,
    ): Table {
        $path = $from instanceof Take ? $from->file : $from;
        if ($settings->connection() !== null) {
            return $from instanceof Take
                ? $this->through(
                    self::connection($from->extract()->firstOrFail(), $settings->connection()),
                    $settings,
                    $from,
                )
                : throw ReadingError::broken('A connection belongs to a source, not to a file.');
        }
        self::refuseMissing($path);
        $format = $settings->format;
        $bytes = fn (): iterable => $this->bytes($settings, $path, $progress);

        return match (true) {
            $format instanceof DelimitedFormat => (new DelimitedReader($format, $settings->layout))->table($bytes()),
            $format instanceof FixedWidthFormat => (new FixedWidthReader($format, $settings->layout))->table($bytes()),
            $format instanceof DbaseFormat => DbaseTable::of($format, $bytes()),
            $format instanceof JsonFormat => self::nested(new JsonRecords($format, $bytes), $format, $preview),
            $format instanceof XmlFormat => self::nested(new XmlRecords($format, $bytes), $format, $preview),
            $format instanceof QueryFormat => new QueryTable(
                DatabaseLink::file($settings->member === null ? $path : $this->unpack($path, $settings->member)),
                $format,
                self::parameters($format, $from instanceof Take ? $from : null),
                $preview ? self::FIRST : null,
            ),
            $format instanceof WorkbookFormat => $this->workbook($format, $settings, $path, $preview),
            default => throw ReadingError::broken('Nothing here reads '.$format->describe().'.'),
        };
    }

    /** Opens what a connection of the source reaches; with $first only so many rows, for a preview. */
    public function through(Connection $connection, ReaderSettings $settings, ?Take $take, ?int $first = null): Table
    {
        $format = $settings->format;
        if ($format instanceof HttpFormat) {
            $pages = new HttpPages($connection, $format, $first === null ? null : 1);

            return new NestedTable(
                $first === null ? $pages : new FirstRecords($pages, $first),
                $format->list,
                $format->carry,
            );
        }
        if (! ($format instanceof QueryFormat)) {
            throw ReadingError::broken('A connection gives tables, SELECTs or the answers of a service.');
        }

        $seconds = (int) config('baggage.statement.'.($first === null ? 'freeze' : 'look'));

        return new QueryTable(DatabaseLink::to($connection, $seconds), $format, self::parameters($format, $take), $first);
    }

    private static function connection(Extract $extract, string $name): Connection
    {
        return Connection::query()->where('source_id', $extract->source_id)->where('name', $name)->first()
            ?? throw ReadingError::broken("The source has no connection named \"$name\".");
    }

    /** @return array<string, string> what the query's parameters are for this take, kept with it */
    private static function parameters(QueryFormat $format, ?Take $take): array
    {
        $last = $take?->extract()->first()?->take;
        $values = [];
        foreach ($format->parameters as $name => $parameter) {
            $at = $last === null || $parameter->column === ''
                ? null
                : Columns::fromArray($last->columns ?? [])->find($parameter->column)?->position;
            $values[$name] = $parameter->resolve(
                new \DateTimeImmutable('now', new \DateTimeZone('UTC')),
                $at === null ? null : $last?->profile[$at]['largest'] ?? null,
            );
        }
        if ($values !== []) {
            $take?->update(['parameters' => $values]);
        }

        return $values;
    }

    private static function nested(Records $records, JsonFormat|XmlFormat $format, bool $preview): Table
    {
        return new NestedTable(
            $preview ? new FirstRecords($records, self::FIRST) : $records,
            $format->list,
            $format->carry,
        );
    }

    private function workbook(WorkbookFormat $format, ReaderSettings $settings, string $path, bool $preview): Table
    {
        $file = $settings->member === null ? $path : $this->unpack($path, $settings->member);

        return self::isXlsx($file)
            ? Workbook::of(ZipMembers::of($file))->table($format, $settings->layout)
            : SpreadsheetTable::of($file, $format, $settings->layout, $preview);
    }

    public static function isXlsx(string $path): bool
    {
        $start = (string) file_get_contents($path, false, null, 0, 4);

        return $start === "PK\x03\x04"
            && array_filter(ZipMembers::of($path)->names(), fn ($n) => $n === '[Content_Types].xml') !== [];
    }

    /** @return iterable<string> */
    private function bytes(ReaderSettings $settings, string $path, ?\Closure $progress): iterable
    {
        $read = 0;
        foreach (
            $settings->member === null
                ? (new FileChunks($path))->chunks()
                : ZipMembers::of($path)->chunks($settings->member) as $chunk
        ) {
            $read += strlen($chunk);
            if ($progress !== null) {
                $progress($read);
            }
            yield $chunk;
        }
        if ($read === 0) {
            throw ReadingError::empty();
        }
    }

    /** @return string path of the unpacked copy */
    public function unpack(string $path, string $member): string
    {
        if ($this->unpacked === null) {
            $copy = tempnam(sys_get_temp_dir(), 'baggage')
                ?: throw ReadingError::broken('The temporary folder cannot be written: is the disk full?');
            $file = fopen($copy, 'wb')
                ?: throw ReadingError::broken('The temporary folder cannot be written: is the disk full?');
            foreach (ZipMembers::of($path)->chunks($member) as $chunk) {
                if (fwrite($file, $chunk) !== strlen($chunk)) {
                    throw ReadingError::broken('The temporary folder cannot be written: is the disk full?');
                }
            }
            fclose($file);
            $this->unpacked = $copy;
        }

        return $this->unpacked;
    }

    public function __destruct()
    {
        if ($this->unpacked !== null) {
            @unlink($this->unpacked);
        }
    }
}
