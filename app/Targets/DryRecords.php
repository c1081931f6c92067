<?php

namespace App\Targets;

use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Fold;
use Illuminate\Support\Facades\DB;

/** What a dry run would have left in a target: its records, and who has the values that must be unique. Kept in tables of our own. */
final class DryRecords
{
    /** @var array<string, array<string, array<string, string|null>>> entity → target key → record: of the stretch that is not kept yet */
    private array $records = [];

    /** @var array<string, array<string, list<string|null>>> hash in hexadecimal → target key → values, of the same */
    private array $values = [];

    /** @param  list<string>  $changed  entities whose records others of the run may change: theirs are kept whole */
    public function __construct(private readonly int $run, private readonly array $changed)
    {
    }

    /** @param  array<string, string|null>  $record  the whole of it */
    public function put(Entity $entity, string $key, array $record, bool $isNew): void
    {
        if (! $isNew || in_array($entity->name, $this->changed, true)) {
            $this->records[$entity->name][$key] = $record;
        }
        foreach ($entity->uniques as $fields) {
            $hash = self::hash($entity, $fields, $record);
            if ($hash !== null) {
                $this->values[bin2hex($hash)][$key] = array_map(fn (string $f) => $record[$f] ?? null, $fields);
            }
        }
    }

    /**
     * @param  list<string>  $keys  target keys
     * @return array<array-key, array<string, string|null>> those the run made or changed
     */
    public function records(Entity $entity, array $keys): array
    {
        $found = array_intersect_key($this->records[$entity->name] ?? [], array_flip($keys));
        $rest = array_values(array_diff($keys, array_map(strval(...), array_keys($found))));
        $kept = $rest === [] ? [] : DB::table('dry_records')
            ->where('dry_run_id', $this->run)
            ->where('entity', $entity->name)
            ->whereIn('target_key', $rest)
            ->pluck('values', 'target_key')
            ->map(fn (string $json) => (array) json_decode($json, true))
            ->all();

        return $found + $kept;
    }

    /**
     * Records of the run whose values of a unique key could be the same as those of others.
     *
     * @param  list<string>  $fields
     * @param  array<int, array<string, string|null>>  $records  by row
     * @return array<int, array<array-key, list<string|null>>> row → target key → their values
     */
    public function alike(Entity $entity, array $fields, array $records): array
    {
        $hashes = array_filter(array_map(fn (array $r) => self::hash($entity, $fields, $r), $records), fn (?string $h) => $h !== null);
        $kept = [];
        foreach (array_chunk(array_values(array_unique($hashes)), 2000) as $some) {
            foreach (DB::table('dry_values')->where('dry_run_id', $this->run)->whereIn('hash', $some)->get() as $line) {
                $kept[bin2hex($line->hash)][$line->target_key] = (array) json_decode($line->values, true);
            }
        }

        return array_filter(
            array_map(fn (string $h) => ($this->values[bin2hex($h)] ?? []) + ($kept[bin2hex($h)] ?? []), $hashes),
        );
    }

    /** What the stretch left is kept. */
    public function keep(): void
    {
        $records = $values = [];
        foreach ($this->records as $entity => $of) {
            foreach ($of as $key => $record) {
                $records[] = ['dry_run_id' => $this->run, 'entity' => $entity, 'target_key' => $key, 'values' => self::json($record)];
            }
        }
        foreach ($this->values as $hash => $of) {
            foreach ($of as $key => $value) {
                $values[] = [
                    'dry_run_id' => $this->run, 'hash' => hex2bin($hash), 'target_key' => $key, 'values' => self::json($value),
                ];
            }
        }
        foreach (array_chunk($records, 500) as $some) {
            DB::table('dry_records')->upsert($some, ['dry_run_id', 'entity', 'target_key'], ['values']);
        }
        foreach (array_chunk($values, 1000) as $some) {
            DB::table('dry_values')->upsert($some, ['dry_run_id', 'hash', 'target_key'], ['values']);
        }
        $this->drop();
    }

    public function drop(): void
    {
        $this->records = $this->values = [];
    }

    public static function forget(int $run): void
    {
        foreach (['dry_records', 'dry_values'] as $table) {
            do {
                $n = DB::table($table)->where('dry_run_id', $run)->limit(20_000)->delete();
            } while ($n === 20_000);
        }
    }

    /**
     * Equal for values that any target could take for the same, and for some that it would not.
     *
     * @param  list<string>  $fields
     * @param  array<string, string|null>  $record
     */
    private static function hash(Entity $entity, array $fields, array $record): ?string
    {
        $parts = [$entity->name, ...$fields];
        foreach ($fields as $field) {
            if (! isset($record[$field])) {
                return null;
            }
            $parts[] = Fold::of($record[$field]);
        }

        return hash('xxh128', implode("\x1F", $parts), true);
    }

    /** @param  array<array-key, string|null>  $of */
    private static function json(array $of): string
    {
        return json_encode($of, JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES | JSON_INVALID_UTF8_SUBSTITUTE | JSON_THROW_ON_ERROR);
    }
}
