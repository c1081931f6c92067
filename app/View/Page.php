<?php

namespace App\View;

use App\Catalogue\Definitions;
use App\Decisions\Numbers;
use App\Ledger\DeltaBook;
use App\Ledger\DueBook;
use App\Mapping\RuleLine;
use App\Models\CodeCrosswalk;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Pass;
use App\Models\Round;
use App\Models\Take;
use App\Overview\ListedCrosswalk;
use App\Overview\ListedEntity;
use App\Overview\ListedLoad;
use App\Overview\Overview;
use App\Overview\OverviewBook;
use App\Reconciling\Proofs;
use App\Rejects\CauseGroup;
use Baggage\Core\Mapping\GonePolicy;
use Baggage\Core\Reconciling\CountProof;
use Baggage\Core\Rows\Outcome;
use Illuminate\Support\Collection;

/** What stands around the work area on every page: stop and entity, the route, the rail, round and pass. */
final class Page
{
    public const STOPS = [
        'sources' => 'Sources',
        'target' => 'Target',
        'mapping' => 'Mapping',
        'crosswalks' => 'Crosswalks',
        'order' => 'Order',
        'runs' => 'Runs',
        'rejects' => 'Rejects',
        'reconciliation' => 'Reconciliation',
    ];

    /** @var array<int, int>|null load → rows that are due */
    private ?array $due = null;

    /** @var array<int, Take>|null by load */
    private ?array $takes = null;

    /** @var list<array{wave: int|null, entities: list<RailEntity>}>|null */
    private ?array $rail = null;

    /** @var Collection<int, ListedLoad>|null */
    private ?Collection $loads = null;

    /**
     * @param  Collection<int, Round>  $rounds  of the migration, the newest first
     * @param  Definitions  $definitions  read when a page asks it for something
     * @param  Proofs|null  $figures  of the round
     */
    private function __construct(
        public readonly Migration $migration,
        public readonly string $stop,
        public readonly Definitions $definitions,
        public readonly ?ListedEntity $entity,
        public readonly Collection $rounds,
        public readonly ?Round $round,
        public readonly ?Pass $pass,
        public readonly Overview $overview,
        private readonly ?Proofs $figures,
    ) {
    }

    /**
     * The round is the one the request names, else the one this session looks at, else the latest.
     *
     * @param  string|null  $entity  the one chosen in the rail
     */
    public static function of(Migration $migration, string $stop, ?string $entity = null): self
    {
        $overview = OverviewBook::of($migration);
        $listed = $entity === null ? null : collect($overview->entities)->firstWhere('name', $entity) ?? abort(404);

        return self::around($migration, $stop, $listed, $overview);
    }

    private static function around(Migration $migration, string $stop, ?ListedEntity $listed, Overview $overview): self
    {
        $rounds = Round::ofMigration($migration);
        $chosen = request()->integer('round') ?: session("round.$migration->id");
        $round = $rounds->firstWhere('id', $chosen) ?? $rounds->first();
        $figures = $round === null ? null : Proofs::of($round);

        return new self(
            $migration,
            $stop,
            new Definitions($migration, [], $overview->parameters, array_column($overview->entities, 'id', 'name')),
            $listed,
            $rounds,
            $round,
            $figures?->passes()->last(),
            $overview,
            $figures,
        );
    }

    /** The page of the entity a load fills. */
    public static function ofLoad(Migration $migration, string $stop, Load $load): self
    {
        $overview = OverviewBook::of($migration);
        $name = collect($overview->loads)->firstWhere('id', $load->id)->entity ?? $load->entity->name;

        return self::around($migration, $stop, collect($overview->entities)->firstWhere('name', $name) ?? abort(404), $overview);
    }

    /** Why the loads have no order, if so. */
    public function orderError(): ?string
    {
        return $this->overview->orderError;
    }

    public function url(string $stop, ?string $entity = null): string
    {
        return "/m/{$this->migration->id}/$stop".($entity === null ? '' : "/$entity");
    }

    /** Address of what a record hangs on, and what hangs on it. */
    public function family(int $load, int $row): string
    {
        return "/m/{$this->migration->id}/rows/$load/$row/family".($this->round === null ? '' : "?round={$this->round->id}");
    }

    /** Address of rows whose records differ in one way. */
    public function compared(int $load, string $field, string $class, string $happened): string
    {
        return $this->url("compared/$load").'?'.http_build_query(['field' => $field, 'class' => $class, 'happened' => $happened]);
    }

    /** Address of the search for a legacy key. */
    public function trace(string $space, string $key): string
    {
        return "/m/{$this->migration->id}/trace?q=".urlencode("$space ".Say::key($key));
    }

    /** Address of the rows a cause of a load's check is about. */
    public function check(int $load, int $cause): string
    {
        return "/m/{$this->migration->id}/mapping/loads/$load/check/$cause";
    }

    /** Address of the journey of a row, of a line that names its load and number. */
    public function journey(object $line): string
    {
        return "/m/{$this->migration->id}/rows/$line->load_id/$line->row_no";
    }

    /** @return list<ListedCrosswalk> the code crosswalks a kept rule uses */
    public function codesOf(RuleLine $line): array
    {
        return array_values(array_filter(
            $this->overview->codes,
            fn (ListedCrosswalk $c) => in_array($c->name, $line->codes, true),
        ));
    }

    /** Address of a code's line in its crosswalk, with the way back to the cause that led there. */
    public function code(CodeCrosswalk $crosswalk, ?string $old, CauseGroup $from): string
    {
        $query = ['code' => $crosswalk->id] + ($old === null ? [] : ['codes-old' => "=$old"]) + ['from' => $from->id()];

        return $this->url('crosswalks', $this->entity?->name).'?'.http_build_query($query)."#code-$crosswalk->id";
    }

    /** Address of the rows of an outcome, of a load and a cause where there is one. */
    public function behind(object $line): string
    {
        return $this->url('rows')."?load=$line->load_id&outcome=$line->outcome".($line->cause === null ? '' : "&cause=$line->cause");
    }

    /**
     * Loads that loading again leaves out.
     *
     * @param  bool  $all  whether also what was not asked for before is loaded
     * @param  string|null  $entity  only this one
     * @return list<int>
     */
    public function leftOut(bool $all, ?string $entity): array
    {
        $isOther = fn (ListedLoad $l) => $entity !== null && $entity !== '' && $l->entity !== $entity;
        $others = $this->all()->filter($isOther)->keys()->all();

        return array_values(array_unique([...$all ? [] : array_keys($this->notAsked()), ...$others]));
    }

    /** Address of a cause, opened. */
    public function cause(CauseGroup $group): string
    {
        return $this->url('rejects', $this->all()->get($group->load)?->entity).'?cause='.urlencode($group->id())."#{$group->anchor()}";
    }

    /**
     * Address of a row beside another.
     *
     * @param  array{load: int, row: int}  $other
     */
    public function beside(object $line, array $other): string
    {
        return $this->journey($line)."/beside/$other[load]/$other[row]";
    }

    /** Address of the rows that fail alike: the rejected ones, or of those the ones that are due, or what they hold below them. */
    public function alike(CauseGroup $group, string $which = 'own'): string
    {
        $load = $this->all()->get($group->load);

        return ($which === 'below' ? $this->url('rows') : $this->url('rows', $load?->entity)."?load=$group->load")
            .($which === 'below' ? '?' : '&').http_build_query(['alike' => $group->id()] + ($which === 'own' ? [] : ['which' => $which]));
    }

    /** @return Collection<int, ListedLoad> all, in the order they run, by id */
    public function all(): Collection
    {
        return $this->loads ??= collect($this->overview->loads)->keyBy('id');
    }

    /** @return Collection<int, ListedLoad> of the chosen entity, or all */
    public function loads(): Collection
    {
        return $this->all()->filter(fn (ListedLoad $l) => $this->entity === null || $l->entityId === $this->entity->id)->values();
    }

    public function proof(ListedLoad $load): CountProof
    {
        return $this->tallied()[$load->id] ?? new CountProof($load->sourceRows, $load->rows, [], $load->rows);
    }

    /** @return Collection<int, Pass> of the round, the newest first, with their loads in the order they run */
    public function passes(): Collection
    {
        return $this->figures?->passes()->reverse()->values() ?? new Collection;
    }

    /** @return array<int, CountProof> load → proof, of the loads of the round */
    public function tallied(): array
    {
        return $this->figures?->loads(false) ?? [];
    }

    /** @return list<array{wave: int|null, entities: list<RailEntity>}> */
    public function rail(): array
    {
        if ($this->rail !== null) {
            return $this->rail;
        }
        $byEntity = $this->all()->groupBy('entityId');
        $rail = [];
        foreach ($this->overview->entities as $entity) {
            $proofs = $byEntity->get($entity->id)?->map($this->proof(...))->values()->all() ?? [];
            $rail[$entity->wave]['wave'] = $entity->wave;
            $rail[$entity->wave]['entities'][] = new RailEntity($entity->name, $proofs === [] ? null : CountProof::sum(...$proofs));
        }

        return $this->rail = array_values($rail);
    }

    /** Rows of all feeds that are loaded. */
    public function rows(): int
    {
        return $this->all()->sum(fn (ListedLoad $l) => $this->proof($l)->feedRows);
    }

    /** @return list<string> entities in the order of the rail */
    public function entityNames(): array
    {
        return array_map(fn (ListedEntity $e) => $e->name, $this->overview->entities);
    }

    /** @return array<string, array{label: string, open: string, done: bool}> */
    public function stops(): array
    {
        return (new Route($this))->stops();
    }

    /** Findings in the takes that count which nobody has decided about yet. */
    public function openFindings(): int
    {
        return $this->overview->findings;
    }

    /**
     * Rows that are due: tried now they may fare otherwise. None while a pass is not finished, and none in a round that ended.
     *
     * @param  Collection<int, ListedLoad>|null  $of  loads; null for all of the round
     */
    public function due(?Collection $of = null): int
    {
        if ($this->round === null || ! $this->isIdle()) {
            return 0;
        }
        $this->due ??= (new DueBook($this->round->laneId()))->counts();

        return array_sum($of === null ? $this->due : array_intersect_key($this->due, $of->keyBy('id')->all()));
    }

    /** Rows of the loads shown that are due since somebody wants their records written again. */
    public function toWriteAgain(): int
    {
        if ($this->round === null || ! $this->isIdle()) {
            return 0;
        }

        return array_sum(array_intersect_key((new DueBook($this->round->laneId()))->toWriteAgain(), $this->loads()->keyBy('id')->all()));
    }

    /** Whether something changed since, and the worker has not worked out yet what is due. */
    public function isCountingDue(): bool
    {
        return $this->isIdle() && ($this->round->lane->due_upto ?? 0) < Numbers::last($this->migration->id);
    }

    /** @return array<int, int> load → rows the last pass was not about */
    public function notAsked(): array
    {
        return $this->figures === null || ! $this->isIdle() ? [] : $this->figures->notAsked();
    }

    /** @return array{int, int} records that may be stale at most, by rules and codes, and by corrections */
    public function stale(): array
    {
        $all = $this->round === null || ! $this->isIdle() ? [] : (new DueBook($this->round->laneId()))->stale();

        return [array_sum(array_column($all, 0)), array_sum(array_column($all, 1))];
    }

    /** Whether the round is open and no pass of it is under way. */
    private function isIdle(): bool
    {
        return $this->pass !== null && ! $this->round?->hasEnded() && ! $this->pass->isGoing() && ! $this->pass->canResume();
    }

    /** The take of a load's feed that the round works on; before there is a round, the one that counts now. */
    public function take(int $load): ?Take
    {
        $this->takes ??= $this->round === null ? [] : Take::ofRound($this->round);

        return $this->takes[$load] ?? Take::query()->find($this->all()->get($load)?->take);
    }

    /** Rows a delta that was ended found to differ, and did not send. */
    public function leftOver(): int
    {
        return $this->round === null ? 0 : DeltaBook::leftOver($this->round->laneId());
    }

    /** @return Collection<int, Load> whose records go when their rows are delivered no more */
    public function removing(): Collection
    {
        return Load::query()->where('migration_id', $this->migration->id)->where('gone', GonePolicy::Remove)->orderBy('position')
            ->get(['id', 'name']);
    }

    /** @return Collection<int, ListedLoad> added since the round was begun, which it does not work on */
    public function notInRound(): Collection
    {
        return $this->pass === null
            ? new Collection
            : $this->loads()->reject(fn (ListedLoad $l) => isset($this->tallied()[$l->id]))->values();
    }

    /** @return array{int, int, int, int} rejected, held, pending and unaccounted rows of the round, without those not asked for */
    public function open(): array
    {
        $sum = [0, 0, 0, 0];
        foreach ($this->tallied() as $proof) {
            $sum[0] += $proof->count(Outcome::Rejected);
            $sum[1] += $proof->count(Outcome::Held);
            $sum[2] += $proof->count(Outcome::Pending);
            $sum[3] += $proof->unaccounted();
        }
        $sum[2] -= array_sum($this->notAsked());

        return $sum;
    }
}
