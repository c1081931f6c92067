<?php

namespace App\Ledger;

use App\Support\BulkRows;
use Baggage\Core\Loading\KeyBook;
use Baggage\Core\Loading\KeyState;
use Baggage\Core\Loading\Portion;
use Baggage\Core\Rows\Outcome;
use Illuminate\Support\Facades\DB;

/**
 * Legacy keys of rows a pass has not come to, of loads that are referred to before they are loaded. Kept beside the ledger while the
 * pass lasts, so that such rows are not written there twice.
 */
final readonly class LateKeys implements KeyBook
{
    private const COLUMNS = '(lane_id, space_id, @hash, load_id, item) SET hash = UNHEX(@hash)';

    public function __construct(private LoadRun $run)
    {
    }

    public function next(int $most): ?Portion
    {
        $from = $this->run->progress->late_row;
        $last = $this->run->progress->last_row;

        return $from === null || $from >= $last ? null : new Portion($from, min($last, $from + $most));
    }

    public function put(Portion $portion, array $keys): void
    {
        $lines = '';
        $hashes = [];
        foreach ($keys as $row => $key) {
            $hash = self::hash($key);
            if ($key !== '' && ! isset($hashes[$hash])) {
                $hashes[$hash] = true;
                $lines .= "{$this->run->lane()}\t{$this->run->space}\t$hash\t{$this->run->load->id}\t$row\n";
            }
        }
        DB::transaction(function () use ($portion, $lines) {
            BulkRows::loadNew(DB::connection(), 'announced_keys', self::COLUMNS, $lines);
            $this->run->progress->update(['late_row' => $portion->to]);
        }, 5);
    }

    /**
     * @param  list<string>  $keys
     * @return array<string, KeyState> those of them that are announced
     */
    public static function states(int $lane, int $space, array $keys): array
    {
        if ($keys === []) {
            return [];
        }
        $of = array_combine(array_map(self::hash(...), $keys), $keys);
        $states = [];
        $found = DB::table('announced_keys')
            ->forceIndex('PRIMARY')
            ->where('lane_id', $lane)
            ->where('space_id', $space)
            ->whereIn('hash', array_map(hex2bin(...), array_keys($of)))
            ->get(['hash', 'load_id', 'item']);
        foreach ($found as $line) {
            $states[$of[bin2hex($line->hash)]] = new KeyState(Outcome::Pending, null, (int) $line->load_id, (int) $line->item);
        }

        return $states;
    }

    public static function forget(int $lane): void
    {
        do {
            $n = DB::table('announced_keys')->where('lane_id', $lane)->orderBy('space_id')->orderBy('hash')->limit(50_000)->delete();
        } while ($n === 50_000);
    }

    private static function hash(string $key): string
    {
        return hash('xxh128', $key);
    }
}
