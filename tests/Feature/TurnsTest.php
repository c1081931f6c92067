<?php

namespace Tests\Feature;

use App\DryRuns\DryRuns;
use App\DryRuns\WorkOnDryRun;
use App\Freezing\FreezeTake;
use App\Freezing\Look;
use App\Loading\EndPass;
use App\Loading\LookForRecords;
use App\Loading\PassRunner;
use App\Loading\Rounds;
use App\Loading\WorkOnPass;
use App\Loading\WorkOutDue;
use App\Looking\LookLonger;
use App\Mapping\CheckLoad;
use App\Mending\RemoveThing;
use App\Models\LoadCheck;
use App\Models\PassKind;
use App\Models\PassState;
use App\Models\Role;
use App\Models\Take;
use App\Models\Work;
use App\Models\WorkKind;
use App\Plans\ApplyPlan;
use App\Profiling\StudyMigration;
use App\Queueing\FairQueue;
use App\Queueing\Job;
use App\Queueing\Kind;
use App\Queueing\Turns;
use App\Reconciling\CountRound;
use App\Reconciling\EndRound;
use App\Rejects\RepairRows;
use App\Rejects\RowsFile;
use App\Targets\CountTarget;
use Illuminate\Contracts\Queue\Job as Taken;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Queue;
use Symfony\Component\Finder\Finder;
use Tests\TestCase;

/** One migration's work keeps no other's waiting: each kind has its queue, and migrations take turns at it. */
final class TurnsTest extends TestCase
{
    protected function setUp(): void
    {
        parent::setUp();
        config(['queue.default' => 'database']);
        DB::table('turns')->delete();
        DB::table('jobs')->delete();
    }

    public function test_whatever_waits_says_its_kind_and_its_migration(): void
    {
        $found = 0;
        foreach (Finder::create()->files()->name('*.php')->in(app_path()) as $file) {
            $class = 'App\\'.strtr(substr($file->getRelativePathname(), 0, -4), '/', '\\');
            if ($class !== Job::class && is_subclass_of($class, ShouldQueue::class)) {
                self::assertTrue(is_subclass_of($class, Job::class), "$class waits in no queue of its kind");
                $found++;
            }
        }
        self::assertGreaterThan(10, $found);
    }

    /** Each of a migration whose rows there are: what it is made with is a number of one of them. */
    public function test_every_job_knows_whose_it_is(): void
    {
        config(['queue.default' => 'sync']);
        $round = $this->load($migration = $this->demoMigration(dirname($this->smallPlan("no,name\n1,a\n", '{code: no, name: name}'))));
        config(['queue.default' => 'database']);
        $work = Work::ask($migration, WorkKind::Rows, 'x', ['round' => $round->id], 1);
        $check = LoadCheck::query()->create([
            'load_id' => $migration->loads()->value('id'), 'hash' => str_repeat('0', 32), 'state' => 'running', 'rows_total' => 1,
        ]);
        $take = (int) Take::query()->value('id');
        $dry = DryRuns::ofRetry($round);
        $jobs = [
            new LookForRecords($round->id), new WorkOnPass((int) $round->passes()->value('id')), new WorkOutDue($migration->id),
            new EndPass((int) $round->passes()->value('id')), new CheckLoad($check->id), new FreezeTake($take), new RowsFile($work->id),
            new RepairRows($work->id), new EndRound($work->id), new CountRound($round->id),
            new CountTarget((int) $migration->targets()->value('id')), new StudyMigration($migration->id),
            new WorkOnDryRun($dry->id), new RemoveThing($work->id),
        ];
        foreach ($jobs as $job) {
            self::assertSame($migration->id, $job->migration(), $job::class);
            Queue::push($job);
        }
        self::assertSame([$migration->id], DB::table('jobs')->distinct()->pluck('migration_id')->all());
        // Those of no migration yet, or of whatever page asked.
        self::assertSame([null, 14], [(new ApplyPlan('', '', 1))->migration(), count($jobs)]);
    }

    public function test_migrations_take_turns_however_much_one_of_them_asks_for(): void
    {
        foreach (range(1, 6) as $n) {
            $this->push(1);
        }
        $this->push(2);
        $this->push(3);
        $served = [];
        while (($job = $this->pop()) !== null) {
            $served[] = $this->of($job);
            $job->delete();
        }
        self::assertSame([1, 2, 3, 1, 1, 1, 1, 1], $served);
        // Whoever was served last is last, also of those that have nothing else.
        $this->push(1);
        $this->push(2);
        self::assertSame(2, $this->of($this->pop()));
    }

    public function test_who_has_fewest_workers_is_next_and_none_has_the_last_of_those_that_go_on_for_hours(): void
    {
        foreach (range(1, 6) as $n) {
            $this->push(1);
        }
        self::assertSame(2, Kind::Rows->atMost());
        self::assertSame(1, $this->of($first = $this->pop()));
        self::assertSame(1, $this->of($this->pop()));
        self::assertNull($this->pop(), 'the last worker is for another');
        $this->push(2);
        $this->push(2);
        self::assertSame(2, $this->of($this->pop()));
        self::assertSame(2, $this->of($this->pop()));
        self::assertNull($this->pop());
        $first->delete();
        self::assertSame(1, $this->of($this->pop()));
        self::assertSame([3, 4, 1], [Kind::Rows->workers(), $this->workers(3, Kind::Takes), $this->workers(3, Kind::Looks)]);
        self::assertSame([2, 3, 1], [$this->most(2, Kind::Takes), $this->most(3, Kind::Passes), $this->most(1, Kind::Takes)]);
    }

    /** Another connection's, so that it ends as that of a killed worker does. */
    public function test_what_a_killed_worker_had_comes_again_or_is_told(): void
    {
        $this->push(1);
        $this->pop();
        $other = DB::connectUsing('other', config('database.connections.'.DB::getDefaultConnection()), true);
        DB::table('jobs')->update(['taken_by' => $id = $other->scalar('SELECT CONNECTION_ID()')]);
        self::assertNull($this->pop(), 'somebody has it');
        DB::statement("KILL $id");
        DB::purge('other');
        $again = $this->pop();
        self::assertSame([1, 2], [$this->of($again), $again?->attempts()]);
        // As after a start of the server, whose connections have the numbers of others before.
        DB::table('jobs')->update(['taken_by' => DB::raw('CONNECTION_ID()'), 'reserved_at' => 1]);
        self::assertSame(3, ($again = $this->pop())?->attempts());
        $again?->delete();

        LookLonger::ask('k', Look::class, []);
        $this->pop('looks');
        DB::table('jobs')->update(['reserved_at' => 1]);
        Artisan::call('queue:work', ['--once' => true, '--queue' => 'looks', '--tries' => 1]);
        self::assertStringContainsString('ended before it was done', cache('look:k')['answer']['refused']);
        self::assertSame(0, DB::table('jobs')->count());
    }

    public function test_what_waits_already_is_not_asked_for_once_more(): void
    {
        Job::atLeast(new StudyMigration(7));
        Job::atLeast(new StudyMigration(7));
        Job::atLeast(new StudyMigration(8));
        self::assertSame([7, 8], DB::table('jobs')->orderBy('id')->pluck('migration_id')->all());
        config(['baggage.workers' => 3]);
        WorkOnPass::byAll(1);
        WorkOnPass::byAll(1);
        self::assertSame(3, DB::table('jobs')->where('queue', 'passes')->count());
        $this->pop('passes');
        self::assertSame(2, Turns::waiting(new WorkOnPass(1)));
    }

    public function test_a_pass_makes_room_for_one_that_has_no_worker_and_goes_on_where_it_was(): void
    {
        config(['queue.default' => 'sync', 'baggage.batch' => 25]);
        $migration = $this->demoMigration(self::smallDemo());
        config(['queue.default' => 'database']);
        Queue::fake();
        $rounds = $this->app->make(Rounds::class);
        $pass = $rounds->pass($rounds->begin($migration, $migration->targets()->firstOrFail(), 'rehearsal-1'), PassKind::First);
        $turns = Turns::at(Kind::Passes);
        self::assertFalse($turns->isOver($migration->id), 'nobody waits');
        $this->waits($migration->id);
        self::assertFalse($turns->isOver($migration->id), 'it is its own');
        $this->waits($other = $migration->id + 1);
        self::assertTrue($turns->isOver($migration->id));
        $asked = 0;
        self::assertTrue(PassRunner::of($pass, 0)->work(function () use ($turns, $migration, &$asked): bool {
            return ++$asked > 3 && $turns->isOver($migration->id);
        }));
        self::assertSame(PassState::Queued, $pass->refresh()->state);
        $done = (int) $pass->passLoads()->sum('rows_done');
        self::assertGreaterThan(0, $done);
        self::assertLessThan((int) $pass->passLoads()->sum('rows_total'), $done);
        // Paused between two turns, what it left is counted by whoever comes next.
        $this->actingAs($this->user(Role::Lead))->post("/m/$migration->id/passes/$pass->id/pause")->assertRedirect();
        self::assertSame([PassState::Queued, true], [$pass->refresh()->state, $pass->stop_requested]);
        self::assertFalse(PassRunner::of($pass, 0)->work());
        self::assertSame('paused', $pass->refresh()->stateInWords());
        $rounds->resume($pass);
        DB::table('jobs')->where('migration_id', $other)->delete();
        self::assertFalse(PassRunner::of($pass->refresh(), 0)->work(fn () => $turns->isOver($migration->id)));
        self::assertSame([PassState::Finished, 0], [$pass->refresh()->state, $pass->interrupted]);
    }

    /** Its worker ended between its turn and the next, and so did whoever should have come. */
    public function test_a_pass_that_waits_for_nobody_is_taken_up(): void
    {
        config(['queue.default' => 'sync']);
        $round = $this->load($migration = $this->demoMigration(dirname($this->smallPlan("no,name\n1,a\n", '{code: no, name: name}'))));
        config(['queue.default' => 'database']);
        $pass = $round->passes()->firstOrFail();
        $pass->update(['state' => PassState::Queued, 'stop_requested' => true]);
        Artisan::call('baggage:tend');
        Artisan::call('baggage:tend');
        self::assertSame([$migration->id], DB::table('jobs')->where('queue', 'passes')->pluck('migration_id')->all());
    }

    /** One more than its share is one too many; as many as the others are not. */
    public function test_shares_of_many_workers(): void
    {
        foreach ([1, 1, 1, 2] as $migration) {
            $this->waits($migration, true);
        }
        $this->waits(2);
        self::assertTrue(Turns::at(Kind::Passes)->isOver(1));
        self::assertFalse(Turns::at(Kind::Passes)->isOver(2));
        $this->waits(2, true);
        self::assertFalse(Turns::at(Kind::Passes)->isOver(1), '3 and 2: nothing is won by changing');
    }

    private function push(int $migration): void
    {
        Queue::push(new WorkOutDue($migration));
    }

    private function pop(string $queue = 'rows'): ?Taken
    {
        $from = Queue::connection('database');
        self::assertInstanceOf(FairQueue::class, $from);

        return $from->pop($queue);
    }

    private function of(?Taken $job): ?int
    {
        return $job?->payload()['migration'];
    }

    private function waits(int $migration, bool $isTaken = false): void
    {
        DB::table('jobs')->insert([
            'queue' => 'passes', 'payload' => '', 'attempts' => 0, 'available_at' => 0, 'created_at' => 0, 'migration_id' => $migration,
            'reserved_at' => $isTaken ? time() : null, 'taken_by' => $isTaken ? DB::raw('CONNECTION_ID()') : null,
        ]);
    }

    private function workers(int $many, Kind $kind): int
    {
        config(['baggage.workers' => $many]);

        return $kind->workers();
    }

    private function most(int $many, Kind $kind): int
    {
        config(['baggage.workers' => $many]);

        return $kind->atMost();
    }
}
