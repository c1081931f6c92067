<?php

namespace App\Plans;

use App\Deltas\Delta;
use App\Deltas\DeltaForeseen;
use App\DryRuns\DryRuns;
use App\DryRuns\WorkOnDryRun;
use App\Freezing\DependentFeeds;
use App\Freezing\FreezeApart;
use App\Freezing\Freezer;
use App\Ledger\BackOutBook;
use App\Loading\MoreWorkers;
use App\Loading\PassRunner;
use App\Loading\Rounds;
use App\Loading\WorkOutDue;
use App\Models\DryRun;
use App\Models\Extract;
use App\Models\LoadState;
use App\Models\Migration;
use App\Models\Pass;
use App\Models\PassKind;
use App\Models\PassState;
use App\Models\Round;
use App\Models\Take;
use App\Models\TakeState;
use App\Profiling\Study;
use Baggage\Core\Feeds\FeedFormat;
use Baggage\Core\Plan\PlanError;
use Baggage\Core\Plan\PlanFile;
use Baggage\Core\Reading\ReaderSettings;

/** Runs a plan without a screen: reads it, freezes its files, and works on a round. */
final class Headless
{
    public function __construct(
        private readonly PlanImporter $importer,
        private readonly Freezer $freezer,
        private readonly Rounds $rounds,
        private readonly Study $study,
    ) {
    }

    /** @throws PlanError */
    public function read(string $file): PlanFile
    {
        if (! is_file($file) || ! is_readable($file)) {
            throw PlanError::notThere($file);
        }

        return PlanLook::at(['path' => $file], $file);
    }

    /** @throws PlanError|PlanConflicts */
    public function import(string $file): Migration
    {
        return $this->apply($this->read($file))->migration;
    }

    /**
     * @param  bool  $overwrite  whether the file is right where a screen says otherwise
     * @param  int|null  $migration  its number, where several have the plan's name
     *
     * @throws PlanError|PlanConflicts
     */
    public function apply(PlanFile $plan, bool $overwrite = false, ?int $migration = null): PlanResult
    {
        $into = Migration::named($plan->plan['migration'], $migration);

        return $this->importer->import($plan, $into, dirname((string) realpath($plan->name)), $overwrite ? [] : null);
    }

    /**
     * What the plan says of columns, once all are known.
     *
     * @throws PlanError
     */
    public function checkColumns(Migration $migration, PlanFile $plan): void
    {
        $this->importer->checkColumns($migration, $plan);
    }

    /**
     * Freezes every extract of the plan that names a file and has no take of exactly these bytes, and every one that comes from a
     * database and has none yet.
     *
     * @param  \Closure(Extract, Take): void  $told
     * @param  bool  $again  whether databases are read again although they have been
     *
     * @throws PlanError
     */
    public function freeze(Migration $migration, string $file, \Closure $told, bool $again = false): void
    {
        $folder = dirname((string) realpath($file));
        $made = [];
        $needed = self::needed($migration);
        $extracts = $migration->extracts()->with('source')->orderBy('extracts.id')->get();
        foreach (DependentFeeds::inOrder($extracts) as $extract) {
            $where = "{$extract->source?->code}/$extract->name";
            $last = $extract->take?->state === TakeState::Frozen ? $extract->take : null;
            $settings = $extract->settings();
            $from = match (true) {
                $settings->format instanceof FeedFormat => self::feed($settings, $settings->format, $last, $made),
                $settings->connection() !== null => $last === null || $again
                    ? ['file' => '', 'file_name' => $settings->describe(), 'bytes' => 0]
                    : null,
                default => self::file($extract, $last, $folder, $file),
            };
            if ($from !== null) {
                $this->take($extract, $from, $file, $where, $told, isset($needed[$where]));
                $made[] = $where;
            }
        }
    }

    /** @return array<string, true> extracts that loads read, and those they are made of */
    private static function needed(Migration $migration): array
    {
        $all = $migration->extracts()->with('source')->get()->keyBy(fn (Extract $e) => "{$e->source?->code}/$e->name");
        $open = $all->whereIn('id', $migration->loads()->pluck('extract_id'))->keys()->all();
        $needed = [];
        while (($name = array_pop($open)) !== null) {
            if (! isset($needed[$name])) {
                $needed[$name] = true;
                array_push($open, ...$all->get($name)->reader['of'] ?? []);
            }
        }

        return $needed;
    }

    /**
     * @param  list<string>  $made  what was frozen anew before it
     * @return array<string, mixed>|null what its next take comes from; null when it needs none
     */
    private static function feed(ReaderSettings $settings, FeedFormat $feed, ?Take $last, array $made): ?array
    {
        $stands = $last !== null
            && array_intersect($feed->of, $made) === []
            && ($last->recipe ?? null) === $settings->toArray();

        return $stands ? null : [
            'file' => '',
            'file_name' => $settings->describe(),
            'bytes' => 0,
            'recipe' => $settings->toArray(),
        ];
    }

    /**
     * @return array<string, mixed>|null
     *
     * @throws PlanError
     */
    private static function file(Extract $extract, ?Take $last, string $folder, string $plan): ?array
    {
        if ($extract->origin === null) {
            return null;
        }
        $path = PlanFiles::below($folder, $extract->origin)
            ?? throw PlanError::at(
                $plan,
                'sources',
                "the file $extract->origin of extract {$extract->source?->code}/$extract->name is not there, may not be read, or lies "
                    ."outside the plan's folder",
            );
        // The same bytes read in another way are other rows. How older takes were read is not known any more.
        $isReadAlike = ($last->reader ?? null) === null || $last->reader == $extract->settings()->toArray();

        return $last !== null && $isReadAlike && $last->checksum === hash_file('sha256', $path)
            ? null
            : ['file' => $path, 'file_name' => basename($path), 'bytes' => (int) filesize($path)];
    }

    /** Looks for keys, for changes since the takes before, and for what hangs on what; nothing waits for it. */
    public function study(Migration $migration): void
    {
        $this->study->of($migration);
    }

    /**
     * @param  array<string, mixed>  $from
     * @param  \Closure(Extract, Take): void  $told
     */
    private function take(Extract $extract, array $from, string $file, string $where, \Closure $told, bool $isNeeded): void
    {
        $take = $extract->newTake($from);
        FreezeApart::freeze($take, $this->freezer);
        // One that nothing reads is told as it is, and blocks nobody.
        if ($take->refresh()->state === TakeState::Failed && $isNeeded) {
            throw PlanError::at($file, "sources, extract $where", "$take->file_name: $take->error");
        }
        $told($extract, $take);
    }

    /**
     * What bringing the round as far as it goes would do. Nothing is written.
     *
     * @param  array<string, string|null>  $parameters  of the round
     * @param  list<string>  $without  names of loads that are left out
     *
     * @throws \DomainException
     */
    public function dry(
        Migration $migration,
        string $name,
        ?string $connection,
        array $parameters = [],
        array $without = [],
        ?Delta $delta = null,
        ?string $against = null,
    ): DryRun {
        $out = $this->named($migration, $without);
        $round = $migration->rounds()->where('name', $name)->first();
        $queue = config('queue.default');
        config(['queue.default' => 'null']);
        try {
            if ($delta !== null) {
                $run = DryRuns::ofDelta($round ?? throw new \DomainException("There is no round $name."), $delta, $out);
            } elseif ($round?->latestPass() !== null) {
                $run = DryRuns::ofRetry($round, $out);
            } else {
                $target = $migration->targets()->when($connection !== null, fn ($q) => $q->where('name', $connection))->orderBy('id')
                    ->first() ?? throw new \DomainException("The plan has no connection named \"$connection\".");
                $run = DryRuns::ofFirst(
                    $migration, $target, $this->rounds->given($migration, $parameters), $out, self::earlier($migration, $against),
                );
            }
        } finally {
            config(['queue.default' => $queue]);
        }
        (new WorkOnDryRun($run->id))->handle();

        return $run->refresh();
    }

    /**
     * Brings the round as far as it goes: first pass, an interrupted pass, or what was repaired.
     *
     * @param  array<string, string|null>  $parameters  of the round
     * @param  list<string>  $without  names of loads that are left out
     * @param  int  $workers  processes that work on it together
     * @param  string|null  $against  name of an earlier round whose key crosswalk a round that begins takes over
     *
     * @throws \DomainException also when the round there is was begun into another target, or with other parameters
     */
    public function run(
        Migration $migration,
        string $name,
        ?string $connection,
        array $parameters = [],
        array $without = [],
        int $workers = 1,
        ?Delta $delta = null,
        ?string $against = null,
    ): Round {
        $round = $migration->rounds()->where('name', $name)->first();
        $out = $this->named($migration, $without);
        $earlier = self::earlier($migration, $against);
        if ($round !== null && $earlier !== null && $round->lane?->earlier_lane_id !== $earlier->lane?->id) {
            throw new \DomainException("Round $name was not begun against $against, and goes on as it was begun. Begin another round.");
        }
        $this->isMeant($migration, $name, $connection, $parameters);
        if ($round === null) {
            $target = $migration
                ->targets()
                ->when($connection !== null, fn ($q) => $q->where('name', $connection))
                ->orderBy('id')
                ->first() ?? throw new \DomainException("The plan has no connection named \"$connection\".");
            $round = $this->rounds->begin(
                $migration,
                $target,
                $name,
                str_starts_with($name, 'cutover') ? 'cutover' : 'rehearsal',
                $parameters,
                earlier: $earlier,
            );
        }
        $pass = $this->pass($round, $out, $delta);
        $others = MoreWorkers::on($pass->id, $workers - 1);
        PassRunner::of($pass)->work();
        $others->wait();
        (new WorkOutDue($migration->id))->handle();

        return $round;
    }

    /**
     * Records of rows delivered no more that a delta would remove; none where the round has had no pass, or one that is not finished.
     *
     * @param  list<string>  $without  names of loads that are left out
     */
    public function wouldRemove(Migration $migration, string $name, array $without, Delta $delta): int
    {
        $round = $migration->rounds()->where('name', $name)->first();
        $out = $this->named($migration, $without);

        return $round?->latestPass()?->state === PassState::Finished ? DeltaForeseen::removals($round, $delta, $out) : 0;
    }

    /**
     * Takes back what a pass and all later ones wrote, or goes on with that where it was broken off.
     *
     * @throws \DomainException
     */
    public function backOut(Round $round, int $number, int $workers = 1): Pass
    {
        $last = $round->latestPass();
        // Whatever stopped it, this process takes it over; rows others are at are theirs.
        $isSame = $last !== null && $last->kind === PassKind::BackOut && $last->state !== PassState::Finished
            && (int) $round->passes()->whereKey($last->backs_out ?? [])->min('number') === $number;
        $pass = $isSame ? $last : $this->rounds->backOut($round, $number);
        $isSame ? $pass->update(['state' => PassState::Queued, 'stop_requested' => false, 'error' => null, 'finished_at' => null]) : null;
        $others = MoreWorkers::on($pass->id, $workers - 1);
        PassRunner::of($pass)->work();
        $others->wait();
        (new WorkOutDue($round->migration_id))->handle();

        return $pass->refresh();
    }

    /**
     * What taking passes back would do.
     *
     * @return array{passes: list<int>, loads: list<array{load: string, rows: int, remove: int, change_back: int}>}
     *
     * @throws \DomainException
     */
    public function wouldBackOut(Round $round, int $number): array
    {
        $passes = $this->rounds->toBackOut($round, $number);
        $ids = array_values($passes->map(fn (Pass $p) => $p->id)->all());
        $book = new BackOutBook($round->laneId(), $ids === [] ? [0] : $ids, 0);
        $loads = [];
        foreach ($round->roundLoads()->with('ofLoad')->orderBy('id')->get() as $of) {
            $load = $of->ofLoad;
            $loads[] = ['load' => $load->name] + $book->foreseen($load->id, $load->entity_id);
        }

        return ['passes' => array_values($passes->map(fn (Pass $p) => $p->number)->all()), 'loads' => $loads];
    }

    /** @param  list<int>  $out  loads that are left out */
    private function pass(Round $round, array $out, ?Delta $delta): Pass
    {
        $pass = $round->latestPass();
        if ($pass === null) {
            return $this->rounds->pass($round, PassKind::First, $out);
        }
        if ($pass->state === PassState::Finished && $delta !== null) {
            return $this->rounds->pass($round, PassKind::Delta, $out, delta: $delta);
        }
        if ($pass->state === PassState::Finished) {
            return $this->rounds->pass($round, PassKind::Retry, $out);
        }
        // Whatever stopped it, this process takes the pass over; rows others are at are theirs.
        $pass->update(['state' => PassState::Queued, 'stop_requested' => false, 'error' => null, 'finished_at' => null]);
        $pass
            ->passLoads()
            ->whereIn('state', [LoadState::Failed, LoadState::Blocked])
            ->update(['state' => LoadState::Waiting, 'error' => null]);

        return $pass;
    }

    /**
     * A round that is there already keeps its target and its parameters.
     *
     * @param  array<string, string|null>  $parameters
     *
     * @throws \DomainException when others are asked for
     */
    public function isMeant(Migration $migration, string $name, ?string $connection, array $parameters): void
    {
        $round = $migration->rounds()->where('name', $name)->with('target')->first();
        if ($round === null) {
            return;
        }
        if ($connection !== null && $round->target?->name !== $connection) {
            throw new \DomainException(
                "Round $round->name writes into \"{$round->target?->name}\", not into \"$connection\". Begin another round.",
            );
        }
        foreach ($parameters as $name => $value) {
            if (($round->parameters[$name] ?? null) !== $value) {
                throw new \DomainException(
                    "Round $round->name was begun with $name=".($round->parameters[$name] ?? '')." and keeps it, not $name=$value. "
                        .'Begin another round.',
                );
            }
        }
    }

    /** @throws \DomainException */
    private static function earlier(Migration $migration, ?string $name): ?Round
    {
        return $name === null ? null : $migration->rounds()->where('name', $name)->first()
            ?? throw new \DomainException("There is no round $name to match against.");
    }

    /**
     * @param  list<string>  $names
     * @return list<int> loads
     *
     * @throws \DomainException
     */
    private function named(Migration $migration, array $names): array
    {
        return array_map(
            fn (string $name) => $migration->loads()->where('name', $name)->first()->id
                ?? throw new \DomainException("The plan has no load named \"$name\"."),
            $names,
        );
    }
}
