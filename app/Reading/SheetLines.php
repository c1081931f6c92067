<?php

namespace App\Reading;

use App\Looking\Looker;
use App\Looking\LookGoing;
use App\Looking\Looks;
use Baggage\Core\Reading\ReaderSettings;
use Baggage\Core\Reading\ReadingError;
use Baggage\Core\Reading\Table;
use Baggage\Core\Reading\Workbook\WorkbookFormat;

/** Rows of a sheet or a text file by the names in its header, however its columns are ordered. */
final class SheetLines implements Looker
{
    private const MOST = 100_000;

    /**
     * Of several sheets, looked at in a process of its own.
     *
     * @param  non-empty-list<array{string|null, list<string>}>  $sheets  as of() takes them
     * @return non-empty-list<array<int, array<string, string>>> as of() gives them
     *
     * @throws ReadingError|LookGoing
     */
    public static function all(string $path, string $name, array $sheets): array
    {
        return Looks::ask(self::class, ['path' => $path, 'name' => $name, 'sheets' => $sheets]);
    }

    public static function look(array $given): mixed
    {
        return array_map(fn (array $of) => self::of($given['path'], $given['name'], ...$of), $given['sheets']);
    }

    /**
     * @param  string|null  $sheet  null for the first table of the file that has the headers
     * @param  list<string>  $wanted  headers it has to have
     * @return array<int, array<string, string>> row in the sheet → header → value, '' for a blank
     *
     * @throws ReadingError
     */
    public static function of(string $path, string $name, ?string $sheet, array $wanted): array
    {
        $lacking = null;
        foreach (Parts::of($path, $name) as $part) {
            if (
                $part->settings === null
                || ($sheet !== null && ($part->settings->toArray()['sheet'] ?? null) !== $sheet)
            ) {
                continue;
            }
            // The header of our own sheets is their first row.
            $table = (new TableOpener)->open(
                $sheet === null ? $part->settings : new ReaderSettings(new WorkbookFormat($sheet)),
                $path,
            );
            $headers = array_map(fn ($c) => $c->header, $table->columns()->all);
            $missing = array_diff($wanted, $headers);
            if ($missing === []) {
                return self::lines($table, $headers);
            }
            $lacking ??= ReadingError::broken(
                ($sheet === null ? 'The file' : "The sheet \"$sheet\"").' has no column "'
                    .implode('", "', $missing).'". It has '.implode(', ', array_slice($headers, 0, 12)).'.',
            );
        }
        throw $lacking
            ?? ReadingError::broken(
                $sheet === null ? 'There is no table in this file.' : "The workbook has no sheet \"$sheet\".",
            );
    }

    /**
     * @param  list<string>  $headers
     * @return array<int, array<string, string>>
     */
    private static function lines(Table $table, array $headers): array
    {
        $rows = [];
        foreach ($table->rows() as $row) {
            $cells = array_slice(array_pad($row->cells, count($headers), null), 0, count($headers));
            $rows[$row->line] = array_map(fn ($c) => trim((string) $c), array_combine($headers, $cells));
            if (count($rows) > self::MOST) {
                throw ReadingError::broken('There are more than '.number_format(self::MOST).' rows.');
            }
        }

        return $rows;
    }
}
