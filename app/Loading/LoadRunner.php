<?php

namespace App\Loading;

use App\Catalogue\Definitions;
use App\Ledger\BatchRecord;
use App\Ledger\CauseBook;
use App\Ledger\LedgerCrosswalk;
use App\Ledger\LedgerReader;
use App\Ledger\LedgerWriter;
use App\Ledger\LoadRun;
use App\Ledger\MatchEntries;
use App\Models\Load;
use App\Models\Pass;
use App\Models\PassKind;
use App\Models\PassLoad;
use App\Staging\StagedRows;
use App\Targets\SqlTarget;
use App\Targets\TargetLink;
use App\Targets\TargetRecords;
use Baggage\Core\Loading\BatchId;
use Baggage\Core\Loading\BatchProcessor;
use Baggage\Core\Loading\Matcher;
use Baggage\Core\Loading\ParentResolver;
use Baggage\Core\Loading\SeenKeys;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Mapping\DefinitionError;
use Baggage\Core\Mapping\Mapper;

/** Runs one load of a pass, batch after batch, from wherever it stands. */
final readonly class LoadRunner
{
    private const TRIES = 4;

    private function __construct(
        private LoadRun $run,
        private Definitions $definitions,
        private StagedRows $rows,
        private Mapper $mapper,
        private LedgerReader $ledger,
        private LedgerWriter $writer,
        private MatchEntries $matches,
        private CauseBook $causes,
        private SqlTarget $target,
        private TargetLink $link,
        private int $wait,
    ) {
    }

    /**
     * @param  int  $wait multiplies the waits for a target that does not answer
     *
     * @throws DefinitionError
     */
    public static function of(
        Pass $pass,
        PassLoad $progress,
        Load $load,
        Definitions $definitions,
        TargetLink $link,
        int $wait = 1,
    ): self {
        $round = $pass->round;

        return new self(
            new LoadRun($pass, $progress, $load, $round->id),
            $definitions,
            new StagedRows($progress->take_id, $load->extract_id, $load->extract->tidyColumns()->byHeader()),
            $definitions->mapper($load),
            new LedgerReader($round),
            new LedgerWriter,
            new MatchEntries($round->id, $definitions->entityIds()),
            new CauseBook($round->id, $load->id),
            new SqlTarget($link),
            $link,
            $wait,
        );
    }

    /** Rows of a batch: long feeds take larger ones, as every batch costs two commits. */
    public static function size(PassLoad $progress): int
    {
        return max((int) config('baggage.batch'), min(5000, intdiv($progress->rows_total, 200)));
    }

    /**
     * @param  \Closure(): bool  $stop  asked after every batch
     * @return bool whether the feed is exhausted
     *
     * @throws TargetUnavailable
     */
    public function run(\Closure $stop): bool
    {
        $pass = $this->run->pass;
        $processor = $this->processor();
        $match = $this->definitions->definition($this->run->load)->match;
        if ($match !== null) {
            $this->matches->readTarget(new TargetRecords($this->link), $this->run->load->entity->described(), $match);
        }
        $resuming = true;
        while (true) {
            $started = microtime(true);
            $record = $this->batch($processor, $resuming);
            $resuming = false;
            if ($record === null) {
                return true;
            }
            gc_collect_cycles();
            $this->writer->record($this->run, $record, $this->replaces(), $this->matches, microtime(true) - $started);
            if ($pass->attempts > 1) {
                // It gets further, so it is no batch that ends every process.
                $pass->update(['attempts' => 1]);
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
            $rows = $this->rows->after((int) $this->run->progress->key_cursor, 10_000);
            if ($rows === []) {
                return;
            }
            $this->writer->announce(
                $this->run,
                array_map(fn (array $cells) => mb_substr($this->mapper->legacyKey($cells), 0, 190), $rows),
            );
        }
    }

    /** The next batch, worked through; null when nothing is left. */
    private function batch(BatchProcessor $processor, bool $resuming): ?BatchRecord
    {
        $load = $this->run->load;
        $after = $this->run->progress->cursor_row;
        $batch = new BatchId($this->definitions->migration->installation, $this->run->pass->id, $load->id, $after);
        $rows = null;

        return $this->patiently(function () use ($processor, $batch, $load, $after, &$resuming, &$rows) {
            // The target may hold this batch already: a worker died, or its answer was lost.
            $packed = $resuming ? $this->target->findReceipt($batch) : null;
            $resuming = true;
            if ($packed !== null) {
                return BatchRecord::unpack($packed);
            }
            $size = self::size($this->run->progress);
            $rows ??= $this->isRetry()
                ? $this->rows->numbered($this->ledger->due($load, $after, $size))
                : $this->rows->after($after, $size);

            return $rows === [] ? null : $this->process($processor, $rows, $batch);
        });
    }

    /** @param  array<int, list<string|null>>  $rows */
    private function process(BatchProcessor $processor, array $rows, BatchId $batch): BatchRecord
    {
        $record = null;
        $processor->process($rows, $batch, function (array $journeys) use (&$record) {
            $record = BatchRecord::of(
                $journeys,
                $this->run,
                $this->causes,
                $this->definitions->entityIds(),
                $this->definitions->sourceIds(),
            );

            return $record->pack();
        });

        return $record ?? throw new \LogicException('The target wrote a batch without asking for its receipt.');
    }

    private function processor(): BatchProcessor
    {
        $load = $this->run->load;
        $definition = $this->definitions->definition($load);
        $crosswalk = new LedgerCrosswalk(
            $this->ledger,
            $this->definitions->entityIds(),
            $this->definitions->sourceIds(),
        );
        // When this is the first load with keys of this entity and source, all keys pass through here.
        $fresh = $this->run->progress->cursor_row === 0
            && ! $this->replaces()
            && ! $this->ledger->hasKeysOf($load->entity_id, $load->extract->source_id);

        return new BatchProcessor(
            $definition->entity,
            $definition->policy,
            $this->mapper,
            new ParentResolver(
                $definition->entity,
                $crosswalk,
                $this->definitions->normalisations(),
                $this->definitions->order()->deferredFields($definition->entity->name),
            ),
            new Matcher(
                $definition,
                $crosswalk,
                $this->matches,
                $fresh ? SeenKeys::expecting($this->run->progress->rows_total) : null,
            ),
            $this->target,
            $definition->match,
        );
    }

    private function isRetry(): bool
    {
        return $this->run->pass->kind === PassKind::Retry;
    }

    /** Whether rows may have an outcome already. */
    private function replaces(): bool
    {
        return $this->isRetry() || $this->run->progress->key_cursor !== null;
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
