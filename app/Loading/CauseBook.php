<?php

namespace App\Loading;

use Baggage\Core\Crosswalks\LegacyKey;
use Baggage\Core\Rows\Cause;
use Illuminate\Support\Facades\DB;

/** Gives every cause of a load in a round its number. */
final class CauseBook
{
    private const KEPT = 20_000;

    /** @var array<string, int> fingerprint → id */
    private array $ids = [];

    public function __construct(private readonly int $round, private readonly int $load)
    {
    }

    /**
     * @param  list<Cause>  $causes
     * @return array<string, int> fingerprint → id
     */
    public function ids(array $causes): array
    {
        $new = [];
        foreach ($causes as $cause) {
            $print = self::print($cause);
            if (! isset($this->ids[$print])) {
                $new[$print] = $cause;
            }
        }
        if (count($this->ids) > self::KEPT) {
            $this->ids = [];
            $new = [];
            foreach ($causes as $cause) {
                $new[self::print($cause)] = $cause;
            }
        }
        foreach (array_chunk($new, 500, true) as $chunk) {
            $rows = [];
            foreach ($chunk as $print => $cause) {
                $rows[] = [
                    'round_id' => $this->round,
                    'load_id' => $this->load,
                    'stage' => $cause->stage->value,
                    'code' => $cause->code,
                    'field' => $cause->field,
                    'value' => $cause->value === null ? null : mb_substr(LegacyKey::show($cause->value), 0, 250),
                    'message' => mb_substr($cause->message, 0, 500),
                    'parent_entity' => $cause->parentEntity,
                    'parent_source' => $cause->parentSource,
                    'parent_key' => $cause->parentEntity === null ? null : $cause->value,
                    'fingerprint' => $print,
                ];
            }
            DB::table('causes')->insertOrIgnore($rows);
            $this->ids += DB::table('causes')
                ->where('round_id', $this->round)
                ->where('load_id', $this->load)
                ->whereIn('fingerprint', array_map(strval(...), array_keys($chunk)))
                ->pluck('id', 'fingerprint')
                ->all();
        }

        return $this->ids;
    }

    public static function print(Cause $cause): string
    {
        return hash('xxh128', $cause->fingerprint());
    }
}
