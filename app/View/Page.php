<?php

namespace App\View;

use App\Catalogue\Definitions;
use App\Decisions\Numbers;
use App\Ledger\DueBook;
use App\Models\Entity;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Pass;
use App\Models\Round;
use App\Models\RoundLoad;
use App\Models\Take;
use App\Reconciling\Proofs;
use Baggage\Core\Ordering\OrderError;
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

    /** @var array<int, int>|null load → rows the last pass was not about */
    private ?array $notAsked = null;

    /** @var array<int, Take>|null by load */
    private ?array $takes = null;

    /** @param  array<int, CountProof>  $proofs  by load */
    private function __construct(
        public readonly Migration $migration,
        public readonly string $stop,
        public readonly Definitions $definitions,
        public readonly ?Entity $entity,
        public readonly ?Round $round,
        public readonly ?Pass $pass,
        public readonly ?string $orderError,
        private readonly array $proofs,
    ) {
    }

    /**
     * The round is the one the request names, else the one this session looks at, else the latest.
     *
     * @param  string|null  $entity  the one chosen in the rail
     */
    public static function of(Migration $migration, string $stop, ?string $entity = null): self
    {
        $definitions = new Definitions($migration);
        $chosen = request()->integer('round') ?: session("round.$migration->id");
        $round = ($chosen === null ? null : $migration->rounds()->find($chosen)) ?? $migration->rounds()->latest('id')->first();
        $error = null;
        try {
            $definitions->loads();
        } catch (OrderError $e) {
            $error = $e->getMessage();
        }

        return new self(
            $migration,
            $stop,
            $definitions,
            $entity === null
                ? null
                : Entity::query()->where('migration_id', $migration->id)->where('name', $entity)->firstOrFail(),
            $round,
            $round?->latestPass(),
            $error,
            $round === null ? [] : Proofs::of($round)->loads(false),
        );
    }

    public function url(string $stop, ?string $entity = null): string
    {
        return "/m/{$this->migration->id}/$stop".($entity === null ? '' : "/$entity");
    }

    /** Address of the search for a legacy key. */
    public function trace(string $space, string $key): string
    {
        return "/m/{$this->migration->id}/trace?q=".urlencode("$space ".Say::key($key));
    }

    /** Address of the rows a cause of a load's check is about. */
    public function check(Load $load, int $cause): string
    {
        return "/m/{$this->migration->id}/mapping/loads/$load->id/check/$cause";
    }

    /** Address of the journey of a row, of a line that names its load and number. */
    public function journey(object $line): string
    {
        return "/m/{$this->migration->id}/rows/$line->load_id/$line->row_no";
    }

    /** @return Collection<int, Load> of the chosen entity, or all */
    public function loads(): Collection
    {
        return $this->definitions
            ->loads()
            ->filter(fn (Load $l) => $this->entity === null || $l->entity_id === $this->entity->id)
            ->values();
    }

    public function proof(Load $load): CountProof
    {
        $rows = (int) $load->extract->take?->rows;

        return $this->proofs[$load->id] ?? new CountProof((int) $load->extract->take?->source_rows, $rows, [], $rows);
    }

    /** @return list<array{wave: int|null, entities: list<RailEntity>}> */
    public function rail(): array
    {
        $byEntity = [];
        foreach ($this->definitions->loads() as $load) {
            $byEntity[$load->entity->name][] = $this->proof($load);
        }
        $waves = [];
        foreach ($byEntity as $name => $proofs) {
            $waves[$this->definitions->order()->waves[$name]][] = new RailEntity((string) $name, CountProof::sum(...$proofs));
        }
        ksort($waves);
        $rail = [];
        foreach ($waves as $wave => $entities) {
            $rail[] = ['wave' => $wave, 'entities' => $entities];
        }
        $bare = array_values(
            array_map(
                fn (string $n) => new RailEntity($n),
                $this->migration
                    ->entities()
                    ->orderBy('position')
                    ->whereNotIn('name', array_keys($byEntity))
                    ->pluck('name')
                    ->all(),
            ),
        );
        if ($bare !== []) {
            $rail[] = ['wave' => null, 'entities' => $bare];
        }

        return $rail;
    }

    /** Rows of all feeds that are loaded. */
    public function rows(): int
    {
        return array_sum(array_map(fn (Load $l) => $this->proof($l)->feedRows, $this->definitions->loads()->all()));
    }

    /** @return list<string> entities in the order of the rail */
    public function entityNames(): array
    {
        return array_merge([], ...array_map(fn ($w) => array_column($w['entities'], 'name'), $this->rail()));
    }

    /** @return array<string, array{label: string, open: string, done: bool}> */
    public function stops(): array
    {
        return (new Route($this))->stops();
    }

    /** Findings in the takes that count which nobody has decided about yet. */
    public function openFindings(): int
    {
        return $this->migration->openFindings();
    }

    /**
     * Rows that are due: tried now they may fare otherwise. None while a pass is not finished, and none in a round that ended.
     *
     * @param  Collection<int, Load>|null  $of  loads; null for all of the round
     */
    public function due(?Collection $of = null): int
    {
        if ($this->round === null || ! $this->isIdle()) {
            return 0;
        }
        $this->due ??= (new DueBook($this->round->laneId()))->counts();

        return array_sum($of === null ? $this->due : array_intersect_key($this->due, $of->keyBy('id')->all()));
    }

    /** Whether something changed since, and the worker has not worked out yet what is due. */
    public function isCountingDue(): bool
    {
        return $this->isIdle() && ($this->round->lane->due_upto ?? 0) < Numbers::last($this->migration->id);
    }

    /** @return array<int, int> load → rows the last pass was not about */
    public function notAsked(): array
    {
        return $this->notAsked ??= $this->round === null || ! $this->isIdle() ? [] : Proofs::of($this->round)->notAsked();
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
    public function take(Load $load): ?Take
    {
        $this->takes ??= $this->round === null ? [] : $this->round
            ->roundLoads()
            ->with('take')
            ->get()
            ->mapWithKeys(fn (RoundLoad $l) => [$l->load_id => $l->take])
            ->all();

        return $this->takes[$load->id] ?? $load->extract->take;
    }

    /** @return Collection<int, Load> added since the round was begun, which it does not work on */
    public function notInRound(): Collection
    {
        return $this->pass === null
            ? new Collection
            : $this->loads()->reject(fn (Load $l) => isset($this->proofs[$l->id]))->values();
    }

    /** @return array{int, int, int, int} rejected, held, pending and unaccounted rows of the round, without those not asked for */
    public function open(): array
    {
        $sum = [0, 0, 0, 0];
        foreach ($this->proofs as $proof) {
            $sum[0] += $proof->count(Outcome::Rejected);
            $sum[1] += $proof->count(Outcome::Held);
            $sum[2] += $proof->count(Outcome::Pending);
            $sum[3] += $proof->unaccounted();
        }
        $sum[2] -= array_sum($this->notAsked());

        return $sum;
    }
}
