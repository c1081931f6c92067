<?php

namespace App\Loading;

use App\Catalogue\Definitions;
use App\Ledger\BackOutBook;
use App\Ledger\BackOutRecord;
use App\Ledger\KeyChanges;
use App\Ledger\LedgerReader;
use App\Ledger\LedgerWriter;
use App\Ledger\LoadRun;
use App\Ledger\MatchEntries;
use App\Ledger\SentRows;
use App\Ledger\Spaces;
use App\Ledger\Stretches;
use App\Ledger\WaiverBook;
use App\Models\LoadState;
use App\Models\Pass;
use App\Models\PassLoad;
use App\Targets\Ports;
use Baggage\Core\Loading\BackOut;
use Baggage\Core\Loading\Mark;
use Baggage\Core\Loading\PlanVersion;
use Baggage\Core\Loading\Portion;
use Baggage\Core\Loading\SideBySide;
use Baggage\Core\Loading\Stretch;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Loading\Undoing;
use Baggage\Core\Mapping\LoadDefinition;
use Baggage\Core\Rows\Journey;
use Baggage\Core\Rows\Outcome;

/**
 * The loads of a pass that backs others out, as one worker sees them. Children go before their parents; the rows of a load in stretches,
 * by any number of workers.
 */
final class BackOutLoads
{
    /** Row numbers of a stretch. */
    private const STRETCH = 5_000;

    /** @param  array<string, int>  $entities  name → number */
    private function __construct(
        private readonly Pass $pass,
        private readonly PlanVersion $plan,
        private readonly string $installation,
        private readonly array $entities,
        private readonly Ports $ports,
        private readonly Patience $patience,
        private readonly BackOutBook $book,
        private readonly SentRows $sent,
        private readonly Spaces $spaces,
        private readonly MatchEntries $matches,
        private readonly SideBySide $order,
    ) {
    }

    public static function of(Pass $pass, PlanVersion $plan, Definitions $catalogue, Ports $ports, Patience $patience): self
    {
        $entities = $catalogue->entityIds();
        $spaces = Spaces::of($catalogue->migration);

        return new self(
            $pass,
            $plan,
            $catalogue->migration->installation,
            $entities,
            $ports,
            $patience,
            new BackOutBook($pass->lane_id, $pass->backs_out ?: [0], $pass->id),
            SentRows::of($pass->round, $spaces),
            $spaces,
            new MatchEntries($pass->lane_id, $entities),
            new SideBySide($plan),
        );
    }

    /**
     * Once, before the first row: whether another round stands on a record, and the references of records that are to go.
     *
     * @throws TargetUnavailable
     * @throws BackOutRefused
     */
    public function prepare(): void
    {
        $all = $this->pass->passLoads()->get()->all();
        KeyChanges::reverse($this->pass->lane_id, $this->pass->backs_out ?? []);
        foreach ($all as $progress) {
            $load = $this->plan->load($progress->load_id);
            $stands = $load->reads() ? null : $this->book->standsElsewhere($load->id, $this->entity($load));
            $stands === null ?: throw BackOutRefused::by($stands);
        }
        $reviving = new Reviving($this->book, $this->ports, $this->mark(), $this->installation);
        foreach ($this->pass->passLoads()->orderBy('wave')->orderBy('id')->get() as $progress) {
            $load = $this->plan->load($progress->load_id);
            $reviving->run($progress, $load, $this->entity($load));
        }
        foreach ($all as $progress) {
            $load = $this->plan->load($progress->load_id);
            $fields = $this->plan->order()->deferredFields($load->entity->name);
            for ($after = 0; $fields !== [] && $after < $progress->last_row; $after += self::STRETCH) {
                $this->clearReferences($progress, $load, $after, min($progress->last_row, $after + self::STRETCH));
            }
        }
    }

    /** @throws TargetUnavailable */
    private function clearReferences(PassLoad $progress, LoadDefinition $load, int $after, int $to): void
    {
        $references = $this->book->references($load->id, $after, $to);
        if ($references === []) {
            return;
        }
        [$rows, $passes] = $this->book->rows($load->id, $this->entity($load), $load->reads(), $after, $to);
        $rows = array_filter($rows, fn (Undoing $u) => $u->made !== null);
        // What rows of other loads changed too is not what it was sent as, until these are taken back.
        $alone = array_values(array_filter($rows, fn (Undoing $u) => $u->isAlone));
        $this->backOut($progress, $load, $passes)->look($alone);
        $this->book->leave($load->id, array_values(array_filter($rows, fn (Undoing $u) => $u->left !== null)));
        $made = array_column(array_filter($rows, fn (Undoing $u) => $u->left === null), null, 'row');
        foreach ($this->plan->order()->deferredFields($load->entity->name) as $field) {
            $of = array_filter($references, fn ($r) => $r->field === $field && isset($made[(int) $r->item]));
            $this->ports->target->setReference($load->entity, $field, array_values(array_map(fn ($r) => [$r->target_key, null], $of)));
        }
    }

    /**
     * Does the next thing there is to do.
     *
     * @return bool|null null when nothing is left; false while others must finish first
     *
     * @throws TargetUnavailable
     */
    public function step(): ?bool
    {
        $all = $this->pass->passLoads()->orderByDesc('wave')->orderByDesc('id')->get()->all();
        $open = array_filter($all, fn (PassLoad $p) => in_array($p->state, [LoadState::Waiting, LoadState::Running], true));
        foreach ($open as $progress) {
            if (! $this->isNeeded($progress, $all) && $this->work($progress)) {
                return true;
            }
        }

        return $open === [] ? null : false;
    }

    /**
     * Whether loads that came after it, as they need its records, are not taken back yet.
     *
     * @param  list<PassLoad>  $all
     */
    private function isNeeded(PassLoad $progress, array $all): bool
    {
        $load = $this->plan->load($progress->load_id);
        foreach ($all as $other) {
            $after = $this->plan->load($other->load_id);
            if (! $other->state->isOver() && $other->id !== $progress->id && in_array($load, $this->order->before($after), true)) {
                return true;
            }
        }

        return false;
    }

    /** @throws TargetUnavailable */
    private function work(PassLoad $progress): bool
    {
        $progress->state === LoadState::Running ?: $progress->update(['state' => LoadState::Running]);
        $stretches = new Stretches($progress->id);
        $last = $progress->last_row;
        $portion = $stretches->take(Stretches::FREE, false, fn (int $after) => $after < $last ? min($last, $after + self::STRETCH) : null);
        if ($portion === null) {
            return ! $stretches->isAnyOpen(Stretches::FREE) && $this->pass->passLoads()->whereKey($progress->id)
                ->where('state', LoadState::Running)->update(['state' => LoadState::Done]) === 1;
        }
        $this->patience->during(fn () => $this->undo($progress, $this->plan->load($progress->load_id), $portion));
        $stretches->release(Stretches::FREE, $portion->after);

        return true;
    }

    /** @throws TargetUnavailable */
    private function undo(PassLoad $progress, LoadDefinition $load, Portion $portion): void
    {
        $since = microtime(true);
        [$rows, $passes] = $this->book->rows($load->id, $this->entity($load), $load->reads(), $portion->after, $portion->to);
        $left = $this->book->left($load->id, $portion->after, $portion->to);
        foreach ($rows as $undoing) {
            $undoing->left = $left[$undoing->row] ?? null;
        }
        $stretch = new Stretch($this->installation, $this->pass->id, $load->id, $portion->after, $portion->to);
        // Any earlier try may have got as far as the target.
        $receipt = $this->ports->target->recall($stretch);
        $cleared = $this->clear($load, $rows);
        $open = array_values(array_filter($rows, fn (Undoing $u) => $u->left === null));
        $this->backOut($progress, $load, $passes)->undo($open, $stretch, $receipt);
        $this->record($progress, $load, $rows, new BackOutRecord($portion->after, $cleared), $since);
    }

    /**
     * References of records that stay, to records that are to go.
     *
     * @param  list<Undoing>  $rows
     * @return list<\stdClass> load_id, item, field
     *
     * @throws TargetUnavailable
     */
    private function clear(LoadDefinition $load, array $rows): array
    {
        if (! $this->isReferredToLate($load)) {
            return [];
        }
        $made = array_values(array_filter(array_map(fn (Undoing $u) => $u->left === null ? $u->made : null, $rows), is_string(...)));
        $cleared = $this->book->referencesTo($this->entity($load), $made);
        foreach ($cleared as $link) {
            $entity = $this->plan->load((int) $link->load_id)->entity;
            $this->ports->target->setReference($entity, $link->field, [[$link->target_key, null]]);
        }

        return $cleared;
    }

    /** Whether references to the load's records may have been set after their own. */
    private function isReferredToLate(LoadDefinition $load): bool
    {
        foreach ($this->plan->loads as $other) {
            foreach ($this->plan->order()->deferredFields($other->entity->name) as $field) {
                if (($other->entity->fields[$field]->refers ?? null) === $load->entity->name) {
                    return true;
                }
            }
        }

        return false;
    }

    /** @param  list<Undoing>  $rows */
    private function record(PassLoad $progress, LoadDefinition $load, array $rows, BackOutRecord $record, float $since): void
    {
        $run = LoadRun::of($this->pass, $progress, $load, $this->entities, $this->spaces);
        $lines = $this->book->linesBefore($load->id, array_map(fn (Undoing $u) => $u->row, $rows));
        $lines = WaiverBook::asDecided($load->id, $lines, array_column($rows, 'legacyKey', 'row'));
        $again = [];
        $before = array_column($rows, 'before', 'row');
        $sentBy = $this->book->sentBy($load->id, $lines);
        foreach ($rows as $undoing) {
            $line = $lines[$undoing->row] ?? null;
            $record->row($undoing, $line, $load->reads());
            if (! $undoing->keeps() && $line !== null) {
                $line->cause_id === null ?: $record->cause($run->lane(), $load->id, $undoing->row, (int) $line->cause_id);
                $line->target_key === null ?: $again[$undoing->row] = $sentBy[$undoing->row] ?? (int) $line->pass_id;
            }
        }
        $journeys = $this->sent->journeys($progress, $again);
        $this->linked($load, $journeys, $before);
        foreach ($journeys as $row => $journey) {
            $journey->settle(Outcome::from($lines[$row]->outcome), (string) $lines[$row]->target_key);
            $record->stands($journey, $run, $this->spaces);
        }
        (new LedgerWriter)->restore($run, $record, $this->book, $this->matches, microtime(true) - $since);
    }

    /**
     * References of rows that stand again are set as their records say it; a parent that is there now may be on its way out.
     *
     * @param  array<int, Journey>  $journeys  by row
     * @param  array<int, array<string, string|null>>  $before  row → its record as it was, where it was changed
     */
    private function linked(LoadDefinition $load, array $journeys, array $before): void
    {
        foreach ($this->plan->order()->deferredFields($load->entity->name) as $field) {
            $key = fn (Journey $j) => ($j->links[$field]['isSet'] ?? false) ? $j->values[$field] ?? null : null;
            $keys = array_values(array_unique(array_filter(array_map($key, $journeys), is_string(...))));
            $entity = $this->entities[(string) $load->entity->fields[$field]->refers] ?? 0;
            $going = $keys === [] ? [] : $this->book->made($entity, $keys);
            foreach ($journeys as $row => $journey) {
                if (isset($journey->links[$field])) {
                    $isSet = array_key_exists($field, $before[$row] ?? [])
                        ? $before[$row][$field] !== null
                        : $key($journey) !== null && ! isset($going[$key($journey)]);
                    $journey->links[$field] = ['isSet' => $isSet] + $journey->links[$field];
                }
            }
        }
    }

    /** @param  array<int, int>  $passes  row → the pass of its line */
    private function backOut(PassLoad $progress, LoadDefinition $load, array $passes): BackOut
    {
        return new BackOut(
            $load,
            $this->plan->order()->deferredFields($load->entity->name),
            $this->ports->target,
            $this->ports->records,
            $this->mark(),
            fn (array $rows) => array_map(
                fn ($journey) => $journey->values,
                $this->sent->journeys($progress, array_intersect_key($passes, array_flip($rows))),
            ),
        );
    }

    private function mark(): Mark
    {
        $round = $this->pass->round;

        return new Mark(
            $this->installation,
            $this->pass->lane_id,
            $round->name,
            $round->created_at->format('Y-m-d H:i:s'),
        );
    }

    private function entity(LoadDefinition $load): int
    {
        return $this->entities[$load->entity->name];
    }

    /**
     * What needs all loads: the lane knows what it stands on, and its mark goes with its last record.
     *
     * @throws TargetUnavailable
     */
    public function finish(): void
    {
        foreach ($this->plan->loads as $load) {
            (new LedgerWriter)->pointAtRoots($this->pass->lane_id, $load->id);
        }
        foreach ($this->book->takesBefore() as $load => $take) {
            (new LedgerWriter)->workOnAgain($this->pass->round, $load, $take);
        }
        $this->matches->readAgain();
        $this->pass->round->passes()->whereKey($this->pass->backs_out ?? [])->update(['backed_out_by' => $this->pass->id]);
        $this->pass->update(['left_records' => BackOutBook::countLeftBy($this->pass->id)]);
        if (! (new LedgerReader($this->pass->round))->standsAnywhere()) {
            $this->ports->target->unmark($this->installation, $this->pass->lane_id);
        }
        $this->book->forget();
    }
}
