<?php

namespace App\Support;

use Illuminate\Console\Events\CommandFinished;
use Illuminate\Database\Connection;
use Illuminate\Database\Events\ConnectionEstablished;
use Illuminate\Database\Events\TransactionCommitted;
use Illuminate\Database\Events\TransactionRolledBack;
use Illuminate\Foundation\Http\Events\RequestHandled;
use Illuminate\Queue\Events\JobExceptionOccurred;
use Illuminate\Queue\Events\JobProcessed;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Event;

/**
 * Marks that something of a migration was written which every page shows around its work area. A mark commits together with what it
 * is about, whoever writes, and is only added and removed: nobody waits for anybody because of it.
 */
final class Written
{
    private const TABLES = 'code_crosswalks|code_entries|column_decisions|column_references|corrections|entities|extracts|findings'
        .'|loads|match_rules|parameters|rules|sources|takes';

    private static int $times = 0;

    /** Whether the transaction that is open has its mark. */
    private bool $isMarked = false;

    /** The connection on which something was written outside a transaction, and is to be marked once more. */
    private ?Connection $last = null;

    /** @param  \Closure(): (int|null)  $migration  the one all that is done now belongs to; null where that cannot be said */
    public function __construct(private readonly \Closure $migration)
    {
    }

    public function watch(): void
    {
        Event::listen(ConnectionEstablished::class, function (ConnectionEstablished $made) {
            if ($made->connectionName === DB::getDefaultConnection()) {
                $made->connection->beforeExecuting(fn (string $sql, array $with, Connection $db) => $this->before($sql, $db));
            }
        });
        Event::listen([TransactionCommitted::class, TransactionRolledBack::class], $this->ended(...));
        // What a job wrote last is marked when it ends.
        Event::listen([JobProcessed::class, JobExceptionOccurred::class, RequestHandled::class, CommandFinished::class], $this->after(...));
    }

    /** Ends what was known of a transaction. */
    private function ended(TransactionCommitted|TransactionRolledBack $of): void
    {
        $this->isMarked = $this->isMarked && $of instanceof TransactionCommitted && $of->connection->transactionLevel() > 0;
    }

    /**
     * In a transaction the mark comes with what it is about. Outside it comes before, for whoever is killed, and after, for whoever
     * looks in between; never right after, where a number the server gave is still to be asked for.
     */
    private function before(string $sql, Connection $db): void
    {
        $this->after();
        if (! self::concerns($sql)) {
            return;
        }
        self::$times++;
        $isOpen = $db->transactionLevel() > 0;
        if (! $isOpen || ! $this->isMarked) {
            $this->mark($db);
        }
        $this->isMarked = $isOpen;
        $this->last = $isOpen ? null : $db;
    }

    private function after(): void
    {
        if ($this->last !== null) {
            [$db, $this->last] = [$this->last, null];
            $this->mark($db);
        }
    }

    /** How often this process has written such. */
    public static function times(): int
    {
        return self::$times;
    }

    /** Whether a statement writes what pages show around their work area; how far a take is being read is not of it. */
    public static function concerns(string $sql): bool
    {
        // Most statements only read.
        if (in_array($sql[0] ?? '', ['s', 'S', '('], true)) {
            return false;
        }
        $writes = '/^\s*(?:insert(?:\s+ignore)?\s+into|update|delete(?:\s+\w+)?\s+from|replace\s+into)\s+`?('.self::TABLES.')`?[\s,(]/i';

        return preg_match($writes, substr($sql, 0, 200), $of) === 1
            && (strtolower($of[1]) !== 'takes' || preg_match('/^\s*update/i', $sql) !== 1 || preg_match('/`?state`?\s*=/', $sql) === 1);
    }

    private function mark(Connection $db): void
    {
        $one = ($this->migration)();
        $all = $one === null ? $db->table('migrations')->pluck('id')->all() : [$one];
        if ($all !== []) {
            $db->table('overview_marks')->insert(array_map(fn ($id) => ['migration_id' => $id], $all));
        }
    }
}
