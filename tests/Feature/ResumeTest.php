<?php

namespace Tests\Feature;

use App\Loading\PassRunner;
use App\Loading\Rounds;
use App\Models\Pass;
use App\Models\PassKind;
use App\Models\Role;
use App\Models\Round;
use App\Reconciling\Report;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\DataProvider;
use Symfony\Component\Process\Process;
use Tests\Support\EndState;
use Tests\TestCase;

/** Exactly once, also when killed. Surrogate keys may have gaps after a rollback; everything else must be identical. */
final class ResumeTest extends TestCase
{
    use EndState;

    /** @var array<string, mixed>|null what an uninterrupted run leaves */
    private static ?array $reference = null;

    protected function setUp(): void
    {
        parent::setUp();
        // Small batches, so that there are many moments to be killed at.
        config(['baggage.batch' => 25]);
    }

    /** @return array<string, mixed> */
    private function reference(): array
    {
        if (self::$reference === null) {
            self::$reference = $this->state($this->load($this->demoMigration(self::smallDemo())));
            $this->tearDown();
            $this->setUp();
        }

        return self::$reference;
    }

    /** @param  bool  $sameKeys  whether records were made in the same order */
    private function assertAsIfNeverInterrupted(Round $round, bool $sameKeys = true): void
    {
        $reference = $sameKeys ? $this->reference() : self::withoutKeys($this->reference());
        foreach ($sameKeys ? $this->state($round) : self::withoutKeys($this->state($round)) as $what => $rows) {
            $lines = fn (array $all) => array_map(fn ($r) => implode('|', $r), $all);
            self::assertSame(
                [[], []],
                [
                    array_slice(array_diff($lines($reference[$what]), $lines($rows)), 0, 3),
                    array_slice(array_diff($lines($rows), $lines($reference[$what])), 0, 3),
                ],
                $what,
            );
            self::assertSame(count($reference[$what]), count($rows), $what);
        }
        self::assertTrue((new Report)->of($round)['proofs_hold']);
        self::assertSame([['0']], $this->targetRows('SELECT COUNT(*) FROM baggage_receipts'));
    }

    private function begin(): Pass
    {
        $migration = $this->demoMigration(self::smallDemo());
        $rounds = $this->app->make(Rounds::class);

        return $rounds->pass($rounds->begin($migration, $migration->targets()->firstOrFail(), 'rehearsal-1'), PassKind::First);
    }

    /** @return iterable<array{int}> rows done at which the worker is killed */
    public static function moments(): iterable
    {
        foreach (getenv('BAGGAGE_LONG') ? [1, 1100, 1900] : [1, 1900] as $rows) {
            yield "at $rows rows" => [$rows];
        }
    }

    #[DataProvider('moments')]
    public function test_a_worker_killed_with_9_is_as_if_it_never_was(int $rows): void
    {
        $this->reference();
        $pass = $this->begin();
        $worker = new Process(
            [
                PHP_BINARY,
                'artisan',
                'tinker',
                '--execute',
                "config(['baggage.batch' => 25]); App\\Loading\\PassRunner::of(App\\Models\\Pass::find($pass->id))->work();",
            ],
            base_path(),
            ['APP_ENV' => 'testing'],
        );
        $worker->start();
        $from = microtime(true);
        while (
            $worker->isRunning()
            && microtime(true) - $from < 60
            && (int) $pass->passLoads()->sum('rows_done') < $rows
        ) {
            usleep(2000);
        }
        self::assertTrue($worker->isRunning(), $worker->getOutput().$worker->getErrorOutput());
        $worker->signal(SIGKILL);
        $worker->wait();
        self::assertSame('running', $pass->refresh()->state->value);
        self::assertLessThan((int) $pass->passLoads()->sum('rows_total'), (int) $pass->passLoads()->sum('rows_done'));
        $this->awaitDeadConnections();
        PassRunner::of($pass, 0)->work();
        self::assertSame('finished', $pass->refresh()->state->value, (string) $pass->error);
        $this->assertAsIfNeverInterrupted($pass->round);
    }

    /** Processes that got further do not count among those that broke off at one place. */
    public function test_a_worker_that_gets_further_begins_to_count_anew(): void
    {
        $pass = $this->begin();
        $pass->update(['state' => 'running', 'attempts' => 1]);
        PassRunner::of($pass, 0)->work();
        self::assertSame(['finished', 1], [$pass->refresh()->state->value, $pass->attempts]);
    }

    /** The server notices the end of a killed client in its own time; until then the client's locks are held. */
    private function awaitDeadConnections(): void
    {
        for (
            $i = 0;
            $i < 200
            && (int) DB::scalar(
                'SELECT COUNT(*) FROM information_schema.processlist WHERE db IN (DATABASE(), ?) AND id <> CONNECTION_ID()',
                [getenv('HARBOUR_OFFICE_DATABASE')],
            ) > 0;
            $i++
        ) {
            usleep(10_000);
        }
    }

    /** The worst moment: the target has the records and the receipt, Baggage has not heard of it. */
    public function test_a_batch_the_ledger_never_saw_is_taken_from_its_receipt(): void
    {
        $this->reference();
        $pass = $this->begin();
        $load = DB::table('loads')->where('name', 'Invoices')->value('id');
        DB::unprepared(
            "CREATE TRIGGER broken BEFORE INSERT ON outcomes FOR EACH ROW BEGIN IF NEW.load_id = $load "
                ."AND NEW.item = 600 THEN SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'the disk is full'; END IF; END",
        );
        PassRunner::of($pass, 0)->work();
        DB::unprepared('DROP TRIGGER broken');
        self::assertSame('stopped', $pass->refresh()->state->value);
        self::assertStringContainsString('broke off and can be resumed', (string) $pass->error);
        $inTarget = (int) $this->targetRows('SELECT COUNT(*) FROM invoice')[0][0];
        self::assertGreaterThan(
            $this->lines()->where('load_id', $load)->where('outcome', 'loaded')->count(),
            $inTarget,
        );
        // Somebody's bytes in place of the receipt: nothing is guessed, and nothing written.
        $this->target()->exec('CREATE TABLE kept_receipts AS SELECT * FROM baggage_receipts');
        $this->target()->exec("UPDATE baggage_receipts SET receipt = 'O:8:\"stdClass\":0:{}'");
        $pass->update(['state' => 'queued']);
        PassRunner::of($pass, 0)->work();
        self::assertSame('stopped', $pass->refresh()->state->value);
        self::assertStringContainsString('A receipt in the target cannot be read', (string) $pass->error);
        self::assertSame([[(string) $inTarget]], $this->targetRows('SELECT COUNT(*) FROM invoice'));
        $this->target()->exec('UPDATE baggage_receipts b JOIN kept_receipts k USING (stretch) SET b.receipt = k.receipt');
        $this->target()->exec('DROP TABLE kept_receipts');
        $pass->update(['state' => 'queued']);
        PassRunner::of($pass, 0)->work();
        self::assertSame('finished', $pass->refresh()->state->value, (string) $pass->error);
        $this->assertAsIfNeverInterrupted($pass->round);
    }

    public function test_a_target_that_stops_answering_stops_the_pass_cleanly(): void
    {
        $this->reference();
        $pass = $this->begin();
        $target = $pass->round->target;
        // A user of its own, whose rights end in mid-pass, as when the server is taken away.
        DB::unprepared(
            "CREATE OR REPLACE USER gone@'127.0.0.1' IDENTIFIED BY 'x'; GRANT ALL ON "
                .getenv('HARBOUR_OFFICE_DATABASE').".* TO gone@'127.0.0.1'",
        );
        $target->update(['username' => 'gone', 'password' => 'x', 'password_env' => null]);
        DB::unprepared(
            'CREATE TRIGGER away AFTER INSERT ON outcomes FOR EACH ROW BEGIN IF NEW.item = 150 THEN INSERT INTO '
                ."jobs (queue, payload, attempts, available_at, created_at) VALUES ('probe', '', 0, 0, 0); END IF; END",
        );
        $kill = new Process(
            [
                PHP_BINARY,
                'artisan',
                'tinker',
                '--execute',
                "for (\$i = 0; \$i < 3000 && ! DB::table('jobs')->where('queue', 'probe')->exists(); \$i++) "
                    ."usleep(5000); DB::unprepared(\"ALTER USER gone@'127.0.0.1' ACCOUNT LOCK\"); foreach "
                    .'(DB::select("SELECT id FROM information_schema.processlist '
                    ."WHERE user = 'gone'\") as \$p) DB::unprepared(\"KILL \$p->id\");",
            ],
            base_path(),
        );
        $kill->start();
        PassRunner::of($pass, 0)->work();
        $kill->wait();
        DB::unprepared("DROP TRIGGER away; ALTER USER gone@'127.0.0.1' ACCOUNT UNLOCK");
        DB::table('jobs')->delete();
        self::assertSame('stopped', $pass->refresh()->state->value);
        self::assertStringContainsString('can be resumed', (string) $pass->error);
        $pass->update(['state' => 'queued']);
        PassRunner::of($pass, 0)->work();
        self::assertSame('finished', $pass->refresh()->state->value, (string) $pass->error);
        $this->assertAsIfNeverInterrupted($pass->round);
    }

    public function test_a_stopped_pass_goes_on_where_it_stood(): void
    {
        $this->reference();
        $pass = $this->begin();
        $pass->update(['stop_requested' => true]);
        for ($times = 0; $pass->refresh()->state->value !== 'finished' && $times < 4; $times++) {
            PassRunner::of($pass, 0)->work();
            self::assertSame($times < 3 ? 'stopped' : 'finished', $pass->refresh()->state->value);
            $pass->update(
                $times < 2
                    ? ['state' => 'queued']
                    : ($times < 3
                        ? ['state' => 'queued', 'stop_requested' => false]
                        : []),
            );
        }
        $this->assertAsIfNeverInterrupted($pass->round);
    }

    /** What an ended pass did not come to was not asked for; asked for later it ends as if it had never been interrupted. */
    public function test_a_pass_that_is_paused_may_be_ended_there(): void
    {
        $this->reference();
        $pass = $this->begin();
        DB::unprepared(
            'CREATE TRIGGER pausing AFTER INSERT ON outcomes FOR EACH ROW BEGIN IF NEW.item = 60 THEN '
                .'UPDATE passes SET stop_requested = 1 WHERE id = NEW.pass_id; END IF; END',
        );
        PassRunner::of($pass, 0)->work();
        DB::unprepared('DROP TRIGGER pausing');
        self::assertSame(['stopped', 'paused'], [$pass->refresh()->state->value, $pass->stateInWords()]);
        PassRunner::of($pass, 0)->end();
        self::assertSame(['finished', 'ended before all rows'], [$pass->refresh()->state->value, $pass->stateInWords()]);
        $report = (new Report)->of($pass->round);
        self::assertTrue($report['accounted']);
        $lines = fn (string $outcome) => $this->lines()->where('outcome', $outcome)->count();
        self::assertGreaterThan(500, $lines('pending'));
        self::assertSame((int) $pass->round->roundLoads()->sum('feed_rows'), $this->lines()->count());
        self::assertSame($lines('pending'), $report['not_asked']);
        $again = $this->app->make(Rounds::class)->pass($pass->round, PassKind::Retry);
        PassRunner::of($again, 0)->work();
        self::assertSame('finished', $again->refresh()->state->value, (string) $again->error);
        $this->assertAsIfNeverInterrupted($pass->round, false);
    }

    /** What the target has of a stretch is recorded when the pass is ended; a stretch it has nothing of may be what ended the process. */
    public function test_a_pass_that_broke_off_may_be_ended_there(): void
    {
        $this->reference();
        $pass = $this->begin();
        $load = (int) DB::table('loads')->where('name', 'Invoices')->value('id');
        DB::unprepared(
            "CREATE TRIGGER broken BEFORE INSERT ON outcomes FOR EACH ROW BEGIN IF NEW.load_id = $load "
                ."AND NEW.item = 600 THEN SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'the disk is full'; END IF; END",
        );
        PassRunner::of($pass, 0)->work();
        DB::unprepared('DROP TRIGGER broken');
        self::assertSame('stopped', $pass->refresh()->state->value);
        // Somebody took rows and wrote nothing of them.
        $progress = $pass->passLoads()->where('load_id', $load)->firstOrFail();
        $of = ['pass_load_id' => $progress->id, 'kind' => 'free', 'after_row' => $progress->cursor_row];
        DB::table('stretches')->insert($of + ['to_row' => $progress->cursor_row + 25]);
        $progress->update(['cursor_row' => $progress->cursor_row + 25]);
        PassRunner::of($pass, 0)->end();
        self::assertSame('ended before all rows', $pass->refresh()->stateInWords(), (string) $pass->error);
        self::assertSame(
            (int) $this->targetRows('SELECT COUNT(*) FROM invoice')[0][0],
            $this->lines()->where('load_id', $load)->where('outcome', 'loaded')->count(),
        );
        self::assertSame(0, DB::table('stretches')->count());
        PassRunner::of($again = $this->app->make(Rounds::class)->pass($pass->round, PassKind::Retry), 0)->work();
        self::assertSame('finished', $again->refresh()->state->value, (string) $again->error);
        $this->assertAsIfNeverInterrupted($pass->round, false);
    }

    public function test_the_tender_takes_up_what_a_killed_worker_left(): void
    {
        $pass = $this->begin();
        $pass->update(['state' => 'running', 'started_at' => now()]);
        $this->artisanRun('baggage:tend');
        self::assertSame('finished', $pass->refresh()->state->value);
        // FU10: that it was interrupted can be read, once.
        self::assertSame(1, $pass->interrupted);
        $pass->noteInterruption();
        self::assertSame(1, $pass->refresh()->interrupted);
        self::assertSame(1, DB::table('audit_entries')->where('what', 'like', 'pass % was interrupted%')->count());
        $at = "/m/{$pass->round->migration_id}/runs";
        $this->actingAs($this->user(Role::Lead))->get($at)->assertReads('Interrupted once');
        self::assertSame((int) $pass->passLoads()->sum('rows_total'), (int) $pass->passLoads()->sum('rows_done'));
    }

    private function artisanRun(string $command): void
    {
        \Illuminate\Support\Facades\Artisan::call($command);
    }
}
