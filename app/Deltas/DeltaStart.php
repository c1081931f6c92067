<?php

namespace App\Deltas;

use App\Catalogue\Definitions;
use App\Decisions\Following;
use App\Ledger\DeltaBook;
use App\Ledger\LedgerReader;
use App\Ledger\LedgerWriter;
use App\Ledger\LoadRun;
use App\Ledger\Spaces;
use App\Models\LoadState;
use App\Models\Pass;
use App\Models\PassLoad;
use App\Models\RoundLoad;
use App\Models\Take;
use App\Staging\StagedRows;
use Baggage\Core\Crosswalks\LegacyKey;
use Baggage\Core\Loading\PlanVersion;
use Baggage\Core\Loading\TargetRecords;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Mapping\DefinitionError;
use Baggage\Core\Mapping\GonePolicy;
use Illuminate\Support\Facades\DB;

/**
 * What comes before the first row of a delta: each load's take is held against the one the round worked on, and the round works on it
 * from then on. Goes on where it was broken off.
 */
final readonly class DeltaStart
{
    private const STRETCH = 50_000;

    private const AT_ONCE = 5_000;

    private function __construct(
        private Pass $pass,
        private PlanVersion $plan,
        private Definitions $catalogue,
        private LedgerReader $reader,
        private LedgerWriter $writer,
        private Spaces $spaces,
    ) {
    }

    public static function of(Pass $pass, PlanVersion $plan, Definitions $catalogue): self
    {
        return new self($pass, $plan, $catalogue, new LedgerReader($pass->round), new LedgerWriter, Spaces::of($catalogue->migration));
    }

    public function run(): void
    {
        foreach ($this->pass->passLoads()->with('take')->orderBy('id')->get() as $progress) {
            if ($progress->compared === null && $progress->state !== LoadState::LeftOut) {
                try {
                    $this->compare($progress);
                } catch (DefinitionError) {
                    // The load itself reports it when its turn comes.
                }
            }
        }
    }

    /** @throws DefinitionError */
    private function compare(PassLoad $progress): void
    {
        Following::complete($progress->take);
        $of = $this->pass->round->roundLoads()->where('load_id', $progress->load_id)->firstOrFail();
        $load = $this->plan->load($progress->load_id);
        $run = LoadRun::of($this->pass, $progress, $load, $this->catalogue->entityIds(), $this->spaces);
        $book = new DeltaBook($progress, $this->pass->lane_id);
        $mapper = $this->plan->mapper($load->id, $progress->take->tidyColumns());
        $isAll = $this->pass->is_full || $this->columns($progress) !== $progress->take->headers();
        $stale = DeltaForeseen::by($this->pass->round, $this->plan, new Delta($this->pass->is_full))->stale($of);
        // What an update-only load did to records of others is not undone.
        $policy = $load->reads() ? GonePolicy::Keep : $load->gone;
        $book->takeOver();
        for ($after = (int) $progress->compared_row; $after < $progress->last_row; $after += self::STRETCH) {
            $to = min($progress->last_row, $after + self::STRETCH);
            DB::transaction(function () use ($progress, $book, $run, $mapper, $after, $to, $stale, $isAll, $policy) {
                $found = $this->stretch($book, $after, $to, $stale, $isAll, $policy);
                foreach (array_chunk($found['added'], self::AT_ONCE) as $some) {
                    $cells = (new StagedRows($progress->take_id, $this->pass->decision))->numbered($some);
                    $keys = array_map($mapper->legacyKey(...), $cells);
                    $this->writer->pend($run, array_map(fn (string $key) => mb_substr($key, 0, LegacyKey::LONGEST), $keys));
                }
                $counts = array_map(fn (array|int $n) => is_int($n) ? $n : count($n), $found);
                $progress->update(['compared_row' => $to, 'counts' => self::sum($progress->counts ?? [], $counts)]);
            }, 5);
        }
        $this->reach($progress, $of, $book);
    }

    /**
     * @param  list<int>  $stale
     * @return array{changed: int, added: list<int>, gone: list<int>, back: list<int>}
     */
    private function stretch(DeltaBook $book, int $after, int $to, array $stale, bool $isAll, GonePolicy $policy): array
    {
        [$gone, $back] = $book->isNewTake() ? [$book->gone($after, $to), $book->back($after, $to)] : [[], []];
        foreach (array_chunk($gone, self::AT_ONCE) as $some) {
            $book->leave($some, $policy, $this->writer);
        }
        foreach (array_chunk($back, self::AT_ONCE) as $some) {
            $book->takeBack($some, $this->reader, $this->writer);
        }
        // After those that are back: the others stay away.
        foreach (array_chunk($book->left($after, $to, $policy), self::AT_ONCE) as $some) {
            $book->leave($some, $policy, $this->writer);
        }

        $changed = $book->differing($after, $to, $stale, $isAll);

        return ['changed' => $changed, 'added' => $book->added($after, $to), 'gone' => $gone, 'back' => $back];
    }

    /** From now on the round works on the take; its rows have their lines. */
    private function reach(PassLoad $progress, RoundLoad $of, DeltaBook $book): void
    {
        DB::transaction(function () use ($progress, $of, $book) {
            $found = array_intersect_key($progress->counts ?? [], array_flip(['added', 'changed', 'gone', 'back']))
                + ['added' => 0, 'changed' => 0, 'gone' => 0, 'back' => 0];
            $waiting = $this->reader->tallies()[$progress->load_id]['pending'] ?? 0;
            $toDo = $book->toDo() + $waiting;
            $rows = (int) $progress->take->rows;
            if ($book->isNewTake()) {
                $of->update([
                    'take_id' => $progress->take_id, 'number' => $of->number + 1, 'feed_rows' => $rows,
                    'source_rows' => (int) $progress->take->source_rows,
                ]);
            }
            $progress->update([
                'compared' => $found + ['to_do' => $toDo, 'rows' => $rows], 'counts' => null, 'rows_total' => $toDo, 'key_cursor' => null,
            ]);
        });
    }

    /** @return list<string> titles of the columns of the take before */
    private function columns(PassLoad $progress): array
    {
        $before = $progress->from_take_id === null ? null : Take::query()->find($progress->from_take_id);

        return $before?->headers() ?? $progress->take->headers();
    }

    /**
     * Rows that stand on records which refer to others whose keys lead elsewhere since the pass began are mapped anew; of a load that
     * finds its records by key those that found one of these.
     *
     * @throws DefinitionError|TargetUnavailable
     */
    public function followParents(PassLoad $progress, TargetRecords $records): void
    {
        $load = $this->plan->load($progress->load_id);
        $book = new DeltaBook($progress, $this->pass->lane_id);
        $children = new Children($records, $load, $this->plan->order()->deferredFields($load->entity->name));
        $moved = fn (string $entity, string $after) => DeltaBook::moved(
            $this->pass->id, $this->spaces->among([$entity], null), $after, Children::KEYS,
        );
        foreach ($children->ofMoved($moved) as $keys) {
            $book->onRecords($keys);
        }
    }

    /**
     * @param  array<string, int>  $a
     * @param  array<string, int>  $b
     * @return array<string, int>
     */
    private static function sum(array $a, array $b): array
    {
        foreach ($b as $name => $n) {
            $a[$name] = ($a[$name] ?? 0) + $n;
        }

        return $a;
    }
}
