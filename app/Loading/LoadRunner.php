<?php

namespace App\Loading;

use App\Catalogue\Definitions;
use App\Models\Load;
use App\Models\Pass;
use App\Models\PassLoad;
use App\Staging\StagedRows;
use App\Support\BulkRows;
use App\Targets\SqlTarget;
use App\Targets\TargetLink;
use Baggage\Core\Loading\BatchId;
use Baggage\Core\Loading\BatchProcessor;
use Baggage\Core\Loading\Matcher;
use Baggage\Core\Loading\ParentResolver;
use Baggage\Core\Loading\SeenKeys;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Mapping\Mapper;
use Illuminate\Support\Facades\DB;

/** Runs one load of a pass, batch after batch, from wherever it stands. */
final class LoadRunner
{
    private const TRIES = 4;

    private readonly LoadRun $run;

    private readonly StagedRows $rows;

    private readonly Mapper $mapper;

    private readonly BatchProcessor $processor;

    private readonly SqlTarget $target;

    private readonly LedgerMatches $matches;

    private readonly CauseBook $causes;

    private readonly Ledger $ledger;

    /** @var array<string, int> */
    private readonly array $entities;

    /** @var array<string, int> */
    private readonly array $sources;

    private readonly bool $replaces;

    private readonly bool $retry;

    private readonly int $size;

    public function __construct(
        private readonly Pass $pass,
        private readonly PassLoad $progress,
        private readonly Load $load,
        private readonly Definitions $definitions,
        private readonly TargetLink $link,
        private readonly int $wait = 1,
    ) {
        $round = $pass->round_id;
        $this->run = new LoadRun($pass, $progress, $load, $round);
        $this->entities = $definitions->entityIds();
        $this->sources = $definitions->sourceIds();
        $this->rows = new StagedRows($progress->take_id, $load->extract_id, $load->extract->tidyColumns()->byHeader());
        $this->mapper = $definitions->mapper($load);
        $this->target = new SqlTarget($link);
        $this->matches = new LedgerMatches($round, $this->entities);
        $this->causes = new CauseBook($round, $load->id);
        $this->ledger = new Ledger;
        $this->retry = $pass->kind === 'retry';
        $this->replaces = $this->retry || $progress->key_cursor !== null;
        $this->size = self::size($progress);
        $definition = $definitions->definition($load);
        $crosswalk = new LedgerCrosswalk($round, $this->entities, $this->sources);
        // When this is the first load with keys of this entity and source, all keys pass through here.
        $fresh = $progress->cursor_row === 0
            && ! $this->replaces
            && ! DB::table('outcomes')
                ->where('round_id', $round)
                ->where('entity_id', $load->entity_id)
                ->where('source_id', $load->extract->source_id)
                ->exists();
        $this->processor = new BatchProcessor(
            $definition->entity,
            $definition->policy,
            $this->mapper,
            new ParentResolver(
                $definition->entity,
                $crosswalk,
                $definitions->normalisations(),
                $definitions->order()->deferredFields($definition->entity->name),
            ),
            new Matcher($definition, $crosswalk, $this->matches, $fresh ? new SeenKeys($progress->rows_total) : null),
            $this->target,
            $definition->match,
        );
        if ($definition->match !== null) {
            $this->matches->readTarget($link, $definition->entity, $definition->match);
        }
    }

    /** Rows of a batch: long feeds take larger ones, as every batch costs two commits. */
    public static function size(PassLoad $progress): int
    {
        return max((int) config('baggage.batch'), min(5000, intdiv($progress->rows_total, 200)));
    }

    /**
     * @param  \Closure(): bool  $stop  asked after every batch
     * @return bool whether the feed is exhausted
     */
    public function run(\Closure $stop): bool
    {
        $resuming = true;
        while (true) {
            $started = microtime(true);
            $after = $this->progress->cursor_row;
            $batch = new BatchId($this->definitions->migration->installation, $this->pass->id, $this->load->id, $after);
            $rows = null;
            $record = $this->patiently(function () use ($batch, $after, &$resuming, &$rows) {
                // The target may hold this batch already: a worker died, or its answer was lost.
                $packed = $resuming ? $this->target->findReceipt($batch) : null;
                $resuming = true;
                if ($packed !== null) {
                    return BatchRecord::unpack($packed);
                }
                $rows ??= $this->retry
                    ? $this->rows->numbered($this->dueRows($after))
                    : $this->rows->after($after, $this->size);

                return $rows === [] ? null : $this->process($rows, $batch);
            });
            $resuming = false;
            if ($record === null) {
                return true;
            }
            gc_collect_cycles();
            $this->ledger->record($this->run, $record, $this->replaces, $this->matches, microtime(true) - $started);
            if ($this->pass->attempts > 1) {
                // It gets further, so it is no batch that ends every process.
                $this->pass->update(['attempts' => 1]);
            }
            if ($stop()) {
                return false;
            }
        }
    }

    /** Writes the legacy keys of the whole feed as pending rows, for loads whose records are referred to before they are loaded. */
    public function scanKeys(): void
    {
        while (true) {
            $after = (int) $this->progress->key_cursor;
            $rows = $this->rows->after($after, 10_000);
            if ($rows === []) {
                return;
            }
            DB::transaction(function () use ($rows) {
                $lines = '';
                foreach ($rows as $number => $cells) {
                    $lines .= BulkRows::line([
                        $this->run->round,
                        $this->load->id,
                        $number,
                        $this->load->entity_id,
                        $this->load->extract->source_id,
                        mb_substr($this->mapper->legacyKey($cells), 0, 190),
                        ($this->load->id << 32) | $number,
                        'pending',
                        null,
                        null,
                        null,
                        $this->pass->id,
                    ]);
                }
                BulkRows::load(DB::connection(), 'outcomes', Ledger::COLUMNS, $lines, count($rows));
                Ledger::tally($this->run->round, $this->load->id, ['pending' => count($rows)]);
                $this->progress->update(['key_cursor' => (int) max(array_keys($rows))]);
            });
        }
    }

    /** @param  array<int, list<string|null>>  $rows */
    private function process(array $rows, BatchId $batch): BatchRecord
    {
        $record = null;
        $this->processor->process($rows, $batch, function (array $journeys) use (&$record) {
            $record = BatchRecord::of($journeys, $this->run, $this->causes, $this->entities, $this->sources);

            return $record->pack();
        });

        return $record ?? throw new \LogicException('The target wrote a batch without asking for its receipt.');
    }

    /**
     * Rows of a retry: those repaired, and those held by a parent that has a target key now.
     *
     * @return list<int>
     */
    private function dueRows(int $after): array
    {
        $rows = DB::select(
            "
            (SELECT row_no FROM outcomes WHERE round_id = ? AND load_id = ? AND outcome = 'pending' AND row_no > ?
            ORDER BY row_no LIMIT $this->size)
            UNION
            (SELECT h.row_no FROM outcomes h JOIN causes c ON c.id = h.cause_id
                JOIN entities e ON e.migration_id = ? AND e.name = c.parent_entity
                JOIN sources s ON s.migration_id = ? AND s.code = c.parent_source
                JOIN outcomes p ON p.round_id = h.round_id AND p.entity_id = e.id AND p.source_id = s.id
                AND p.legacy_key = c.parent_key AND p.twin = 0
                WHERE h.round_id = ? AND h.load_id = ? AND h.outcome = 'held' AND h.row_no > ? ORDER BY h.row_no LIMIT $this->size)
            ORDER BY row_no LIMIT $this->size",
            [
                $this->run->round,
                $this->load->id,
                $after,
                $this->definitions->migration->id,
                $this->definitions->migration->id,
                $this->run->round,
                $this->load->id,
                $after,
            ],
        );

        return array_map(fn ($r) => (int) $r->row_no, $rows);
    }

    /**
     * Tries again with growing waits while the target does not answer; a receipt found then means the batch had gone through.
     *
     * @template T
     *
     * @param  \Closure(): T  $do
     * @return T
     */
    private function patiently(\Closure $do): mixed
    {
        for ($try = 1; ; $try++) {
            try {
                return $do();
            } catch (TargetUnavailable $e) {
                $this->link->drop();
                if ($try === self::TRIES) {
                    throw $e;
                }
                usleep($this->wait * 500_000 * 2 ** ($try - 1));
            }
        }
    }
}
