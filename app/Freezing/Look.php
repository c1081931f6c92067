<?php

namespace App\Freezing;

use App\Models\Connection;
use App\Reading\Database\DatabaseLink;
use App\Reading\Part;
use App\Reading\Parts;
use App\Reading\TableOpener;
use App\Support\Apart;
use App\Support\ApartEnded;
use App\Support\Bounds;
use Baggage\Core\Feeds\Formats;
use Baggage\Core\Reading\Columns;
use Baggage\Core\Reading\Limits;
use Baggage\Core\Reading\ReaderSettings;
use Baggage\Core\Reading\ReadingError;
use Baggage\Core\Reading\Table;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\Cache;
use Illuminate\Support\Facades\RateLimiter;

/**
 * Looks into foreign bytes for a page: in a process of its own, and for no longer than a page may wait in all. What takes longer is
 * looked at by a worker, and kept until the page asks for it again.
 *
 * @phpstan-type Seen array{columns: Columns|null, rows: list<array{int, list<string|null>}>, error: string|null}
 */
final class Look
{
    /** Seconds what a worker saw is kept for the page, and after which it is asked anew where the worker says nothing. */
    private const KEPT = 600;

    /** Seconds below which it is not worth beginning. */
    private const LEAST = 0.5;

    /** Long looks of one person within so many seconds. */
    private const AT_ONCE = 6;

    private const WITHIN = 300;

    /** Of the request: seconds it has waited so far. */
    private const WAITED = 'look.waited';

    /**
     * @return non-empty-list<Part>
     *
     * @throws ReadingError|LookGoing
     */
    public function parts(string $path, string $name): array
    {
        return array_map(Part::fromArray(...), $this->ask('parts', ['path' => $path, 'name' => $name]));
    }

    /**
     * Line and cells of the first rows of a file.
     *
     * @return Seen
     *
     * @throws LookGoing
     */
    public function rows(ReaderSettings $settings, string $path, int $count): array
    {
        return $this->seen('rows', ['path' => $path, 'settings' => $settings->toArray(), 'count' => $count]);
    }

    /**
     * The first rows of what a connection reaches.
     *
     * @return Seen
     *
     * @throws LookGoing
     */
    public function through(Connection $connection, ReaderSettings $settings, int $count): array
    {
        return $this->seen('through', ['connection' => $connection->id, 'settings' => $settings->toArray(), 'count' => $count]);
    }

    /**
     * @return list<array{name: string, schema: string, view: bool}>
     *
     * @throws ReadingError|LookGoing
     */
    public function tables(Connection $connection): array
    {
        return $this->ask('tables', ['connection' => $connection->id]);
    }

    /**
     * What is done, in whatever process.
     *
     * @param  array<string, mixed>  $given
     * @return array<string, mixed> "is", or "refused" with why; can be written as JSON
     */
    public static function done(string $what, array $given): array
    {
        try {
            return ['is' => match ($what) {
                'parts' => array_map(fn (Part $part) => $part->toArray(), Parts::of($given['path'], $given['name'])),
                'rows' => self::first(
                    fn () => (new TableOpener)->open(Formats::settings($given['settings']), $given['path'], null, true),
                    $given['count'],
                ),
                'through' => self::first(
                    fn () => (new TableOpener)->through(
                        Connection::query()->findOrFail($given['connection']),
                        Formats::settings($given['settings']),
                        null,
                        $given['count'],
                    ),
                    $given['count'],
                ),
                'tables' => self::listed(DatabaseLink::to(
                    Connection::query()->findOrFail($given['connection']),
                    (int) config('baggage.statement.look'),
                )),
                default => throw new \LogicException("Nothing looks for $what."),
            }];
        } catch (ReadingError $e) {
            return ['refused' => $e->getMessage()];
        }
    }

    /**
     * In a process of its own.
     *
     * @param  array<string, mixed>  $given
     * @return array<string, mixed> as done()
     *
     * @throws ApartEnded
     */
    public static function apart(string $what, array $given, Bounds $bounds): array
    {
        $answer = Apart::run(['baggage:look', $what], json_encode($given, JSON_THROW_ON_ERROR), $bounds);

        return json_decode($answer, true, 512, JSON_THROW_ON_ERROR);
    }

    /** @param  array<string, mixed>|null  $answer  as done(); null while a worker looks */
    public static function keep(string $key, ?array $answer): void
    {
        Cache::put("look:$key", ['answer' => $answer], self::KEPT);
    }

    /**
     * @param  array<string, mixed>  $given
     *
     * @throws ReadingError|LookGoing
     */
    private function ask(string $what, array $given): mixed
    {
        $answer = config('baggage.apart.on') ? $this->known($what, $given) : self::done($what, $given);

        return $answer['is'] ?? throw ReadingError::broken((string) $answer['refused']);
    }

    /**
     * @param  array<string, mixed>  $given
     * @return array<string, mixed> as done()
     *
     * @throws LookGoing
     */
    private function known(string $what, array $given): array
    {
        $key = hash('sha256', $what.json_encode($given, JSON_THROW_ON_ERROR));
        $kept = Cache::get("look:$key");
        if ($kept !== null) {
            // What a connection reaches is another thing the next time.
            $kept['answer'] !== null && isset($given['connection']) ? Cache::forget("look:$key") : null;

            return $kept['answer'] ?? throw LookGoing::on();
        }
        $bounds = Bounds::of('look');
        $waited = (float) request()->attributes->get(self::WAITED, 0);
        $left = (float) $bounds->seconds - $waited;
        $began = microtime(true);
        try {
            return $left < self::LEAST
                ? throw ApartEnded::slow(0)
                : self::apart($what, $given, new Bounds($left, $bounds->memory, $bounds->answer));
        } catch (ApartEnded $e) {
            if (! $e->isSlow) {
                return ['refused' => $e->getMessage()];
            }
            // What was not begun may be quick, and is not counted.
            $isCounted = $left >= self::LEAST;
            if ($isCounted && ! RateLimiter::attempt('looks:'.Auth::id(), self::AT_ONCE, fn () => true, self::WITHIN)) {
                return ['refused' => 'A worker looks at several things for you already, and each takes long. Wait a few minutes.'];
            }
            self::keep($key, null);
            LookLonger::ask($key, $what, $given);
            throw LookGoing::on();
        } finally {
            request()->attributes->set(self::WAITED, $waited + microtime(true) - $began);
        }
    }

    /**
     * @param  array<string, mixed>  $given
     * @return Seen
     *
     * @throws LookGoing
     */
    private function seen(string $what, array $given): array
    {
        try {
            $is = $this->ask($what, $given);
        } catch (ReadingError $e) {
            return ['columns' => null, 'rows' => [], 'error' => $e->getMessage()];
        }
        $columns = $is['columns'] === null ? null : Columns::fromArray($is['columns'], $is['remarks']);

        return ['columns' => $columns, 'rows' => $is['rows'], 'error' => $is['error']];
    }

    /**
     * @param  \Closure(): Table  $open
     * @return array<string, mixed>
     */
    private static function first(\Closure $open, int $count): array
    {
        [$columns, $rows, $error] = [null, [], null];
        try {
            $table = $open();
            $columns = $table->columns();
            Limits::now()->refuseWide($columns->count());
            foreach ($table->rows() as $row) {
                self::refuseLarge($row->cells, count($rows) + 1);
                $rows[] = [$row->line, $row->cells];
                if (count($rows) === $count) {
                    break;
                }
            }
        } catch (ReadingError $e) {
            $error = $e->getMessage();
        }

        return ['columns' => $columns?->toArray(), 'remarks' => $columns->remarks ?? [], 'rows' => $rows, 'error' => $error];
    }

    /**
     * @param  list<string|null>  $cells
     *
     * @throws ReadingError
     */
    private static function refuseLarge(array $cells, int $row): void
    {
        $most = Limits::now()->cell;
        foreach ($cells as $column => $cell) {
            if (strlen((string) $cell) > $most) {
                throw ReadingError::largeCell($row, $column + 1, $most);
            }
        }
    }

    /** @return list<array{name: string, schema: string, view: bool}> */
    private static function listed(DatabaseLink $link): array
    {
        return $link->driver === 'odbc' ? [] : $link->tables();
    }
}
