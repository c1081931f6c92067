<?php

namespace App\Ledger;

use App\Support\BulkRows;
use Baggage\Core\Loading\ClaimBook;
use Baggage\Core\Loading\Portion;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;

/** What the rows of one load claim for themselves in a pass, in a scratch table; and rows of an entity that share a claim. */
final readonly class Contest implements ClaimBook
{
    private const COLUMNS = '(pass_id, entity_id, @hash, pass_load_id, item) SET hash = UNHEX(@hash)';

    private const DELETED_AT_ONCE = 50_000;

    /** @param  int  $last  the last row number of the feed */
    public function __construct(
        private int $pass,
        private int $entity,
        private int $progress,
        private int $last,
        private Stretches $stretches,
    ) {
    }

    public function next(int $most): ?Portion
    {
        return $this->stretches->claim(
            Stretches::CLAIMS,
            false,
            fn (int $after) => $after < $this->last ? min($this->last, $after + $most) : null,
        );
    }

    public function put(Portion $portion, array $claims): void
    {
        $lines = '';
        $n = 0;
        $head = "$this->pass\t$this->entity\t";
        foreach ($claims as $row => $hashes) {
            foreach ($hashes as $hash) {
                $lines .= $head.bin2hex($hash)."\t$this->progress\t$row\n";
                $n++;
            }
        }
        DB::transaction(function () use ($portion, $lines, $n) {
            BulkRows::load(DB::connection(), 'claims', self::COLUMNS, $lines, $n);
            $this->stretches->done(Stretches::CLAIMS, $portion->after);
        }, 5);
        $this->stretches->release(Stretches::CLAIMS, $portion->after);
    }

    /** Rows of all loads of an entity that share a claim with another row. Found twice they are the same. */
    public static function settle(int $pass, int $entity): void
    {
        DB::statement(
            'INSERT IGNORE INTO contested_rows (pass_load_id, item) SELECT c.pass_load_id, c.item FROM
            (SELECT hash FROM claims WHERE pass_id = ? AND entity_id = ? GROUP BY hash HAVING COUNT(*) > 1) d
            STRAIGHT_JOIN claims c ON c.pass_id = ? AND c.entity_id = ? AND c.hash = d.hash',
            [$pass, $entity, $pass, $entity],
        );
        // In ranges: one statement over millions of rows would hold them all locked.
        do {
            $n = DB::table('claims')
                ->where('pass_id', $pass)
                ->where('entity_id', $entity)
                ->orderBy('hash')
                ->limit(self::DELETED_AT_ONCE)
                ->delete();
        } while ($n === self::DELETED_AT_ONCE);
    }

    /** @param  list<int>  $progress  lines of the loads in a pass that is over */
    public static function forget(array $progress): void
    {
        foreach ($progress as $id) {
            do {
                $n = DB::table('contested_rows')->where('pass_load_id', $id)->orderBy('item')->limit(self::DELETED_AT_ONCE)->delete();
            } while ($n === self::DELETED_AT_ONCE);
        }
    }

    /** @return list<int> rows of a load that go one after another */
    public static function rows(int $progress, int $after, ?int $to = null, ?int $most = null): array
    {
        return DB::table('contested_rows')
            ->where('pass_load_id', $progress)
            ->where('item', '>', $after)
            ->when($to !== null, fn (Builder $q) => $q->where('item', '<=', $to))
            ->when($most !== null, fn (Builder $q) => $q->limit((int) $most))
            ->orderBy('item')
            ->pluck('item')
            ->map(fn ($n) => (int) $n)
            ->all();
    }
}
