<?php

namespace App\Loading;

use App\Catalogue\Definitions;
use App\Decisions\Following;
use App\Ledger\CauseBook;
use App\Ledger\Contest;
use App\Ledger\EarlierPairs;
use App\Ledger\LateKeys;
use App\Ledger\LedgerCrosswalk;
use App\Ledger\LedgerReader;
use App\Ledger\LedgerStanding;
use App\Ledger\LedgerWriter;
use App\Ledger\LoadBook;
use App\Ledger\LoadRun;
use App\Ledger\MatchEntries;
use App\Ledger\PairBook;
use App\Ledger\SentAlone;
use App\Ledger\SentRows;
use App\Ledger\Spaces;
use App\Ledger\Stretches;
use App\Ledger\WaiverBook;
use App\Models\LoadState;
use App\Models\Pass;
use App\Models\PassLoad;
use App\Staging\StagedRows;
use App\Targets\Ports;
use Baggage\Core\Loading\BatchProcessor;
use Baggage\Core\Loading\Claims;
use Baggage\Core\Loading\KeyWork;
use Baggage\Core\Loading\LoadWork;
use Baggage\Core\Loading\Mark;
use Baggage\Core\Loading\Matcher;
use Baggage\Core\Loading\OthersGuard;
use Baggage\Core\Loading\ParentResolver;
use Baggage\Core\Loading\PlanVersion;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Mapping\DefinitionError;
use Baggage\Core\Mapping\Mapper;

/** One worker's hands on one load of a pass: gives the core what it needs, and has patience with the target. */
final class LoadRunner
{
    /** Of a stretch: they are in memory all at once. */
    private const CELLS = 300_000;

    private function __construct(
        private readonly LoadRun $run,
        private readonly LoadWork $work,
        private readonly KeyWork $keys,
        private readonly KeyWork $rest,
        private readonly LoadBook $book,
        private readonly Patience $patience,
    ) {
    }

    /**
     * @param  Definitions  $catalogue  for the numbers of entities and spaces alone
     * @param  Contest  $contest  of loads that go beside this one
     *
     * @throws DefinitionError
     */
    public static function of(
        Pass $pass,
        PassLoad $progress,
        PlanVersion $plan,
        Definitions $catalogue,
        Ports $ports,
        Contest $contest,
        Patience $patience,
    ): self {
        $load = $plan->load($progress->load_id);
        Following::complete($progress->take);
        $entities = $catalogue->entityIds();
        $spaces = Spaces::of($catalogue->migration);
        $run = LoadRun::of($pass, $progress, $load, $entities, $spaces);
        $matches = new MatchEntries($pass->lane_id, $entities);
        $crosswalk = new LedgerCrosswalk(new LedgerReader($pass->round), $spaces, self::late($pass, $plan, $spaces));
        $mapper = $plan->mapper($load->id, $progress->take->tidyColumns());
        $deferred = $plan->order()->deferredFields($load->entity->name);
        $parents = new ParentResolver($load->entity, $crosswalk, $plan->normalisations(), $deferred);
        $lane = $pass->lane()->firstOrFail();
        $said = new PairBook($load->id, $lane->target_id, $pass->lane_id, $progress->take_id, $pass->decision);
        $pairs = EarlierPairs::beside($said, $load, $lane->earlier, $spaces, $ports->records);
        $meets = $matches->hasOthers($load->entity->name);
        $matcher = new Matcher($load, $crosswalk, $matches, $plan->names($load->entity->name), $meets, $pairs);
        $claims = new Claims($load, $matcher);
        $mark = self::mark($pass, $catalogue->migration->installation);
        $waivers = self::waivers($run);
        $standing = $run->isAgain() ? new LedgerStanding(new LedgerReader($pass->round), $load->id) : null;
        $processor = new BatchProcessor(
            $load->entity, $load->policy, $mapper, $parents, $matcher, $claims, $ports->target, $mark, $waivers, $standing,
            $load->reads(),
            $run->isAgain() ? new OthersGuard($load, $deferred, $ports->records, self::sent($run, $spaces)) : null,
        );

        return self::with($run, $mapper, $processor, $matches, $contest, $spaces, $ports, $patience, $deferred);
    }

    /** @param  list<string>  $deferred  fields whose parents come later */
    private static function with(
        LoadRun $run,
        Mapper $mapper,
        BatchProcessor $processor,
        MatchEntries $matches,
        Contest $contest,
        Spaces $spaces,
        Ports $ports,
        Patience $patience,
        array $deferred,
    ): self {
        [$pass, $progress, $load] = [$run->pass, $run->progress, $run->load->id];
        $stretches = new Stretches($progress->id);
        $causes = new CauseBook($run->lane(), $load, $spaces);
        $book = new LoadBook(
            $run,
            new LedgerReader($pass->round),
            new LedgerWriter,
            $matches,
            $causes,
            $spaces,
            $stretches,
            $contest,
            $deferred,
            self::sent($run, $spaces),
        );
        $rows = new StagedRows($progress->take_id, $pass->decision);
        $installation = $pass->round->migration->installation;

        return new self(
            $run,
            new LoadWork($rows, $book, $processor, $ports->target, $installation, $pass->id, $load, self::size($progress)),
            new KeyWork($rows, $mapper, $progress->late_row === null ? $book : new LateKeys($run)),
            new KeyWork($rows, $mapper, $book),
            $book,
            $patience,
        );
    }

    private static function sent(LoadRun $run, Spaces $spaces): SentAlone
    {
        $round = $run->pass->round;

        return new SentAlone(SentRows::of($round, $spaces), new LedgerReader($round), $run->progress, $run->entity);
    }

    private static function mark(Pass $pass, string $installation): Mark
    {
        $round = $pass->round;

        return new Mark($installation, $pass->lane_id, $round->name, $round->created_at->format('Y-m-d H:i:s'));
    }

    private static function waivers(LoadRun $run): WaiverBook
    {
        $round = $run->pass->round;
        $confirmed = $round->kind === 'cutover' ? $round : null;

        return new WaiverBook($run->load->id, $run->progress->take_id, $run->pass->decision, $confirmed);
    }

    /**
     * Spaces whose keys are announced in the pass.
     *
     * @return list<int>
     */
    private static function late(Pass $pass, PlanVersion $plan, Spaces $spaces): array
    {
        $late = [];
        foreach ($pass->passLoads()->whereNotNull('late_row')->where('state', '<>', LoadState::LeftOut)->pluck('load_id') as $id) {
            $load = $plan->load((int) $id);
            $late[] = $spaces->id($load->entity->name, $load->rowSpace());
        }

        return $late;
    }

    /** Rows of a stretch: long feeds take larger ones, as every one costs two commits; wide ones smaller. */
    private static function size(PassLoad $progress): int
    {
        $size = max((int) config('baggage.batch'), min(2500, intdiv($progress->rows_total, 60)));

        return min($size, max(100, intdiv(self::CELLS, max(1, count($progress->take->columns ?? [])))));
    }

    /** @param  PassLoad  $progress  as it is now */
    public function knows(PassLoad $progress): void
    {
        $this->run->progress->setRawAttributes($progress->getAttributes(), true);
    }

    /** Announces the legacy keys of a load whose records are referred to before they are loaded. */
    public function announceKeys(): void
    {
        $this->keys->run();
    }

    /** Rows the pass did not come to get a line, so that they are known and can be asked for. */
    public function announceRest(): void
    {
        $this->rest->run();
    }

    /**
     * Takes up a stretch somebody began and never recorded, and nothing new. One the target has nothing of is left as it was: it may be
     * what ended its process.
     *
     * @return bool false when there is none
     *
     * @throws TargetUnavailable
     */
    public function settleBegun(bool $inTurn): bool
    {
        $this->book->takesNothingNew();

        return $this->patience->during(fn () => $this->work->settle($inTurn));
    }

    /**
     * @param  bool  $inTurn  whether the rows that go one after another are meant
     * @return bool false when there is nothing to be had
     *
     * @throws TargetUnavailable
     */
    public function step(bool $inTurn): bool
    {
        return $this->patience->during(fn () => $this->work->step($inTurn));
    }
}
