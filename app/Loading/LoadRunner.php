<?php

namespace App\Loading;

use App\Catalogue\Definitions;
use App\Decisions\Following;
use App\Ledger\CauseBook;
use App\Ledger\LedgerCrosswalk;
use App\Ledger\LedgerReader;
use App\Ledger\LedgerWriter;
use App\Ledger\LoadBook;
use App\Ledger\LoadRun;
use App\Ledger\MatchEntries;
use App\Ledger\Spaces;
use App\Ledger\WaiverBook;
use App\Models\Pass;
use App\Models\PassLoad;
use App\Staging\StagedRows;
use App\Targets\Ports;
use Baggage\Core\Loading\BatchProcessor;
use Baggage\Core\Loading\LoadWork;
use Baggage\Core\Loading\Mark;
use Baggage\Core\Loading\Matcher;
use Baggage\Core\Loading\ParentResolver;
use Baggage\Core\Loading\PlanVersion;
use Baggage\Core\Loading\SeenKeys;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Mapping\DefinitionError;
use Baggage\Core\Mapping\Mapper;

/** Gives LoadWork what it needs to work on one load of a pass, and patience with the target. */
final readonly class LoadRunner
{
    private const TRIES = 4;

    private function __construct(
        private LoadRun $run,
        private PlanVersion $plan,
        private Mark $mark,
        private Spaces $spaces,
        private Mapper $mapper,
        private StagedRows $rows,
        private LedgerReader $ledger,
        private MatchEntries $matches,
        private LoadBook $book,
        private Ports $ports,
        private int $wait,
    ) {
    }

    /**
     * @param  Definitions  $catalogue  for the numbers of entities and spaces alone
     * @param  int  $wait multiplies the waits for a target that does not answer
     *
     * @throws DefinitionError
     */
    public static function of(
        Pass $pass,
        PassLoad $progress,
        PlanVersion $plan,
        Definitions $catalogue,
        Ports $ports,
        int $wait = 1,
    ): self {
        $definition = $plan->load($progress->load_id);
        $take = $progress->take;
        Following::complete($take);
        $columns = $take->tidyColumns();
        $entities = $catalogue->entityIds();
        $spaces = Spaces::of($catalogue->migration);
        $run = new LoadRun(
            $pass,
            $progress,
            $definition,
            $entities[$definition->entity->name],
            $spaces->id($definition->entity->name, $definition->rowSpace()),
        );
        $reader = new LedgerReader($pass->round);
        $matches = new MatchEntries($pass->lane_id, $entities);
        $causes = new CauseBook($pass->lane_id, $definition->id, $spaces);

        return new self(
            $run,
            $plan,
            self::mark($pass, $catalogue->migration->installation),
            $spaces,
            $plan->mapper($definition->id, $columns),
            new StagedRows($take->id, $pass->decision),
            $reader,
            $matches,
            new LoadBook($run, $reader, new LedgerWriter, $matches, $causes, $spaces),
            $ports,
            $wait,
        );
    }

    private static function mark(Pass $pass, string $installation): Mark
    {
        $round = $pass->round;

        return new Mark($installation, $pass->lane_id, $round->name, $round->created_at->format('Y-m-d H:i:s'));
    }

    /** Rows of a stretch: long feeds take larger ones, as every one costs two commits. */
    public static function size(PassLoad $progress): int
    {
        return max((int) config('baggage.batch'), min(5000, intdiv($progress->rows_total, 200)));
    }

    /**
     * @param  \Closure(): bool  $stop  asked after every stretch
     * @return bool whether the feed is exhausted
     *
     * @throws TargetUnavailable
     */
    public function run(\Closure $stop): bool
    {
        $pass = $this->run->pass;
        foreach ($this->run->load->matches as $rule) {
            $this->matches->readTarget($this->ports->records, $this->run->load->entity, $rule, $pass->id);
        }
        $work = $this->work();
        while ($this->patiently($work->step(...))) {
            gc_collect_cycles();
            if ($pass->attempts > 1) {
                // It gets further, so it is no stretch that ends every process.
                $pass->update(['attempts' => 1]);
            }
            if ($stop()) {
                return false;
            }
        }

        return true;
    }

    /** Announces the legacy keys of a load whose records are referred to before they are loaded. */
    public function announceKeys(): void
    {
        $this->work()->announce();
    }

    private function work(): LoadWork
    {
        return new LoadWork(
            $this->rows,
            $this->book,
            $this->processor(),
            $this->ports->target,
            $this->mapper,
            $this->mark->installation,
            $this->run->pass->id,
            $this->run->load->id,
            $this->run->isRetry(),
            self::size($this->run->progress),
        );
    }

    private function processor(): BatchProcessor
    {
        $load = $this->run->load;
        $crosswalk = new LedgerCrosswalk($this->ledger, $this->spaces);
        // When this is the first load with keys of this space, all keys pass through here.
        $fresh = $this->run->progress->cursor_row === 0
            && ! $this->book->replaces()
            && ! $this->ledger->hasKeysOf($this->run->space);
        $deferred = $this->plan->order()->deferredFields($load->entity->name);

        return new BatchProcessor(
            $load->entity,
            $load->policy,
            $this->mapper,
            new ParentResolver($load->entity, $crosswalk, $this->plan->normalisations(), $deferred),
            new Matcher(
                $load,
                $crosswalk,
                $this->matches,
                $fresh ? SeenKeys::expecting($this->run->progress->rows_total) : null,
            ),
            $this->ports->target,
            $this->mark,
            new WaiverBook(
                $load->id,
                $this->run->progress->take_id,
                $this->run->pass->decision,
                $this->run->pass->round->kind === 'cutover' ? $this->run->pass->round : null,
            ),
        );
    }

    /**
     * Tries again with growing waits while the target does not answer; what it did meanwhile it remembers.
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
                if ($try === self::TRIES) {
                    throw $e;
                }
                usleep($this->wait * 500_000 * 2 ** ($try - 1));
            }
        }
    }
}
