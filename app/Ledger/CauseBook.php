<?php

namespace App\Ledger;

use Baggage\Core\Crosswalks\LegacyKey;
use Baggage\Core\Rows\Cause;
use Illuminate\Support\Facades\DB;

/** Gives every cause of a load in a round its number. */
final class CauseBook
{
    private const KEPT = 20_000;

    /** Workers may be in each other's way. */
    private const TRIES = 5;

    /** @var array<string, int> hash → id */
    private array $ids = [];

    public function __construct(private readonly int $lane, private readonly int $load, private readonly Spaces $spaces)
    {
    }

    /**
     * @param  list<Cause>  $causes
     * @return array<string, int> hash → id
     */
    public function ids(array $causes): array
    {
        $all = [];
        foreach ($causes as $cause) {
            $all[self::hash($cause)] = $cause;
        }
        if (count($this->ids) > self::KEPT) {
            $this->ids = [];
        }
        // All workers in one order, so that two who meet the same causes at the same moment wait for each other one way.
        ksort($all);
        foreach (array_chunk(array_diff_key($all, $this->ids), 500, true) as $chunk) {
            $rows = [];
            foreach ($chunk as $hash => $cause) {
                $rows[] = $this->line($cause) + ['hash' => $hash];
            }
            DB::transaction(fn () => DB::table('causes')->insertOrIgnore($rows), self::TRIES);
            $this->ids += DB::table('causes')
                ->where('lane_id', $this->lane)
                ->where('load_id', $this->load)
                ->whereIn('hash', array_map(strval(...), array_keys($chunk)))
                ->pluck('id', 'hash')
                ->all();
        }

        return $this->ids;
    }

    /** @return array<string, int|string|null> */
    private function line(Cause $cause): array
    {
        return [
            'lane_id' => $this->lane,
            'load_id' => $this->load,
            'stage' => $cause->stage->value,
            'code' => $cause->code,
            'field' => $cause->field,
            'value' => self::shown($cause),
            'waive_hash' => $cause->decided(),
            'alike' => self::alike($this->load, $cause->stage->value, $cause->code, $cause->field),
            'message' => mb_substr($cause->message, 0, 500),
            'parent_entity' => $cause->parentEntity,
            'parent_space' => $cause->parentSpace,
            'parent_space_id' => $cause->parentEntity === null
                ? null
                : $this->spaces->find($cause->parentEntity, (string) $cause->parentSpace),
            'parent_key' => $cause->parentEntity === null ? null : $cause->value,
        ];
    }

    /** The offending value as it is kept. */
    public static function shown(Cause $cause): ?string
    {
        return $cause->value === null ? null : mb_substr(LegacyKey::show($cause->value), 0, 250);
    }

    /** A number that causes of one load, stage, code and field share. */
    public static function alike(int $load, string $stage, string $code, ?string $field): int
    {
        // Fifteen digits of sixteen: they fit into PHP's integers.
        return (int) hexdec(substr(md5("$load~$stage~$code~$field"), 0, 15));
    }

    public static function hash(Cause $cause): string
    {
        return hash('xxh128', $cause->identity());
    }
}
