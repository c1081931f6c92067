<?php

namespace App\Ledger;

use App\Support\BulkRows;
use Baggage\Core\Loading\Portion;
use Baggage\Core\Loading\Seen;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;

/**
 * What rows claim for themselves, told in row order by all workers at loads that go beside each other in a pass, and rows that share a
 * claim with an earlier one. Each portion's claims are kept as one piece of bytes while the pass lasts, so that every worker knows of
 * those before it, and one that comes later too.
 */
final class Contest
{
    private const CLAIM = 8;

    /** Microseconds until a worker looks again whether those at earlier rows have told theirs. */
    private const LOOK_AGAIN = 2000;

    private const DELETED_AT_ONCE = 50_000;

    private ?Seen $seen = null;

    /** @var array<int, int> load's line in the pass → up to which row its claims are known here */
    private array $known = [];

    /**
     * @param  list<int>  $loads  lines of the loads in their pass, in their order
     * @param  int  $most  claims there may be
     */
    public function __construct(private readonly array $loads, private readonly int $most)
    {
    }

    /**
     * @param  int  $load  its line in the pass
     * @param  array<int, non-empty-list<string>>  $claims  row → hashes of 8 bytes
     * @return list<int>|null as LoadLedger
     */
    public function tell(int $load, Portion $portion, array $claims, Stretches $stretches): ?array
    {
        while ($this->told($load) < $portion->after) {
            if (! $stretches->areAtWorkBefore(Stretches::FREE, $portion->after) && $this->told($load) < $portion->after) {
                return null;
            }
            usleep(self::LOOK_AGAIN);
        }
        $this->catchUp($load, $portion->after);
        $bytes = '';
        $waiting = [];
        foreach ($claims as $row => $of) {
            $isFirst = true;
            foreach ($of as $claim) {
                $isFirst = ! $this->seen()->add($claim) && $isFirst;
                $bytes .= $claim;
            }
            if (! $isFirst) {
                $waiting[] = $row;
            }
        }
        $this->keep($load, $portion, $bytes, $waiting);

        return $waiting;
    }

    /** @param  list<int>  $waiting */
    private function keep(int $load, Portion $portion, string $bytes, array $waiting): void
    {
        DB::transaction(function () use ($load, $portion, $bytes, $waiting) {
            $db = DB::connection();
            $db->getPdo()->exec("INSERT INTO claims VALUES ($load,$portion->after,X'".bin2hex($bytes)."')");
            $lines = implode('', array_map(fn (int $row) => "$load\t$row\n", $waiting));
            BulkRows::load($db, 'contested_rows', '(pass_load_id, item)', $lines, count($waiting));
            DB::table('pass_loads')->where('id', $load)->update(['told_row' => $portion->to]);
        }, 5);
        $this->known[$load] = $portion->to;
    }

    /** Learns what others have told of the rows before. */
    private function catchUp(int $load, int $after): void
    {
        foreach ($this->loads as $one) {
            $new = DB::table('claims')
                ->where('pass_load_id', $one)
                ->where('after_row', '>=', $this->known[$one] ?? 0)
                ->when($one === $load, fn (Builder $q) => $q->where('after_row', '<', $after))
                ->orderBy('after_row')
                ->pluck('after_row');
            foreach ($new as $from) {
                $bytes = (string) DB::table('claims')->where('pass_load_id', $one)->where('after_row', $from)->value('hashes');
                foreach ($bytes === '' ? [] : str_split($bytes, self::CLAIM) as $claim) {
                    $this->seen()->add($claim);
                }
            }
            if ($one === $load) {
                $this->known[$one] = $after;

                return;
            }
            $this->known[$one] = PHP_INT_MAX;
        }
    }

    private function seen(): Seen
    {
        return $this->seen ??= Seen::expecting($this->most);
    }

    public function isTold(int $load, Portion $portion): bool
    {
        return $this->told($load) >= $portion->to;
    }

    private function told(int $load): int
    {
        return (int) DB::table('pass_loads')->where('id', $load)->value('told_row');
    }

    /** @param  list<int>  $loads  lines of the loads in a pass that is over */
    public static function forget(array $loads): void
    {
        foreach ($loads as $id) {
            DB::table('claims')->where('pass_load_id', $id)->delete();
            do {
                $n = DB::table('contested_rows')->where('pass_load_id', $id)->orderBy('item')->limit(self::DELETED_AT_ONCE)->delete();
            } while ($n === self::DELETED_AT_ONCE);
        }
    }

    /** @return list<int> rows of a load that go one after another */
    public static function rows(int $load, int $after, ?int $to = null, ?int $most = null): array
    {
        return DB::table('contested_rows')
            ->where('pass_load_id', $load)
            ->where('item', '>', $after)
            ->when($to !== null, fn (Builder $q) => $q->where('item', '<=', $to))
            ->when($most !== null, fn (Builder $q) => $q->limit((int) $most))
            ->orderBy('item')
            ->pluck('item')
            ->map(fn ($n) => (int) $n)
            ->all();
    }
}
