<?php

namespace App\Rejects;

use App\Freezing\FreezeTake;
use App\Models\Audit;
use App\Models\Entity;
use App\Models\Extract;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Rule;
use App\Staging\StagedRows;
use Baggage\Core\Targets\Field;
use Baggage\Core\Targets\Refusal;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Str;

/**
 * Records that stand in for parents that are nowhere: rows of a small extract of its own with a load of its own, so that they stand in
 * ledger, proof and back-out like all others. Rounds begun afterwards load them.
 */
final class DefaultRecords
{
    public const SOURCE = 'DEF';

    /** Columns of the extract besides the entity's fields. */
    private const KEY = 'key';

    private const MOST = 1_000;

    /**
     * @param  array<string, string>  $values  by field of the entity; blank ones are left out
     *
     * @throws \DomainException
     */
    public static function make(Migration $migration, Entity $entity, string $key, array $values): Load
    {
        $described = $entity->described();
        $fields = $described->writable();
        $values = array_filter(array_intersect_key($values, $fields), fn (string $v) => trim($v) !== '');
        foreach ($fields as $name => $field) {
            if ($field->required && ! isset($values[$name])) {
                throw new \DomainException("$name is required.");
            }
            $taken = isset($values[$name]) && $field->refers === null ? $field->type->accept($values[$name]) : null;
            if ($taken instanceof Refusal) {
                throw new \DomainException("$name: $taken->message.");
            }
        }
        if (trim($key) === '') {
            throw new \DomainException('The record needs a legacy key of its own, UNKNOWN for instance.');
        }
        [$load, $take] = DB::transaction(function () use ($migration, $entity, $key, $values, $fields) {
            $source = $migration->sources()->firstOrCreate(['code' => self::SOURCE], ['name' => 'Records made here']);
            $extract = $source->extracts()->firstOrCreate(['name' => "default $entity->name"], ['reader' => []]);
            // Two who make one at once: the other's stands in the take this one adds to.
            Extract::query()->whereKey($extract->id)->lockForUpdate()->firstOrFail();
            $headers = [self::KEY, ...array_keys($fields)];
            $path = self::written($extract, $headers, [self::KEY => trim($key)] + $values);
            $extract->update(['columns' => array_map(fn (string $h) => ['header' => $h, 'name' => $h], $headers)]);
            $take = $extract->newTake([
                'file' => $path, 'file_name' => "default $entity->name.csv", 'bytes' => (int) filesize($path), 'user_id' => Auth::id(),
            ]);

            return [self::load($migration, $entity, $extract, $fields), $take];
        });
        Audit::note($migration->id, "made a default record of $entity->name", ['key' => $key] + $values);
        FreezeTake::dispatch($take->id);

        return $load;
    }

    /** @param  array<string, Field>  $fields */
    private static function load(Migration $migration, Entity $entity, Extract $extract, array $fields): Load
    {
        $load = $migration->loads()->where('extract_id', $extract->id)->first() ?? $migration->loads()->create([
            'entity_id' => $entity->id,
            'extract_id' => $extract->id,
            'name' => "Default $entity->name",
            'position' => (int) $migration->loads()->max('position') + 1,
            'key_columns' => [self::KEY],
        ]);
        foreach ($fields as $name => $field) {
            // What it refers to is a record the target has: its key there was given.
            Rule::query()->firstOrCreate(['load_id' => $load->id, 'field' => $name], [
                'expression' => $field->refers === null ? "row['$name']" : "record(row['$name'])", 'user_id' => Auth::id(),
            ]);
        }

        return $load;
    }

    /**
     * The rows there are, and the new one; one with the same key is replaced.
     *
     * @param  list<string>  $headers
     * @param  array<string, string>  $values
     * @return string path of the file
     */
    private static function written(Extract $extract, array $headers, array $values): string
    {
        $rows = [$values[self::KEY] => $values] + self::before($extract);
        $path = config('baggage.vault').'/'.Str::uuid().'.data';
        is_dir(dirname($path)) || mkdir(dirname($path), 0700, true);
        $file = fopen($path, 'x') ?: throw new \RuntimeException("$path cannot be written.");
        fputcsv($file, $headers, escape: '', eol: "\r\n");
        foreach ($rows as $row) {
            fputcsv($file, array_map(fn (string $h) => $row[$h] ?? '', $headers), escape: '', eol: "\r\n");
        }
        fclose($file);
        chmod($path, 0600);

        return $path;
    }

    /** @return array<array-key, array<string, string|null>> key → row of the newest take, whether it is frozen by now or not */
    private static function before(Extract $extract): array
    {
        $take = $extract->takes()->latest('number')->first();
        if ($take === null) {
            return [];
        }
        // Somebody may have removed the file since; then its rows are there.
        $lines = is_file($take->file) ? self::lines($take->file) : [$take->headers(), ...StagedRows::sample($take->id, self::MOST)];
        $headers = array_map(strval(...), array_shift($lines) ?? []);
        $rows = [];
        foreach ($lines as $cells) {
            $row = array_combine($headers, array_slice(array_pad($cells, count($headers), null), 0, count($headers)));
            $rows += [(string) ($row[self::KEY] ?? '') => $row];
        }

        return $rows;
    }

    /** @return list<list<string|null>> */
    private static function lines(string $path): array
    {
        $file = fopen($path, 'r') ?: throw new \RuntimeException("$path cannot be read.");
        $lines = [];
        while (($cells = fgetcsv($file, escape: '')) !== false) {
            $lines[] = $cells;
        }
        fclose($file);

        return $lines;
    }
}
