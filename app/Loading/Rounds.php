<?php

namespace App\Loading;

use App\Catalogue\Definitions;
use App\Decisions\Numbers;
use App\Deltas\Delta;
use App\Deltas\DeltaLoads;
use App\Freezing\Room;
use App\Ledger\BackOutBook;
use App\Ledger\DueBook;
use App\Ledger\LedgerReader;
use App\Ledger\Only;
use App\Models\Audit;
use App\Models\KeptPlan;
use App\Models\KeySpace;
use App\Models\Lane;
use App\Models\Load;
use App\Models\LoadState;
use App\Models\Migration;
use App\Models\Pass;
use App\Models\PassKind;
use App\Models\PassLoad;
use App\Models\PassState;
use App\Models\Round;
use App\Models\RoundLoad;
use App\Models\SetBack;
use App\Models\Target;
use App\Models\Work;
use App\Support\Meanwhile;
use App\Targets\Ports;
use App\Targets\Question;
use Baggage\Core\Crosswalks\SpaceName;
use Baggage\Core\Loading\Mark;
use Baggage\Core\Loading\PlanVersion;
use Baggage\Core\Loading\Target as TargetPort;
use Baggage\Core\Rows\Outcome;
use Illuminate\Support\Collection;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\DB;

/** Begins rounds and passes. */
final class Rounds
{
    public const SET_BACK = 'This target was set back: what the round wrote there is not known to it any more. '
        .'End the round, or have a lead look whether its records are there.';

    /**
     * @param  array<string, string|null>  $parameters  by name; the migration's other parameters have their defaults
     * @param  bool  $anyway  whether records of other rounds may be there
     * @param  array<string, mixed>|null  $standing  as the target answered already
     * @param  Round|null  $earlier  of the same target, whose key crosswalk is taken over: rows are the records it made of their keys
     *
     * @throws TargetInUse
     * @throws \DomainException when the name is taken, a parameter is unknown or has no value, or the target does not answer
     */
    public function begin(
        Migration $migration,
        Target $target,
        string $name,
        string $kind = 'rehearsal',
        array $parameters = [],
        bool $anyway = true,
        ?array $standing = null,
        ?Round $earlier = null,
    ): Round {
        $this->mayFollow($earlier, $migration, $target);
        $given = $this->given($migration, $parameters);
        if ($migration->rounds()->where('name', $name)->exists()) {
            throw new \DomainException("There is a round named \"$name\" already.");
        }
        $standing ??= Ports::ask($target, Question::Standing, ['marks' => ! $anyway]);
        $this->mayBeWritten($migration, $standing['tables']);
        $others = $anyway ? [] : self::marks($standing);
        if ($others !== []) {
            throw TargetInUse::by($target->name, $others);
        }
        $round = $migration->rounds()->create([
            'kind' => $kind,
            'name' => $name,
            'number' => (int) $migration->rounds()->max('number') + 1,
            'parameters' => $given ?: null,
            'user_id' => Auth::id(),
        ]);
        $round->lane()->create(['target_id' => $target->id, 'earlier_lane_id' => $earlier?->lane?->id]);
        Audit::note($migration->id, "began round $name", ['target' => $target->name, 'matched against' => $earlier?->name]);

        return $round;
    }

    /** @throws \DomainException where a round has nothing in the target that another could be matched against */
    private function mayFollow(?Round $earlier, Migration $migration, Target $target): void
    {
        if ($earlier === null) {
            return;
        }
        if ($earlier->migration_id !== $migration->id || $earlier->lane?->target_id !== $target->id) {
            throw new \DomainException("Round $earlier->name did not write into \"$target->name\", and cannot be matched against there.");
        }
        if (! (new LedgerReader($earlier))->standsAnywhere()) {
            throw new \DomainException("Nothing of round $earlier->name stands in \"$target->name\" that could be matched against.");
        }
    }

    /**
     * @param  array<string, string|null>  $parameters
     * @return array<string, string> all of the migration's
     *
     * @throws \DomainException
     */
    public function given(Migration $migration, array $parameters): array
    {
        $given = [];
        foreach ($migration->parameters()->orderBy('name')->get() as $parameter) {
            $value = trim((string) ($parameters[$parameter->name] ?? $parameter->default_value));
            $given[$parameter->name] = $value === ''
                ? throw new \DomainException("The parameter \"$parameter->name\" has no value: $parameter->prompt")
                : $value;
            unset($parameters[$parameter->name]);
        }

        return $parameters === []
            ? $given
            : throw new \DomainException('The migration has no parameter named "'.array_key_first($parameters).'".');
    }

    /**
     * @param  list<string>  $tables  of the target
     *
     * @throws \DomainException where a load's entity has none
     */
    private function mayBeWritten(Migration $migration, array $tables): void
    {
        foreach ($migration->loads()->with('entity')->get()->pluck('entity.name')->unique() as $entity) {
            if (! in_array($entity, $tables, true)) {
                throw new \DomainException(
                    "The target has no table \"$entity\" yet, which a load fills: make it at Target.",
                );
            }
        }
    }

    /**
     * Rounds that wrote into a target, as its marks say.
     *
     * @return list<Mark>
     *
     * @throws \Baggage\Core\Loading\TargetUnavailable
     */
    public static function others(Target $target, ?Lane $but = null): array
    {
        $own = $but?->round?->migration?->installation;

        return array_values(array_filter(
            self::marks(Ports::ask($target, Question::Standing, ['marks' => true])),
            fn (Mark $m) => $but === null || $m->lane !== $but->id || $m->installation !== $own,
        ));
    }

    /**
     * @param  array{marks: list<array{installation: string, lane: int, round: string, begun: string}>}  $standing
     * @return list<Mark>
     */
    private static function marks(array $standing): array
    {
        return array_map(fn (array $mark) => new Mark(...$mark), $standing['marks']);
    }

    public static function isMarked(Lane $lane, string $installation, TargetPort $target): bool
    {
        foreach ($target->marks() as $mark) {
            if ($mark->lane === $lane->id && $mark->installation === $installation) {
                return true;
            }
        }

        return false;
    }

    /**
     * A DomainException says when the round is not ready for such a pass.
     *
     * @param  list<int>  $without  loads that are left out: their rows are not asked for, and hold those that need them
     * @param  Only|null  $only  the causes it is about
     */
    public function pass(
        Round $round,
        PassKind $kind,
        array $without = [],
        ?TargetReady $target = null,
        ?Only $only = null,
        ?Delta $delta = null,
    ): Pass {
        // Asked before anything is held: it may take as long as a page may wait.
        $target ??= TargetReady::of($round->migration()->firstOrFail(), $round->target()->firstOrFail());

        return DB::transaction(function () use ($round, $kind, $without, $target, $only, $delta) {
            $round = Round::query()->whereKey($round->id)->lockForUpdate()->firstOrFail();
            $last = $round->latestPass();
            $this->isOpen($round);
            $this->mayBegin($kind, $last);
            $definitions = new Definitions($round->migration()->firstOrFail(), $round->parameters ?? []);
            $kind === PassKind::Retry ?: $this->takeUp($round, $definitions);
            $loads = $round->roundLoads()->with(['space', 'take', 'ofLoad.extract.take'])->orderBy('id')->get()->keyBy('load_id');
            $version = $definitions->version()->only($loads->keys()->all());
            $this->sameSpaces($version, $loads);
            $pass = $round->passes()->create(self::as($kind, $last, [
                'lane_id' => $round->laneId(),
                'plan_version_id' => KeptPlan::keep($round->migration_id, $version)->id,
                'decision' => Numbers::last($round->migration_id),
                'told' => $target->for($version),
                'only' => $only?->id(),
                'is_full' => $delta->isFull ?? false,
            ]));
            $delta === null
                ? $this->give($pass, $version, $loads, $without)
                : DeltaLoads::give($pass, $version, $loads, $without, $delta);
            Room::refuseOnDisk(Room::neededForRows((int) $pass->passLoads()->sum('rows_total')), 'The pass');

            return $pass;
        });
    }

    /**
     * @param  array<string, mixed>  $more
     * @return array<string, mixed> a pass that comes after another
     */
    private static function as(PassKind $kind, ?Pass $last, array $more): array
    {
        return $more + [
            'number' => ($last->number ?? 0) + 1, 'kind' => $kind, 'state' => PassState::Queued, 'user_id' => Auth::id(),
        ];
    }

    /**
     * Takes back what a pass and all later ones of the round wrote. Of these, those that were taken back already are not meant. A
     * DomainException says why that cannot be.
     */
    public function backOut(Round $round, int $number): Pass
    {
        return DB::transaction(function () use ($round, $number) {
            $round = Round::query()->whereKey($round->id)->lockForUpdate()->firstOrFail();
            $last = $round->latestPass();
            $all = $this->toBackOut($round, $number);
            $ids = array_values($all->map(fn (Pass $p) => $p->id)->all());
            $newest = $all->last() ?? throw new \LogicException('There is one at least.');
            $pass = $round->passes()->create(self::as(PassKind::BackOut, $last, [
                'lane_id' => $round->laneId(), 'plan_version_id' => $newest->plan_version_id, 'decision' => $newest->decision,
                'told' => [], 'backs_out' => $ids,
            ]));
            $this->giveBack($pass, $newest->plan()->firstOrFail()->version(), (new BackOutBook($pass->lane_id, $ids, $pass->id))->counts());

            return $pass;
        });
    }

    /**
     * A pass and all later ones that are not taken back already. A DomainException says why they cannot be.
     *
     * @return Collection<int, Pass>
     */
    public function toBackOut(Round $round, int $number): Collection
    {
        $this->isOpen($round);
        $this->mayBegin(PassKind::BackOut, $round->latestPass());
        $all = $round->passes()->where('number', '>=', $number)->where('kind', '<>', PassKind::BackOut)->whereNull('backed_out_by')
            ->orderBy('number')->get();
        if ($all->first()?->number !== $number) {
            throw new \DomainException("There is no pass $number of $round->name that could be backed out.");
        }
        if ($all->contains(fn (Pass $p) => ! $p->is_logged)) {
            throw new \DomainException("Pass $number of $round->name ran before it was kept what passes replace: it cannot be backed out.");
        }

        return $all;
    }

    /** @param  array<int, int>  $counts  load → rows */
    private function giveBack(Pass $pass, PlanVersion $version, array $counts): void
    {
        $waves = $version->order()->waves;
        // A pass may have been about rows that another take had.
        $last = PassLoad::query()->whereIn('pass_id', $pass->backs_out ?? [])->groupBy('load_id')->selectRaw('load_id, MAX(last_row) AS n')
            ->pluck('n', 'load_id')->map(fn ($n) => (int) $n);
        foreach ($pass->round->roundLoads()->with('take')->get() as $of) {
            $pass->passLoads()->create([
                'load_id' => $of->load_id,
                'take_id' => $of->take_id,
                'wave' => $waves[$version->load($of->load_id)->entity->name],
                'state' => LoadState::Waiting,
                'rows_total' => $counts[$of->load_id] ?? 0,
                'last_row' => $last[$of->load_id] ?? $of->take->lastRow(),
            ]);
        }
    }

    /**
     * The keys of one load stand in one space for the whole round, or its children would look for them in the wrong one.
     *
     * @param  Collection<int, RoundLoad>  $loads  by load
     *
     * @throws \DomainException
     */
    private function sameSpaces(PlanVersion $version, Collection $loads): void
    {
        foreach ($version->loads as $load) {
            $before = $loads->firstOrFail('load_id', $load->id)->space->name;
            if ($before !== $load->rowSpace()) {
                $does = fn (bool $reads) => $reads ? 'reads' : 'writes';
                throw new \DomainException(
                    "In this round \"$load->name\" {$does(SpaceName::isOfRows($before))} the key space ".SpaceName::given($before)
                        .", and now it {$does($load->reads())} $load->space. Set it back, or begin a new round.",
                );
            }
        }
    }

    /**
     * The loads of a pass, each with its take.
     *
     * @param  Collection<int, RoundLoad>  $loads  by load
     * @param  list<int>  $without
     */
    private function give(Pass $pass, PlanVersion $version, Collection $loads, array $without): void
    {
        $order = $version->order();
        $lateParents = array_map(fn ($r) => $r->parent, $order->deferred);
        $first = $pass->kind === PassKind::First;
        $tallies = $first ? [] : (new LedgerReader($pass->round))->tallies();
        $book = new DueBook($pass->lane_id);
        $only = Only::of((string) $pass->only);
        $due = match (true) {
            $first => [],
            $only === null => $book->counts(),
            default => [$only->load => $book->alike([$only->load])[implode('|', [$only->load, ...$only->alike])] ?? 0],
        };
        foreach ($version->loads as $load) {
            $of = $loads->firstOrFail('load_id', $load->id);
            $isOut = in_array($load->id, $without, true);
            // Keys of a load that is left out are announced too: rows that need it are held then, and are no orphans.
            $isLate = ! $load->reads() && in_array($load->entity->name, $lateParents, true);
            // One that was left out with rules that did not work has no line yet.
            $isAnnounced = $first ? $isOut : ! isset($tallies[$load->id]) && $of->feed_rows > 0;
            $pass->passLoads()->create([
                'load_id' => $load->id,
                'take_id' => $of->take_id,
                'wave' => $order->waves[$load->entity->name],
                'state' => $isOut ? LoadState::LeftOut : LoadState::Waiting,
                'rows_total' => match (true) {
                    $isOut => 0,
                    $first => $of->feed_rows,
                    $isAnnounced => $of->feed_rows,
                    default => ($only === null ? $tallies[$load->id][Outcome::Pending->value] ?? 0 : 0) + ($due[$load->id] ?? 0),
                },
                'key_cursor' => $isAnnounced ? 0 : null,
                'late_row' => $first && $isLate && ! $isOut ? 0 : null,
                'last_row' => $of->take->lastRow(),
            ]);
        }
    }

    /** The loads there are now become those of the round, each with the take that counts now. */
    private function takeUp(Round $round, Definitions $definitions): void
    {
        $this->mayBeRead($definitions);
        $has = $round->roundLoads()->pluck('load_id')->all();
        foreach ($definitions->loads()->whereNotIn('id', $has) as $load) {
            $round->roundLoads()->create([
                'load_id' => $load->id,
                'take_id' => $load->extract->take_id,
                'space_id' => KeySpace::of($load, $definitions->definition($load))->id,
                'number' => 1,
                'feed_rows' => (int) $load->extract->take?->rows,
                'source_rows' => (int) $load->extract->take?->source_rows,
            ]);
        }
    }

    /**
     * What a round is called and what it is for. Marks it left in a target bear its number, so a name may change.
     *
     * @param  mixed  $was  both as a form showed them
     *
     * @throws \DomainException when another round has the name
     * @throws \App\Support\EditLost
     */
    public static function describe(Round $round, string $name, string $note, mixed $was = null): void
    {
        $others = Round::query()->where('migration_id', $round->migration_id)->whereKeyNot($round->id)->where('name', $name);
        if ($others->exists()) {
            throw new \DomainException("There is a round named \"$name\" already.");
        }
        $changed = Meanwhile::change($round, $was, ['name' => $name, 'note' => $note === '' ? null : $note], [
            'name' => 'Name of the round',
            'note' => 'What it was for',
        ]);
        Audit::note($round->migration_id, "described round $name", $changed);
    }

    /** @throws \DomainException */
    private function isOpen(Round $round): void
    {
        if ($round->hasEnded()) {
            throw new \DomainException("Round $round->name has ended: {$round->ended_as?->value}, $round->ended_because.");
        }
        if ($round->lane?->is_set_back === SetBack::Yes) {
            throw new \DomainException(self::SET_BACK);
        }
    }

    /** @throws \DomainException */
    private function mayBegin(PassKind $kind, ?Pass $last): void
    {
        if ($last !== null && Work::isRepairing($last->round->migration_id)) {
            throw new \DomainException('Rows are being repaired by a worker. Begin the pass when it has ended.');
        }
        if ($last?->isGoing()) {
            throw new \DomainException("Pass $last->number is still running.");
        }
        if ($last?->canResume()) {
            throw new \DomainException("Pass $last->number is not finished: resume it first.");
        }
        if ($kind === PassKind::First && $last !== null) {
            throw new \DomainException(
                'This round has had its first pass. Load repaired rows again, or begin a new round.',
            );
        }
        if ($kind === PassKind::BackOut && $last === null) {
            throw new \DomainException('This round has had no pass: there is nothing to back out.');
        }
        if ($kind === PassKind::Delta && $last === null) {
            throw new \DomainException('This round has no first pass yet: there is nothing a delta could differ from.');
        }
        if ($kind === PassKind::Retry && $last === null) {
            throw new \DomainException('This round has no first pass yet.');
        }
    }

    /** @throws \DomainException */
    private function mayBeRead(Definitions $definitions): void
    {
        if ($definitions->loads()->isEmpty()) {
            throw new \DomainException('There is no load to run. Map an entity first.');
        }
        foreach ($definitions->loads() as $load) {
            if ($load->extract->take === null) {
                throw new \DomainException(
                    "Load \"$load->name\" reads the extract {$load->extract->name}, of which nothing has been frozen.",
                );
            }
        }
    }

    /**
     * Begins a round with its first pass, or neither. The target is asked before: what asks it may have to be sent again.
     *
     * @param  array<string, string|null>  $parameters
     * @param  list<int>  $without  loads that are left out
     */
    public function open(
        Migration $migration,
        Target $target,
        string $name,
        string $kind,
        array $parameters,
        bool $anyway,
        array $without,
        ?Round $earlier = null,
    ): Pass {
        $ready = TargetReady::of($migration, $target);
        $standing = Ports::ask($target, Question::Standing, ['marks' => ! $anyway]);

        return DB::transaction(fn () => $this->start(
            $this->begin($migration, $target, $name, $kind, $parameters, $anyway, $standing, $earlier),
            PassKind::First,
            $without,
            $ready,
        ));
    }

    /** @param  list<int>  $without  loads that are left out */
    public function start(
        Round $round,
        PassKind $kind,
        array $without = [],
        ?TargetReady $target = null,
        ?Only $only = null,
        ?Delta $delta = null,
    ): Pass {
        $pass = $this->pass($round, $kind, $without, $target, $only, $delta);
        Audit::note($round->migration_id, "started pass $pass->number of $round->name", ['kind' => $kind->value]);
        WorkOnPass::byAll($pass->id);

        return $pass;
    }

    public function startBackOut(Round $round, int $number): Pass
    {
        $pass = $this->backOut($round, $number);
        Audit::note($round->migration_id, "started pass $pass->number of $round->name", ['kind' => $pass->kind->value, 'from' => $number]);
        WorkOnPass::byAll($pass->id);

        return $pass;
    }

    public function resume(Pass $pass): void
    {
        if ($pass->isGoing()) {
            throw new \DomainException("Pass $pass->number is running.");
        }
        $this->isOpen($pass->round);
        $pass->update(['state' => PassState::Queued, 'stop_requested' => false, 'error' => null, 'finished_at' => null]);
        PassLog::note($pass, 'It was resumed.');
        $pass
            ->passLoads()
            ->whereIn('state', [LoadState::Failed, LoadState::Blocked])
            ->update(['state' => LoadState::Waiting, 'error' => null]);
        WorkOnPass::byAll($pass->id);
    }
}
