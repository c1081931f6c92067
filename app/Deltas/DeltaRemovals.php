<?php

namespace App\Deltas;

use App\Catalogue\Definitions;
use App\Ledger\CauseBook;
use App\Ledger\DeltaBook;
use App\Ledger\LedgerReader;
use App\Ledger\LedgerWriter;
use App\Ledger\LoadRun;
use App\Ledger\MatchEntries;
use App\Ledger\Spaces;
use App\Models\LoadState;
use App\Models\Pass;
use App\Models\PassLoad;
use App\Targets\Ports;
use Baggage\Core\Loading\Answer;
use Baggage\Core\Loading\Done;
use Baggage\Core\Loading\Mark;
use Baggage\Core\Loading\Order;
use Baggage\Core\Loading\PlanVersion;
use Baggage\Core\Loading\Remembered;
use Baggage\Core\Loading\Stretch;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Loading\Verb;
use Baggage\Core\Loading\Writing;
use Baggage\Core\Rows\Cause;
use Baggage\Core\Rows\Outcome;
use Baggage\Core\Rows\Stage;
use Baggage\Core\Rows\Standing;

/**
 * Removes the records of rows that are delivered no more, after everything else of a delta and children before parents. Only records
 * the round made and nobody else stands on go; what was there before, and what is still referred to, is left for somebody to decide.
 */
final readonly class DeltaRemovals
{
    private const AT_ONCE = 1_000;

    private function __construct(
        private Pass $pass,
        private PlanVersion $plan,
        private Definitions $catalogue,
        private Ports $ports,
        private Mark $mark,
        private LedgerReader $reader,
        private Spaces $spaces,
    ) {
    }

    public static function of(Pass $pass, PlanVersion $plan, Definitions $catalogue, Ports $ports, Mark $mark): self
    {
        return new self($pass, $plan, $catalogue, $ports, $mark, new LedgerReader($pass->round), Spaces::of($catalogue->migration));
    }

    /** @throws TargetUnavailable */
    public function run(): void
    {
        $all = $this->pass->passLoads()->where('state', LoadState::Done)->orderByDesc('wave')->orderByDesc('id')->get();
        foreach ($all as $progress) {
            $book = new DeltaBook($progress, $this->pass->lane_id);
            // What was listed stays listed: gone on with, the stretches are the same.
            for ($after = 0; ($items = $book->toRemove($after, self::AT_ONCE)) !== []; $after = (int) end($items)) {
                $this->remove($progress, $items, $after);
            }
        }
    }

    /**
     * @param  non-empty-list<int>  $items
     *
     * @throws TargetUnavailable
     */
    private function remove(PassLoad $progress, array $items, int $after): void
    {
        $load = $this->plan->load($progress->load_id);
        $run = LoadRun::of($this->pass, $progress, $load, $this->catalogue->entityIds(), $this->spaces);
        // Those that failed, were taken over or are back since stand otherwise.
        $standing = array_filter($this->reader->standingOn($load->id, $items), fn (Standing $s) => $s->isOlder);
        if ($standing === []) {
            return;
        }
        $shared = $this->shared($run, $standing);
        $orders = $review = [];
        foreach ($standing as $row => $of) {
            if (isset($shared[$row])) {
                continue;
            }
            if ($of->outcome !== Outcome::Loaded) {
                $review[$row] = $this->why('was_there', "Record $of->targetKey was in the target before this round", $of);
            } else {
                $orders[] = new Order($row, $of->legacyKey, Verb::Withdraw, $of->targetKey, []);
            }
        }
        $installation = $this->catalogue->migration->installation;
        $stretch = new Stretch($installation, $this->pass->id, $load->id, $after, (int) end($items), isOfGone: true);
        $answers = $this->done($run, $stretch, $orders);
        foreach ($answers as $answer) {
            if ($answer->done === Done::Refused) {
                $of = $standing[$answer->row];
                $said = $answer->said->message ?? 'The target refused it';
                $review[$answer->row] = $this->why('still_needed', "Record $of->targetKey cannot be removed: $said", $of);
            }
        }
        $this->record($run, $standing, $answers, $review);
    }

    /**
     * @param  list<Order>  $orders
     * @return list<Answer>
     *
     * @throws TargetUnavailable
     */
    private function done(LoadRun $run, Stretch $stretch, array $orders): array
    {
        if ($orders === []) {
            return [];
        }
        // Any earlier try may have got as far as the target.
        $receipt = $this->ports->target->recall($stretch);
        $writing = $receipt === null
            ? $this->ports->target->begin($run->load->entity, $stretch, $this->mark)
            : new Remembered($receipt);
        try {
            $answers = self::answered($writing, $orders);
            $writing->keep();
        } catch (\Throwable $e) {
            $writing->drop();
            throw $e;
        }

        return $answers;
    }

    /**
     * What refers to another that goes too is in its way once.
     *
     * @param  non-empty-list<Order>  $orders
     * @return list<Answer>
     *
     * @throws TargetUnavailable
     */
    private static function answered(Writing $writing, array $orders): array
    {
        $all = [];
        do {
            $before = count($orders);
            foreach ($writing->do($orders) as $answer) {
                $all[$answer->row] = $answer;
            }
            $orders = array_values(array_filter($orders, fn (Order $o) => $all[$o->row]->done === Done::Refused));
        } while ($orders !== [] && count($orders) < $before);

        return array_values($all);
    }

    /**
     * Rows that lose their line alone: another row stands on the record, or they were merged into it.
     *
     * @param  array<int, Standing>  $standing
     * @return array<int, true> by row
     */
    private function shared(LoadRun $run, array $standing): array
    {
        $spaces = $this->spaces->among([$run->load->entity->name], null);
        $keys = array_values(array_unique(array_map(fn (Standing $s) => $s->targetKey, $standing)));
        $held = [];
        foreach ($this->reader->holders($spaces, $keys) as [$target, , $load, $row, , $isGone]) {
            $isSelf = (int) $load === $run->load->id && isset($standing[(int) $row]) && $standing[(int) $row]->targetKey === $target;
            $held[$target] = ($held[$target] ?? false) || (! $isGone && ! $isSelf);
        }

        return array_filter(array_map(
            fn (Standing $s) => $s->outcome === Outcome::Merged || ($held[$s->targetKey] ?? false),
            $standing,
        ));
    }

    private function why(string $code, string $message, Standing $of): Cause
    {
        return new Cause(Stage::Writing, $code, null, $of->targetKey, mb_substr($message, 0, 500));
    }

    /**
     * @param  array<int, Standing>  $standing
     * @param  list<Answer>  $answers
     * @param  array<int, Cause>  $review
     */
    private function record(LoadRun $run, array $standing, array $answers, array $review): void
    {
        $matches = new MatchEntries($run->lane(), $this->catalogue->entityIds());
        $ids = (new CauseBook($run->lane(), $run->load->id, $this->spaces))->ids(array_values($review));
        $causes = array_map(fn (Cause $cause) => (int) $ids[CauseBook::hash($cause)], $review);
        (new LedgerWriter)->withdraw($run, array_keys(array_diff_key($standing, $review)), $causes, $answers, $matches);
    }
}
