<?php

namespace App\View;

use App\Catalogue\CodeUse;
use App\Catalogue\Definitions;
use App\Mapping\Shelf;
use App\Models\Entity;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Pass;
use App\Models\Round;
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

    public readonly Definitions $definitions;

    public readonly ?Entity $entity;

    public readonly ?Round $round;

    public readonly ?Pass $pass;

    public readonly ?string $orderError;

    /** @var array<int, CountProof> */
    private array $proofs;

    public function __construct(
        public readonly Migration $migration,
        public readonly string $stop,
        ?string $entity = null,
    ) {
        $this->definitions = new Definitions($migration);
        $this->entity = $entity === null
            ? null
            : Entity::query()->where('migration_id', $migration->id)->where('name', $entity)->firstOrFail();
        $chosen = session("round.$migration->id");
        $this->round = ($chosen === null ? null : $migration->rounds()->find($chosen)) ?? $migration->currentRound();
        $this->pass = $this->round?->latestPass();
        $error = null;
        try {
            $this->definitions->loads();
        } catch (OrderError $e) {
            $error = $e->getMessage();
        }
        $this->orderError = $error;
        $this->proofs = $this->round === null ? [] : (new Proofs($this->round))->loads(false);
    }

    public function url(string $stop, ?string $entity = null): string
    {
        return "/m/{$this->migration->id}/$stop".($entity === null ? '' : "/$entity");
    }

    /** Address of the search for a legacy key. */
    public function trace(string $source, string $key): string
    {
        return "/m/{$this->migration->id}/trace?q=".urlencode("$source ".Say::key($key));
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

    /** @return list<array{wave: int|null, entities: list<array{name: string, label: string, rows: int, proof: CountProof|null}>}> */
    public function rail(): array
    {
        $byEntity = [];
        foreach ($this->definitions->loads() as $load) {
            $byEntity[$load->entity->name][] = $this->proof($load);
        }
        $waves = [];
        foreach ($byEntity as $name => $proofs) {
            $sum = CountProof::sum(...$proofs);
            $waves[$this->definitions->order()->waves[$name]][] = [
                'name' => (string) $name,
                'label' => Say::label((string) $name),
                'rows' => $sum->feedRows,
                'proof' => $sum,
            ];
        }
        ksort($waves);
        $rail = [];
        foreach ($waves as $wave => $entities) {
            $rail[] = ['wave' => $wave, 'entities' => $entities];
        }
        $bare = array_values(
            array_map(
                fn ($n) => ['name' => $n, 'label' => Say::label($n), 'rows' => 0, 'proof' => null],
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

    /** @return list<string> entities in the order of the rail */
    public function entityNames(): array
    {
        return array_merge([], ...array_map(fn ($w) => array_column($w['entities'], 'name'), $this->rail()));
    }

    /** @return array<string, array{label: string, open: string, done: bool}> */
    public function stops(): array
    {
        $m = $this->migration;
        $frozen = $m->extracts()->whereNotNull('take_id')->count();
        $failed = Take::query()
            ->where('state', 'failed')
            ->whereHas(
                'extract',
                fn ($q) => $q->whereNull('take_id')->whereHas('source', fn ($s) => $s->where('migration_id', $m->id)),
            )
            ->count();
        $findings = $this->openFindings();
        [$undecided, $codes] = [$this->undecidedColumns(), $this->unmappedCodes()];
        $unread = $this->orderError !== null
            ? 0
            : count(array_filter((new Shelf($this->definitions))->unread(), fn ($e) => $e->not_loaded === null));
        $entities = $m->entities()->count();
        $loads = $this->orderError === null ? $this->definitions->loads()->count() : 0;
        $order = $loads > 0 ? $this->definitions->order() : null;
        [$rejected, $held, $pending, $unaccounted] = $this->open();

        return [
            'sources' => [
                'label' => 'Sources',
                'open' => $failed > 0
                        ? Say::count($failed, 'extract').' failed'
                        : Say::count($frozen, 'extract').', '.Say::count($findings, 'finding'),
                'done' => $frozen > 0 && $failed === 0 && $findings === 0,
            ],
            'target' => [
                'label' => 'Target',
                'open' => Say::count($entities, 'entity', 'entities'),
                'done' => $entities > 0,
            ],
            'mapping' => [
                'label' => 'Mapping',
                'open' => $loads === 0
                        ? 'no load yet'
                        : ($undecided > 0
                            ? Say::count($undecided, 'column').' undecided'
                            : ($unread > 0
                                ? Say::count($unread, 'extract').' undecided'
                                : 'all columns decided')),
                'done' => $loads > 0 && $undecided + $unread === 0,
            ],
            'crosswalks' => [
                'label' => 'Crosswalks',
                'open' => $codes > 0 ? Say::count($codes, 'code').' unmapped' : 'all codes mapped',
                'done' => $loads > 0 && $codes === 0,
            ],
            'order' => [
                'label' => 'Order',
                'open' => $this->orderError !== null
                        ? 'a circle'
                        : ($order === null
                            ? 'nothing to order'
                            : Say::count($order->waves === [] ? 0 : max($order->waves), 'wave').', '
                                .count($order->deferred)
                                .' deferred'),
                'done' => $order !== null,
            ],
            'runs' => [
                'label' => 'Runs',
                'open' => $this->round === null
                        ? 'no round yet'
                        : str_replace('-', ' ', $this->round->name)
                            .($this->pass === null ? '' : ", pass {$this->pass->number}"),
                'done' => $this->pass?->state === 'finished',
            ],
            'rejects' => [
                'label' => 'Rejects',
                'open' => $this->pass === null
                        ? 'nothing loaded yet'
                        : number_format($rejected).' rejected, '.number_format($held).' held',
                'done' => $this->pass !== null && $rejected + $held + $pending === 0,
            ],
            'reconciliation' => [
                'label' => 'Reconciliation',
                'open' => $this->pass === null
                        ? 'no figures yet'
                        : ($unaccounted !== 0
                            ? number_format(abs($unaccounted)).' unaccounted'
                            : Say::count($pending + $rejected + $held, 'row').' open'),
                'done' => $this->pass !== null && $unaccounted === 0 && $pending + $rejected + $held === 0,
            ],
        ];
    }

    /** Findings in the takes that count which nobody has decided about yet. */
    public function openFindings(): int
    {
        return $this->migration->openFindings();
    }

    /** @return array{int, int, int, int} rejected, held, pending and unaccounted rows of the round */
    public function open(): array
    {
        $sum = [0, 0, 0, 0];
        foreach ($this->proofs as $proof) {
            $sum[0] += $proof->count(Outcome::Rejected);
            $sum[1] += $proof->count(Outcome::Held);
            $sum[2] += $proof->count(Outcome::Pending);
            $sum[3] += $proof->unaccounted();
        }

        return $sum;
    }

    private function undecidedColumns(): int
    {
        $shelf = new Shelf($this->definitions);

        return $this->orderError !== null
            ? 0
            : array_sum(
                array_map(
                    fn (Load $l) => count($shelf->undecided($l->extract)),
                    $this->definitions->loads()->unique('extract_id')->all(),
                ),
            );
    }

    private function unmappedCodes(): int
    {
        if ($this->orderError !== null) {
            return 0;
        }
        $use = new CodeUse($this->definitions);
        $n = 0;
        foreach ($this->migration->codeCrosswalks()->with('entries')->get() as $crosswalk) {
            $n += $use->unmapped($crosswalk);
        }

        return $n;
    }
}
