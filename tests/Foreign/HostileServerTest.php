<?php

namespace Tests\Foreign;

use App\Freezing\Freezer;
use App\Freezing\FreezeTake;
use App\Freezing\Look;
use App\Loading\PassRunner;
use App\Loading\Rounds;
use App\Looking\Aside;
use App\Looking\LookGoing;
use App\Models\Connection;
use App\Models\Migration;
use App\Models\Pass;
use App\Models\PassKind;
use App\Models\PassState;
use App\Models\Role;
use App\Models\Take;
use App\Models\TakeState;
use App\Models\Target;
use Baggage\Core\Loading\Receipt;
use Baggage\Core\Reading\Layout;
use Baggage\Core\Reading\Query\QueryFormat;
use Baggage\Core\Reading\ReaderSettings;
use Illuminate\Http\UploadedFile;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\DataProvider;
use Symfony\Component\Process\Process;
use Tests\TestCase;

/** Sources and targets that answer what no honest server does: told in words, ended in time, and gone on with when they behave. */
final class HostileServerTest extends TestCase
{
    private ?Process $server = null;

    private int $port = 0;

    protected function tearDown(): void
    {
        $this->end();
        array_map(putenv(...), ['BAGGAGE_MOST_ROWS', 'BAGGAGE_STALLED_SECONDS']);
        parent::tearDown();
    }

    /** The server, and what it began for each connection. */
    private function end(): void
    {
        if ($this->server !== null) {
            posix_kill(-(int) $this->server->getPid(), SIGKILL);
            $this->server = null;
        }
    }

    private function serve(string $mode): void
    {
        $this->end();
        $free = stream_socket_server('tcp://127.0.0.1:0');
        $this->port = (int) substr((string) strrchr((string) stream_socket_get_name($free, false), ':'), 1);
        fclose($free);
        $upstream = '127.0.0.1:'.getenv('DB_PORT');
        $command = [PHP_BINARY, 'tests/Support/hostile-server.php', (string) $this->port, $upstream, $mode, self::work('hostile.log')];
        $this->server = new Process(['setsid', ...$command], base_path());
        $this->server->disableOutput();
        $this->server->start();
        for ($i = 0; $i < 100 && @fsockopen('127.0.0.1', $this->port) === false; $i++) {
            usleep(20_000);
        }
    }

    private function connection(): Connection
    {
        $name = (string) getenv('HARBOUR_OFFICE_DATABASE');
        DB::statement("CREATE OR REPLACE TABLE `$name`.hostile (no INT PRIMARY KEY, name VARCHAR(40))");
        DB::statement("INSERT INTO `$name`.hostile VALUES (1, 'one'), (2, 'two'), (3, 'three')");
        $source = (Migration::query()->first() ?? $this->migration())->sources()->firstOrFail();
        Connection::query()->delete();

        return Connection::query()->create([
            'source_id' => $source->id, 'name' => 'c', 'driver' => 'mysql', 'host' => '127.0.0.1', 'port' => (string) $this->port,
            'database' => $name, 'username' => 'harbour', 'password' => getenv('HARBOUR_OFFICE_PASSWORD'),
        ]);
    }

    private function settings(): ReaderSettings
    {
        return new ReaderSettings(new QueryFormat('c', 'hostile'), new Layout);
    }

    private function taken(): Take
    {
        $source = $this->connection()->source()->firstOrFail();
        $extract = $source->extracts()->firstOrCreate(['name' => 'x'], ['reader' => $this->settings()->toArray()]);
        $take = $extract->newTake(['file' => '', 'file_name' => 'c', 'bytes' => 0]);
        (new FreezeTake($take->id))->handle(new Freezer);

        return $take->refresh();
    }

    /** @return iterable<string, array{string, string}> mode, and what is said of the take */
    public static function sources(): iterable
    {
        yield 'it says nothing' => ['silent', 'Nothing more came for 2 s'];
        yield 'it asks for a file of this machine' => ['files', 'refuses the query'];
        yield 'it has rows for ever' => ['endless', 'more than 40,000 rows'];
        yield 'it ends the connection' => ['drops', 'broke off after 1 rows'];
        yield 'it gives a byte a second' => ['drip', 'Nothing more came for 2 s'];
    }

    #[DataProvider('sources')]
    public function test_a_source(string $mode, string $says): void
    {
        config(['baggage.apart.on' => true, 'baggage.scratch' => self::work('scratch')]);
        config(['baggage.apart.stalled' => 2]);
        putenv('BAGGAGE_MOST_ROWS=40000');
        $this->serve($mode);
        $began = microtime(true);
        $take = $this->taken();
        self::assertLessThan(60, microtime(true) - $began);
        self::assertSame(TakeState::Failed, $take->state, "$take->rows");
        self::assertStringContainsString($says, (string) $take->error);
        self::assertStringNotContainsString('/', (string) $take->error);
        self::assertSame(0, DB::table('staged_rows')->count());
        self::assertStringNotContainsString('root:', (string) file_get_contents(self::work('hostile.log')));
        // As soon as it behaves it is read, however slow this machine is.
        config(['baggage.apart.stalled' => 30]);
        $this->port = (int) getenv('DB_PORT');
        self::assertSame([TakeState::Frozen, 3], [($take = $this->taken())->state, $take->rows], (string) $take->error);
        self::assertSame([], glob(self::work('scratch').'/*') ?: []);
    }

    /** A page waits no longer than it may, whatever it is. */
    public function test_a_page_about_a_source(): void
    {
        config(['baggage.apart.on' => true, 'baggage.apart.look.seconds' => 1.5, 'queue.default' => 'database']);
        $this->actingAs($this->user(Role::Lead));
        foreach (['silent', 'drip'] as $mode) {
            $this->serve($mode);
            $connection = $this->connection();
            $began = microtime(true);
            try {
                (new Look)->through($connection, $this->settings(), 5);
                self::fail('it came to an end');
            } catch (LookGoing) {
                self::assertLessThan(12, microtime(true) - $began);
            }
        }
    }

    /** @return iterable<string, array{string, string}> */
    public static function targets(): iterable
    {
        yield 'it gives fewer keys' => ['fewer', 'The target gave 3 keys for 4 records'];
        yield 'it gives more keys' => ['more', 'The target gave 5 keys for 4 records'];
    }

    private function begun(): Pass
    {
        $plan = $this->smallPlan("no,name\n1,a\n2,b\n3,c\n4,d\n", '{code: no, name: name}');
        $migration = $this->demoMigration(dirname($plan));
        $rounds = $this->app->make(Rounds::class);

        return $rounds->pass($rounds->begin($migration, $migration->targets()->firstOrFail(), 'rehearsal-1'), PassKind::First);
    }

    public function test_a_pass_there_is_no_room_for_is_not_begun(): void
    {
        $this->actingAs($this->user(Role::Lead));
        $plan = $this->smallPlan("no,name\n1,a\n", '{code: no, name: name}');
        $migration = $this->demoMigration(dirname($plan));
        config(['baggage.disk_reserve' => 99_000_000]);
        $round = ['name' => 'rehearsal-1', 'kind' => 'rehearsal', 'target' => $migration->targets()->value('id')];
        $this->post("/m/$migration->id/runs/rounds", $round)
            ->assertSessionHas('refused', fn (string $says) => str_contains($says, 'The pass needs about 1 MB on the disk'));
        self::assertSame(0, Pass::query()->count());
        config(['baggage.disk_reserve' => 1]);
        $this->get("/m/$migration->id/runs")->assertReads('About 1 MB on the disk, where');
    }

    #[DataProvider('targets')]
    public function test_a_target_that_counts_otherwise_stops_the_pass_and_it_goes_on(string $mode, string $says): void
    {
        $this->serve($mode);
        $pass = $this->begun();
        Target::query()->update(['port' => (string) $this->port]);
        PassRunner::of($pass, 0)->work();
        self::assertSame(PassState::Stopped, $pass->refresh()->state, (string) $pass->error);
        self::assertStringContainsString($says, (string) $pass->error);
        self::assertSame([['0']], $this->targetRows('SELECT COUNT(*) FROM harbour'));
        $this->app->make(Rounds::class)->resume($pass);
        self::assertSame(PassState::Finished, $pass->refresh()->state, (string) $pass->error);
        self::assertSame([['4']], $this->targetRows('SELECT COUNT(*) FROM harbour'));
    }

    public function test_a_target_that_says_nothing_any_more_stops_the_pass_and_it_goes_on(): void
    {
        $this->serve('silent');
        $pass = $this->begun();
        Target::query()->update(['port' => (string) $this->port]);
        config(['baggage.statement.target' => 1]);
        PassRunner::of($pass, 0)->work();
        self::assertSame(PassState::Stopped, $pass->refresh()->state, (string) $pass->error);
        self::assertStringContainsString('can be resumed', (string) $pass->error);
        self::assertSame('86400', ini_get('mysqlnd.net_read_timeout'));
        Target::query()->update(['port' => (string) getenv('DB_PORT')]);
        $this->app->make(Rounds::class)->resume($pass);
        self::assertSame(PassState::Finished, $pass->refresh()->state, (string) $pass->error);
    }

    /** @return iterable<string, array{string, string, int}> what stands in the target: a beginning, and what comes so many times */
    public static function bombs(): iterable
    {
        yield 'zeros without end' => ['', str_repeat('0', 1 << 20), 200];
        yield 'lists of lists' => ['{"v":1,"to":4,"answers":[[]', str_repeat(',[]', 1 << 18), 70];
        yield 'numbers of numbers' => ['{"v":1,"to":4,"answers":[0', str_repeat(',0', 1 << 19), 60];
    }

    #[DataProvider('bombs')]
    public function test_a_receipt_that_is_a_bomb_is_told_and_the_pass_goes_on_without_it(string $head, string $part, int $times): void
    {
        $deflate = deflate_init(ZLIB_ENCODING_DEFLATE, ['level' => 9]);
        $bomb = deflate_add($deflate, $head, ZLIB_NO_FLUSH);
        for ($i = 0; $i < $times; $i++) {
            $bomb .= deflate_add($deflate, $part, ZLIB_NO_FLUSH);
        }
        $bomb .= deflate_add($deflate, $head === '' ? '' : ']}', ZLIB_FINISH);
        $pass = $this->begun();
        // As if a worker had been killed between the target's commit and ours.
        DB::unprepared('CREATE OR REPLACE TRIGGER killed BEFORE INSERT ON outcomes FOR EACH ROW SIGNAL SQLSTATE \'45000\'');
        PassRunner::of($pass, 0)->work();
        DB::unprepared('DROP TRIGGER killed');
        self::assertSame([['1']], $this->targetRows('SELECT COUNT(*) FROM baggage_receipts'));
        $office = getenv('HARBOUR_OFFICE_DATABASE');
        $good = DB::selectOne("SELECT stretch, receipt FROM `$office`.baggage_receipts");
        DB::update("UPDATE `$office`.baggage_receipts SET receipt = ?", [$bomb]);
        $pass->update(['state' => PassState::Queued]);
        memory_reset_peak_usage();
        $before = memory_get_usage();
        PassRunner::of($pass, 0)->work();
        self::assertLessThan(200 << 20, memory_get_peak_usage() - $before);
        self::assertSame(PassState::Stopped, $pass->refresh()->state);
        self::assertStringContainsString('receipt in the target cannot be read', (string) $pass->error);
        DB::update("UPDATE `$office`.baggage_receipts SET receipt = ?", [$good->receipt]);
        self::assertCount(4, Receipt::unpack($good->receipt)->answers);
        $pass->update(['state' => PassState::Queued]);
        PassRunner::of($pass, 0)->work();
        self::assertSame(PassState::Finished, $pass->refresh()->state, (string) $pass->error);
        self::assertSame([['4']], $this->targetRows('SELECT COUNT(*) FROM harbour'));
    }

    /** What is asked of a target that does not answer is sent again by itself, and done when a worker has its answer. */
    public function test_a_page_about_a_target(): void
    {
        $migration = $this->demoMigration(dirname($this->smallPlan("no,name\n1,a\n", '{code: no, name: name}')));
        $this->actingAs($this->user(Role::Lead));
        config(['baggage.apart.on' => true, 'baggage.apart.look.seconds' => 0.1, 'queue.default' => 'database']);
        $target = Target::query()->sole();
        $try = "/m/$migration->id/target/read";
        $page = $this->post($try, ['x' => '<b>'])
            ->assertStatus(202)
            ->assertSee('name="x" value="&lt;b&gt;"', false);
        self::assertSame(1, preg_match('/name="looking" value="([0-9a-f-]{36})"/', (string) $page->getContent(), $m));
        $this->post($try, ['looking' => $m[1]])->assertStatus(202);
        self::assertSame(1, DB::table('jobs')->count(), 'it is asked for once');
        Artisan::call('queue:work', ['--once' => true, '--queue' => 'looks']);
        $this->post($try, ['looking' => $m[1]])
            ->assertRedirect()
            ->assertSessionHas('told', fn (string $t) => str_contains($t, 'known already'));
        // Another time it is asked anew, and of one that stays silent it is said after a while.
        $this->serve('silent');
        $target->update(['port' => (string) $this->port]);
        config(['baggage.apart.look_long.seconds' => 1.5]);
        $page = $this->from("http://localhost/m/$migration->id/target?x=1")->post($try)->assertStatus(202);
        preg_match('/name="looking" value="([0-9a-f-]{36})"/', (string) $page->getContent(), $m);
        Artisan::call('queue:work', ['--once' => true, '--queue' => 'looks']);
        self::assertStringContainsString("name=\"back\" value=\"/m/$migration->id/target?x=1\"", (string) $page->getContent());
        $this->from($try)
            ->post($try, ['looking' => $m[1], 'back' => "/m/$migration->id/target?x=1"])
            ->assertRedirect("/m/$migration->id/target?x=1")
            ->assertSessionHas('refused', 'The target "r": It took longer than 1.5 s and was ended.');
    }

    /** No form that did something is sent again. */
    public function test_what_asks_a_target_does_nothing_before_it_answered(): void
    {
        $migration = $this->demoMigration(dirname($this->smallPlan("no,name\n1,a\n", '{code: no, name: name}')));
        $this->actingAs($this->user(Role::Lead));
        config(['baggage.apart.on' => true, 'baggage.apart.look.seconds' => 0.1, 'queue.default' => 'database']);
        config(['baggage.apart.look_long.seconds' => 1.5]);
        $this->serve('silent');
        $target = Target::query()->sole();
        // What is kept before it is tried is kept once: the page that tries it asks again, and no form does.
        $shown = $this->post("/m/$migration->id/connections", [
            'of' => '0', 'name' => 'silent', 'host' => '127.0.0.1', 'port' => (string) $this->port, 'database' => 'x', 'username' => 'u',
        ])->assertRedirect()->headers->get('Location');
        $this->get((string) $shown)->assertReads('A worker looks at it now')->assertSee('data-look-again', false);
        Artisan::call('queue:work', ['--once' => true, '--queue' => 'looks']);
        $this->get((string) $shown)->assertReads('The target "silent": It took longer than 1.5 s and was ended.');
        self::assertSame(2, Target::query()->count());
        // A round that cannot be begun yet is not begun half.
        $round = ['name' => 'rehearsal-1', 'kind' => 'rehearsal', 'target' => $target->id];
        $this->post("/m/$migration->id/runs/rounds", $round)->assertStatus(202);
        self::assertSame([0, 0], [DB::table('rounds')->count(), DB::table('passes')->count()]);
    }

    /** A file sent with a form is there until the form has come again; somebody else's is none, and what nobody came back for goes. */
    public function test_a_file_waits_aside_for_its_form(): void
    {
        $migration = $this->migration();
        $this->actingAs($this->user(Role::Lead));
        config(['baggage.apart.on' => true, 'baggage.apart.look.seconds' => 0.1, 'queue.default' => 'database']);
        $aside = fn () => glob(config('baggage.vault').'/aside/*') ?: [];
        array_map(unlink(...), $aside());
        $file = fn () => UploadedFile::fake()->createWithContent('t.csv', "Entity,Field\nthing,name\n");
        $to = "/m/$migration->id/target/describe";
        $page = (string) $this->post($to, ['from' => 'file', 'file' => $file()])->assertStatus(202)->getContent();
        self::assertCount(2, $aside());
        self::assertSame(0, fileperms($aside()[0]) & 0077);
        preg_match('/name="aside" value="([0-9a-f-]{36})"/', $page, $m);
        $this->actingAs($this->user(Role::Consultant));
        $this->post($to, ['from' => 'file', 'aside' => $m[1]])->assertSessionHasErrors('file');
        $this->actingAs($this->user(Role::Lead));
        Artisan::call('queue:work', ['--once' => true, '--queue' => 'looks']);
        $this->post($to, ['from' => 'file', 'aside' => $m[1]])->assertRedirectContains('/changes/');
        self::assertSame([], $aside());
        $this->post($to, ['from' => 'file', 'aside' => $m[1]])->assertSessionHasErrors('file');
        $this->post($to, ['from' => 'file', 'aside' => '../../x'])->assertSessionHasErrors('aside');
        $this->post($to, ['from' => 'file', 'file' => $file()])->assertStatus(202);
        array_map(fn (string $path) => touch($path, time() - 3 * 3600), $aside());
        Aside::sweep();
        self::assertSame([], $aside());
    }

    /** Where an answer leads back to is a page of ours. */
    public function test_what_is_sent_again_leads_nowhere_else(): void
    {
        $this->actingAs($this->user(Role::Lead));
        foreach (['//elsewhere.example', '/\\elsewhere.example', 'http://elsewhere.example/', "/\r\nX: y", '/a b'] as $bad) {
            $this->from('/account')->post('/account', ['back' => $bad])->assertRedirect('/account')->assertHeaderMissing('X');
        }
        $this->from('/account')->post('/account', ['back' => '/m/1'])->assertRedirect('/m/1');
    }
}
