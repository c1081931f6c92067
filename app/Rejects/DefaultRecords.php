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
use App\Support\Csv;
use Baggage\Core\Targets\Field;
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
        }
        if (trim($key) === '') {
            throw new \DomainException('The record needs a legacy key of its own, UNKNOWN for instance.');
        }
        [$load, $take] = DB::transaction(function () use ($migration, $entity, $key, $values, $fields) {
            $source = $migration->sources()->firstOrCreate(['code' => self::SOURCE], ['name' => 'Records made here']);
            $extract = $source->extracts()->firstOrCreate(['name' => "default $entity->name"], ['reader' => []]);
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
        $rows = [$values[self::KEY] => $values];
        $before = $extract->take;
        foreach ($before === null ? [] : StagedRows::sample($before->id, self::MOST) as $cells) {
            $row = array_combine($before->headers(), array_pad($cells, count($before->headers()), null));
            $rows += [(string) ($row[self::KEY] ?? '') => $row];
        }
        $text = Csv::line($headers);
        foreach ($rows as $row) {
            $text .= Csv::line(array_map(fn (string $h) => $row[$h] ?? '', $headers));
        }
        $path = config('baggage.vault').'/'.Str::uuid().'.data';
        is_dir(dirname($path)) || mkdir(dirname($path), 0700, true);
        file_put_contents($path, $text);
        chmod($path, 0600);

        return $path;
    }
}
