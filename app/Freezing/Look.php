<?php

namespace App\Freezing;

use App\Looking\Looker;
use App\Looking\LookGoing;
use App\Looking\Looks;
use App\Models\Connection;
use App\Reading\Database\DatabaseLink;
use App\Reading\Part;
use App\Reading\Parts;
use App\Reading\TableOpener;
use App\Support\Plain;
use Baggage\Core\Feeds\Formats;
use Baggage\Core\Reading\Columns;
use Baggage\Core\Reading\Limits;
use Baggage\Core\Reading\ReaderSettings;
use Baggage\Core\Reading\ReadingError;
use Baggage\Core\Reading\Table;

/**
 * Looks into files and through connections of sources for a page.
 *
 * @phpstan-type Seen array{columns: Columns|null, rows: list<array{int, list<string|null>}>, error: string|null}
 */
final class Look implements Looker
{
    /**
     * @return non-empty-list<Part>
     *
     * @throws ReadingError|LookGoing
     */
    public function parts(string $path, string $name): array
    {
        return array_map(Part::fromArray(...), Looks::ask(self::class, ['what' => 'parts', 'path' => $path, 'name' => $name]));
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
        return $this->seen(['what' => 'rows', 'path' => $path, 'settings' => $settings->toArray(), 'count' => $count]);
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
        return $this->seen(['what' => 'through', 'connection' => $connection->id, 'settings' => $settings->toArray(), 'count' => $count]);
    }

    /**
     * @return list<array{name: string, schema: string, view: bool}>
     *
     * @throws ReadingError|LookGoing
     */
    public function tables(Connection $connection): array
    {
        return Looks::ask(self::class, ['what' => 'tables', 'connection' => $connection->id]);
    }

    public static function look(array $given): mixed
    {
        return match ($given['what']) {
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
            default => throw new \LogicException("Nothing looks for $given[what]."),
        };
    }

    /**
     * @param  array<string, mixed>  $given
     * @return Seen
     *
     * @throws LookGoing
     */
    private function seen(array $given): array
    {
        try {
            $is = Looks::ask(self::class, $given);
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
            $error = Plain::said($e->getMessage());
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
