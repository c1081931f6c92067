<?php

namespace Tests\Feature;

use App\Freezing\FreezeTake;
use App\Freezing\Look;
use App\Loading\Rounds;
use App\Loading\WorkOnPass;
use App\Mapping\CheckLoad;
use App\Mapping\LoadChecker;
use App\Models\Connection;
use App\Models\Extract;
use App\Models\Finding;
use App\Models\Load;
use App\Models\LoadCheck;
use App\Models\Migration;
use App\Models\PassKind;
use App\Models\Role;
use App\Models\Target;
use App\Plans\Headless;
use App\Plans\PlanExporter;
use App\Profiling\StudyMigration;
use App\Reading\Database\DatabaseLink;
use App\Reading\Database\QueryTable;
use App\Reading\Database\Reach;
use App\Targets\TargetLink;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Plan\PlanError;
use Baggage\Core\Plan\PlanWriter;
use Baggage\Core\Reading\Database\AddressError;
use Baggage\Core\Reading\Http\HttpFormat;
use Baggage\Core\Reading\Query\QueryFormat;
use Baggage\Core\Reading\ReaderSettings;
use Baggage\Core\Reading\ReadingError;
use Illuminate\Http\Client\Request;
use Illuminate\Http\UploadedFile;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Http;
use Illuminate\Support\Facades\Route;
use Illuminate\Testing\TestResponse;
use PDO;
use PHPUnit\Framework\Attributes\DataProvider;
use Standins\HarbourOffice;
use Symfony\Component\Process\Process;
use Tests\TestCase;

/** What a plan, a form or an address may not do: reach Baggage itself, this machine's files, its environment, or a trace. */
final class DoorsTest extends TestCase
{
    public function test_baggages_own_database_is_neither_source_nor_target(): void
    {
        $own = [
            'name' => 'own',
            'host' => 'localhost',
            'port' => (string) getenv('DB_PORT'),
            'username' => 'baggage',
            'password' => (string) getenv('DB_PASSWORD'),
        ];
        foreach (
            ['baggage_test', 'mysql', 'information_schema', (string) getenv('HARBOUR_OFFICE_DATABASE')] as $database
        ) {
            $database = $database === 'baggage_test' ? (string) getenv('DB_DATABASE') : $database;
            try {
                (new TargetLink(new Target(['database' => $database] + $own)))->pdo();
                self::fail("$database was opened as a target");
            } catch (TargetUnavailable $e) {
                self::assertStringContainsString('own database', $e->getMessage());
            }
            try {
                DatabaseLink::to(new Connection(['database' => $database, 'driver' => 'mysql'] + $own), 10);
                self::fail("$database was opened as a source");
            } catch (ReadingError $e) {
                self::assertStringContainsString('own database', $e->getMessage());
            }
        }
    }

    /** FS12: a statement has a time, by the server's own means. */
    public function test_a_statement_takes_no_longer_than_it_may(): void
    {
        $own = ['host' => '127.0.0.1', 'port' => getenv('DB_PORT'), 'username' => 'harbour', 'driver' => 'mysql',
            'password' => getenv('HARBOUR_OFFICE_PASSWORD'), 'database' => getenv('HARBOUR_OFFICE_DATABASE')];
        $many = 'SELECT COUNT(*) FROM '.implode(', ', array_map(fn ($n) => "information_schema.columns c$n", range(1, 4)));
        $table = new QueryTable(DatabaseLink::to(new Connection($own), 1), new QueryFormat('c', '', [], [], $many), [], 5);
        $this->expectExceptionMessage('longer than a statement may take');
        iterator_to_array($table->rows());
    }

    /** FS13: which networks are reached is configured, and of others nothing is told. */
    public function test_networks_that_may_not_be_reached_are_not(): void
    {
        $says = [];
        $hosts = ['169.254.169.254', '0.0.0.0', '::ffff:169.254.169.254', 'fe80::1'];
        foreach ($hosts as $host) {
            $bracketed = str_contains($host, ':') ? "[$host]" : $host;
            foreach (['mysql' => $host, 'http' => "http://$bracketed"] as $driver => $at) {
                $connection = new Connection(['driver' => $driver, 'host' => $at, 'port' => '3306', 'database' => 'x', 'username' => 'u']);
                $format = $driver === 'http' ? new HttpFormat('c') : new QueryFormat('c', 't');
                $seen = (new Look)->through($this->kept($connection), new ReaderSettings($format), 5);
                $says[] = (string) preg_replace('/"[^"]*"/', '""', (string) $seen['error']);
            }
        }
        self::assertSame(['This installation makes no connections to where "" is. Its administrator says which networks may be reached.'],
            array_values(array_unique($says)));
        // Baggage's own port is not reached; where only some networks may be, no other is.
        config(['baggage.networks.own_ports' => [8080]]);
        self::assertSame('127.0.0.1', Reach::ip('localhost', 8081));
        foreach ([['localhost', 8080], ['127.9.9.9', 8080]] as [$host, $port]) {
            self::assertStringContainsString('makes no connections', $this->refusal(fn () => Reach::ip($host, $port)));
        }
        config(['baggage.networks.only' => ['10.0.0.0/8']]);
        self::assertStringContainsString('makes no connections', $this->refusal(fn () => Reach::ip('127.0.0.1', 3306)));
        self::assertSame('10.1.2.3', Reach::ip('10.1.2.3', 3306));
    }

    private function kept(Connection $connection): Connection
    {
        $source = Migration::query()->first()?->sources()->firstOrFail() ?? $this->migration()->sources()->firstOrFail();
        Connection::query()->delete();
        $connection->fill(['source_id' => $source->id, 'name' => 'c'])->save();

        return $connection;
    }

    private function refusal(\Closure $of): string
    {
        try {
            $of();
        } catch (AddressError $e) {
            return $e->getMessage();
        }

        return '';
    }

    public function test_a_service_that_sends_elsewhere_is_not_followed(): void
    {
        Http::fake(['*' => Http::response('', 302, ['Location' => 'http://169.254.169.254/secrets'])]);
        $migration = $this->migration();
        $connection = Connection::query()->create([
            'source_id' => $migration->sources()->firstOrFail()->id,
            'name' => 'service',
            'driver' => 'http',
            'host' => 'http://127.0.0.1:9/list',
        ]);
        $reader = ['reader' => ['kind' => 'http', 'connection' => 'service', 'path' => 'x']];
        $this->actingAs($this->user(Role::Lead))
            ->get("/m/$migration->id/sources/connections/$connection->id/table?".http_build_query($reader))
            ->assertReads('sends elsewhere, to http://169.254.169.254/secrets');
        Http::assertSent(fn (Request $request) => str_starts_with($request->url(), 'http://127.0.0.1:9/'));
        Http::assertSentCount(1);
    }

    public function test_a_form_takes_no_options_of_a_driver(): void
    {
        $this->actingAs($this->user(Role::Lead));
        $form = [
            'name' => 'Next',
            'target_name' => 'x',
            'host' => 'localhost;unix_socket='.getenv('DB_SOCKET'),
            'port' => '3306',
            'database' => (string) getenv('DB_DATABASE'),
            'username' => getenv('DB_ADMIN'),
        ];
        $this->post('/migrations', $form)->assertSessionHasErrors('host');
        $this->post(
            '/migrations',
            ['host' => '127.0.0.1', 'database' => 'x;unix_socket='.getenv('DB_SOCKET')] + $form,
        )->assertSessionHasErrors('database');
        $this->post('/migrations', ['host' => '${DB_HOST:-127.0.0.1}'] + $form)->assertSessionHasErrors('host');
        self::assertSame(0, Migration::query()->count());
        $migration = $this->migration();
        $source = $migration->sources()->firstOrFail();
        $odbc = ['name' => 'o', 'driver' => 'odbc', 'database' => 'Driver=/tmp/x.so;DBQ=x'];
        $this->post("/m/$migration->id/sources/$source->id/connections", $odbc)->assertSessionHasErrors('database');
        $pgsql = ['driver' => 'pgsql', 'from' => 'pgsql', 'host' => '/var/run/postgresql', 'database' => 'x'];
        $this->post("/m/$migration->id/target/describe", $pgsql)->assertSessionHas(
            'refused',
            fn ($r) => str_contains($r, 'is not a host'),
        );
        self::assertSame(0, Connection::query()->count());
    }

    public function test_a_plan_read_on_a_screen_opens_no_file_and_learns_nothing_of_the_environment(): void
    {
        $this->actingAs($this->user(Role::Lead));
        $secret = self::work('secret.csv');
        file_put_contents($secret, "APP_KEY=base64:hidden\n");
        $plan = "baggage: 1\nmigration: M\ntarget: {application: x, %sconnections: [{name: r, host: %s, database: d, "
                ."username: u, password_env: %s}]}\nsources: []\n";
        foreach ([$secret, '../../.env', '/etc/passwd'] as $file) {
            $refused = $this->sendPlan(sprintf($plan, "description: $file, ", '127.0.0.1', 'BAGGAGE_SECRET_X'));
            self::assertStringContainsString('opens no file', $refused);
            self::assertStringNotContainsString('hidden', $refused);
        }
        foreach (['HARBOUR_OFFICE_PASSWORD', 'BAGGAGE_SECRET_X', 'APP_KEY', 'PATH'] as $name) {
            $refused = $this->sendPlan(sprintf($plan, '', '"${'.$name.'}"', 'BAGGAGE_SECRET_X'));
            self::assertMatchesRegularExpression(
                '/only where a plan is read on the command line|not a name a plan may take/',
                $refused,
            );
            self::assertStringNotContainsString((string) getenv($name) ?: 'never', $refused);
        }
        self::assertStringContainsString(
            'APP_KEY is not a name',
            $this->sendPlan(sprintf($plan, '', '127.0.0.1', 'APP_KEY')),
        );
        self::assertStringContainsString(
            'has no password yet',
            $this->sendPlan(sprintf($plan, '', '127.0.0.1', 'HARBOUR_OFFICE_PASSWORD')),
        );
        self::assertSame(0, Migration::query()->count());
    }

    public function test_on_the_command_line_only_files_below_the_plans_folder_are_opened(): void
    {
        $plan = $this->smallPlan("no,name\n1,a\n", '{code: no, name: name}');
        $text = (string) file_get_contents($plan);
        file_put_contents(self::work('outside.csv'), "no,name\nhidden,a\n");
        @symlink(self::work('outside.csv'), dirname($plan).'/link.csv');
        $headless = $this->app->make(Headless::class);
        foreach (['../outside.csv', self::work('outside.csv'), 'link.csv', '/etc/passwd', 'nowhere.csv'] as $file) {
            file_put_contents($plan, str_replace('file: file.csv', "file: $file", $text));
            try {
                $headless->freeze($headless->import($plan), $plan, fn () => null);
                self::fail("$file was read");
            } catch (PlanError $e) {
                self::assertStringContainsString("outside the plan's folder", $e->getMessage());
            }
            file_put_contents($plan, str_replace('application: x', "application: x, description: $file", $text));
            try {
                $headless->import($plan);
                self::fail("$file described a target");
            } catch (PlanError $e) {
                self::assertStringNotContainsString('hidden', $e->getMessage());
                self::assertStringNotContainsString('root:', $e->getMessage());
            }
        }
        file_put_contents($plan, "a: [\nAPP_KEY=hidden\n");
        $run = new Process([PHP_BINARY, 'artisan', 'baggage:run', $plan], base_path());
        self::assertSame(2, $run->run());
        self::assertStringNotContainsString('hidden', $run->getErrorOutput().$run->getOutput());
        $this->expectExceptionMessageMatches('/DB_PASSWORD is not a name/');
        file_put_contents(
            $plan,
            str_replace('password_env: HARBOUR_OFFICE_PASSWORD', 'password_env: DB_PASSWORD', $text),
        );
        $headless->import($plan);
    }

    /** Names are filled in where the plan was read on the command line, and stay names everywhere they are shown. */
    public function test_names_from_the_environment_are_said_and_not_their_values(): void
    {
        $plan = $this->smallPlan("no,name\n1,a\n", '{code: no, name: name}');
        $migration = $this->demoMigration(dirname($plan));
        $target = $migration->targets()->firstOrFail();
        $exported = (new PlanWriter)->write((new PlanExporter)->export($migration));
        self::assertStringContainsString('${HARBOUR_OFFICE_DATABASE}', $exported);
        $this->actingAs($this->user(Role::Lead));
        foreach (['target'] as $stop) {
            $this->get("/m/$migration->id/$stop")
                ->assertOk()
                ->assertSee('${HARBOUR_OFFICE_DATABASE}')
                ->assertDontSee((string) getenv('HARBOUR_OFFICE_DATABASE'));
        }
        // The same plan read on a screen leaves the connection usable; another host in it does not get the secret.
        $this->sendPlan(str_replace('file: file.csv', '', $exported));
        $this->post("/m/$migration->id/changes/1", ['do' => 'accept', 'accept' => [0]])->assertSessionMissing('refused');
        self::assertNull($migration->extracts()->value('origin'));
        self::assertTrue($target->refresh()->from_command_line);
        (new TargetLink($target))->pdo();
        $target->update(['host' => '127.0.0.2', 'from_command_line' => false]);
        self::assertNull($target->refresh()->password_env);
        $target->update([
            'password_env' => 'HARBOUR_OFFICE_PASSWORD',
            'from_command_line' => true,
            'port' => '${HARBOUR_OFFICE_PORT}',
            'username' => 'nobody',
            'host' => '127.0.0.1',
        ]);
        try {
            (new TargetLink($target))->pdo();
        } catch (TargetUnavailable $e) {
            self::assertStringContainsString('port ${HARBOUR_OFFICE_PORT} refuses the user "nobody"', $e->getMessage());
        }
    }

    /** @param  array<string, string>  $change */
    #[DataProvider('changes')]
    public function test_a_secret_stays_with_its_place(array $change, bool $kept): void
    {
        $this->actingAs($this->user(Role::Consultant));
        $migration = $this->migration();
        $source = $migration->sources()->firstOrFail();
        $form = [
            'name' => 'live',
            'driver' => 'mysql',
            'host' => '127.0.0.1',
            'port' => '3306',
            'database' => 'd',
            'username' => 'u',
            'password' => 'a secret word',
            'notes' => '',
        ];
        $at = "/m/$migration->id/sources/$source->id/connections";
        $this->post($at, $form)->assertSessionHasNoErrors();
        $connection = Connection::query()->firstOrFail();
        $raw = (string) DB::table('connections')->value('password');
        self::assertStringNotContainsString('secret', $raw);
        self::assertStringNotContainsString('secret', (string) base64_decode($raw));
        self::assertSame('a secret word', $connection->password);
        $this->post($at, $change + ['password' => ''] + $form)->assertSessionHasNoErrors();
        self::assertSame($kept ? 'a secret word' : null, $connection->refresh()->password);
        $this->post($at, $change + ['password' => 'a secret word'] + $form);
        self::assertSame('a secret word', $connection->refresh()->password, 'given anew');
        // The same of a target, through a plan.
        $target = $migration
            ->targets()
            ->create(
                ['name' => 'r', 'password' => 'a secret word']
                    + array_intersect_key($form, array_flip(['host', 'port', 'database', 'username'])),
            );
        $target->update(array_diff_key($change, ['driver' => 0, 'notes' => 0]));
        self::assertSame($kept || isset($change['driver']) ? 'a secret word' : null, $target->refresh()->password);
    }

    /** @return iterable<array{array<string, string>, bool}> */
    public static function changes(): iterable
    {
        yield 'nothing' => [[], true];
        yield 'notes' => [['notes' => 'read only'], true];
        yield 'driver' => [['driver' => 'pgsql'], false];
        yield 'host' => [['host' => '127.0.0.2'], false];
        yield 'port' => [['port' => '3307'], false];
        yield 'database' => [['database' => 'e'], false];
        yield 'user' => [['username' => 'v'], false];
    }

    public function test_reading_that_ends_every_process_is_given_up(): void
    {
        $plan = $this->smallPlan("no,name\n1,a\n2,b\n", '{code: no, name: name}');
        $migration = $this->demoMigration(dirname($plan));
        $extract = Extract::query()->firstOrFail();
        $take = $extract
            ->takes()
            ->create([
                'number' => 2,
                'state' => 'waiting',
                'file' => dirname($plan).'/file.csv',
                'file_name' => 'file.csv',
                'bytes' => 1,
            ]);
        // It dies after the rows are staged and before they are frozen.
        $die = "App\\Models\\Take::updating(fn (\$t) => \$t->state->value === 'frozen' ? posix_kill(getmypid(), 9) : "
            ."null); (new App\\Freezing\\FreezeTake($take->id))->handle(app(App\\Freezing\\Freezer::class));";
        for ($i = 1; $i <= 3; $i++) {
            $dies = new Process([PHP_BINARY, 'artisan', 'tinker', '--execute', $die], base_path());
            $dies->start();
            while ($dies->isRunning()) {
                usleep(10_000);
            }
            self::assertSame(['reading', $i], [$take->refresh()->state->value, $take->attempts]);
        }
        Artisan::call('baggage:tend');
        self::assertSame('failed', $take->refresh()->state->value);
        self::assertStringContainsString(
            'broke off 3 times, the last time within rows 3 to 20,002',
            (string) $take->error,
        );
        self::assertSame(0, DB::table('staged_rows')->where('take_id', $take->id)->count());
        self::assertNotSame($take->id, $extract->refresh()->take_id);
        // What is frozen, checked and loaded without dying is not counted against anything.
        FreezeTake::dispatchSync($take->id);
        self::assertSame('failed', $take->refresh()->state->value);
        $this->givenUp($migration);
    }

    /** Checks, passes and studies that ended their process three times. */
    private function givenUp(Migration $migration): void
    {
        $load = Load::query()->firstOrFail();
        $check = LoadCheck::query()->create([
            'load_id' => $load->id,
            'hash' => '',
            'state' => 'running',
            'rows_done' => 5_000,
        ]);
        $check->forceFill(['attempts' => 3])->save();
        (new CheckLoad($check->id))->handle($this->app->make(LoadChecker::class));
        self::assertSame('failed', $check->refresh()->state->value);
        self::assertStringContainsString('within rows 5,001 to 10,000', (string) $check->error);

        $rounds = $this->app->make(Rounds::class);
        $pass = $rounds->pass($rounds->begin($migration, $migration->targets()->firstOrFail(), 'r'), PassKind::First);
        $pass->forceFill(['state' => 'running', 'attempts' => 3])->save();
        $pass->passLoads()->update(['state' => 'running', 'cursor_row' => 2001, 'told_row' => 1]);
        $of = ['pass_load_id' => $pass->passLoads()->value('id'), 'kind' => 'free'];
        DB::table('stretches')->insert($of + ['after_row' => 1, 'to_row' => 2001]);
        WorkOnPass::dispatchSync($pass->id);
        self::assertSame('failed', $pass->refresh()->state->value);
        self::assertStringContainsString('in load "L" within rows 2 to 2,001', (string) $pass->error);
        $rounds->resume($pass);
        self::assertSame('finished', $pass->refresh()->state->value, (string) $pass->error);

        $frozen = Extract::query()->firstOrFail()->take;
        $frozen?->update(['studied_at' => null, 'study_attempts' => ['Looking for keys' => 3]]);
        StudyMigration::dispatchSync($migration->id);
        self::assertNotNull($frozen?->refresh()->studied_at);
        self::assertStringContainsString(
            'Looking for keys broke off 3 times',
            (string) Finding::query()->where('code', 'study')->value('message'),
        );
    }

    public function test_rows_with_too_few_cells_show_everywhere(): void
    {
        $migration = $this->demoMigration(
            dirname($this->smallPlan("no,name,note\n1,a,x\n2\n3,c,z\n", '{code: upper(no), name: "name ~ note"}')),
        );
        $this->load($migration);
        $load = Load::query()->firstOrFail();
        $this->actingAs($this->user(Role::Lead));
        $this->get("/m/$migration->id/rows/$load->id/2")
            ->assertOk()
            ->assertSee('The row has 1 cells, the header 3');
        $this->get("/m/$migration->id/trace?q=2")->assertSuccessful();
        $this->get("/m/$migration->id/mapping/harbour?rows=1,2,3")->assertOk();
        $this->get("/m/$migration->id/mapping/loads/$load->id/record/2")->assertOk();
        $this->post("/m/$migration->id/mapping/loads/$load->id/fields/name/preview", [
            'expression' => 'name ~ note',
            'rows' => '2',
        ])->assertOk();
        $this->get("/m/$migration->id/rejects")->assertOk();
        $this->get("/m/$migration->id/rows?outcome=rejected")->assertOk();
    }

    public function test_a_header_of_any_length_is_a_finding(): void
    {
        $long = str_repeat('long ', 1_000);
        $migration = $this->demoMigration(
            dirname($this->smallPlan("no,name,$long,$long\n1,a,x,y\n", '{code: no, name: name}')),
        );
        $extract = Extract::query()->firstOrFail();
        self::assertSame(1, $extract->take?->rows);
        self::assertSame(4, count($extract->tidyColumns()->all));
        self::assertStringContainsString(
            'The header of column 3 has 4,999 characters',
            (string) Finding::query()->where('code', 'header')->pluck('message')->implode("\n"),
        );
        $this->actingAs($this->user(Role::Lead))
            ->get("/m/$migration->id/sources/extracts/$extract->id")
            ->assertOk();
        foreach ($extract->tidyColumns()->all as $column) {
            $this->post("/m/$migration->id/mapping/extracts/$extract->id/columns", [
                'header' => $column->header,
                'reason' => 'not wanted',
            ])->assertSessionHasNoErrors();
        }
        self::assertSame(4, DB::table('column_decisions')->where('extract_id', $extract->id)->count());
    }

    public function test_an_entity_described_without_a_table_is_said_and_stops_only_what_fills_it(): void
    {
        $migration = $this->demoMigration(dirname($this->smallPlan("no,name\n1,a\n", '{code: no, name: name}')));
        $definition = $migration->entities()->where('name', 'harbour')->firstOrFail()->definition;
        $quay = $migration
            ->entities()
            ->create(['name' => 'quay', 'position' => 99, 'definition' => ['name' => 'quay'] + $definition]);
        $this->actingAs($this->user(Role::Lead));
        foreach (['target', 'target/quay', 'reconciliation'] as $stop) {
            $this->get("/m/$migration->id/$stop")
                ->assertOk()
                ->assertDontSee('SQLSTATE');
        }
        $this->get("/m/$migration->id/target")->assertSee('no table');
        $form = ['name' => 'r1', 'kind' => 'rehearsal', 'target' => $migration->targets()->value('id')];
        Load::query()
            ->firstOrFail()
            ->replicate()
            ->fill(['name' => 'Quays', 'entity_id' => $quay->id])
            ->save();
        $this->post("/m/$migration->id/runs/rounds", $form)->assertSessionHas(
            'refused',
            'The target has no table "quay" yet, which a load fills: make it at Target.',
        );
        Load::query()->where('name', 'Quays')->delete();
        $this->post("/m/$migration->id/runs/rounds", $form)->assertSessionMissing('refused');
        self::assertSame('finished', $migration->rounds()->first()?->latestPass()?->state->value);
    }

    public function test_lists_in_addresses_are_refused_where_one_value_belongs(): void
    {
        $migration = $this->demoMigration(dirname($this->smallPlan("no,name\n1,a\n", '{code: no, name: name}')));
        $this->load($migration);
        $load = Load::query()->firstOrFail();
        $fill = [
            'migration' => $migration->id,
            'load' => $load->id,
            'extract' => $load->extract_id,
            'take' => $load->extract->take_id,
            'row' => 1,
            'position' => 0,
            'field' => 'code',
            'entity' => 'harbour',
        ];
        $tried = 0;
        foreach (Route::getRoutes() as $route) {
            if (
                array_diff($route->parameterNames(), array_keys($fill)) !== []
                || str_starts_with($route->uri(), 'up')
                || str_contains($route->uri(), 'storage')
            ) {
                continue;
            }
            $this->actingAs($this->user(Role::Lead));
            $uri = '/'.preg_replace_callback('/\{(\w+)\??\}/', fn ($m) => (string) $fill[$m[1]], $route->uri());
            $method = $route->methods()[0];
            if ($uri !== '/login') {
                self::assertSame(400, $this->call($method, "$uri?anything[]=x")->status(), "$method $uri");
            }
            foreach ($route->getAction('lists') ?? [] as $name => $depth) {
                self::assertNotSame(500, $this->call($method, "$uri?{$name}[]=x")->status(), "$method $uri");
                self::assertNotSame(
                    500,
                    $this->call($method, "$uri?{$name}[x][y]=1&{$name}[where][0][column][]=1")->status(),
                    "$method $uri",
                );
            }
            $tried++;
        }
        self::assertGreaterThan(25, $tried);
    }

    /** openpyxl reads by the schema of ECMA-376 and refuses what it does not allow. */
    public function test_workbooks_that_go_out_pass_a_strict_reader(): void
    {
        $migration = $this->demoMigration(self::smallDemo());
        $this->actingAs($this->user(Role::Lead));
        $crosswalk = $migration->codeCrosswalks()->firstOrFail();
        foreach (
            ['mapping/document.xlsx' => 'Rule', "crosswalks/codes/$crosswalk->id/sheet" => 'old'] as $at => $says
        ) {
            $path = self::work('strict.xlsx');
            file_put_contents(
                $path,
                $this->get("/m/$migration->id/$at")
                    ->assertOk()
                    ->streamedContent()
                ?: '',
            );
            $read = new Process([
                '/usr/bin/python3',
                '-W',
                'error',
                '-c',
                'import sys, openpyxl; b = openpyxl.load_workbook(sys.argv[1]); print([[c.value for c in r] for s '
                    .'in b for r in s.iter_rows(max_row=3)])',
                $path,
            ]);
            self::assertSame(0, $read->run(), "$at: ".$read->getErrorOutput());
            self::assertStringContainsStringIgnoringCase($says, $read->getOutput());
        }
    }

    public function test_no_trace_leaves_on_the_command_line(): void
    {
        $plan = $this->smallPlan("no,name\n1,a\n", '{code: no, name: name}');
        foreach (
            [
                ['baggage:run', $plan],
                ['baggage:reconcile', $plan],
                ['baggage:demo-reset'],
                ['baggage:tend'],
                ['baggage:export', 'x'],
                ['migrate', '--force'],
            ] as $command
        ) {
            $run = new Process([PHP_BINARY, 'artisan', ...$command], base_path(), [
                'DB_PORT' => '1',
                'APP_ENV' => 'production',
                'APP_DEBUG' => 'true',
            ]);
            self::assertGreaterThan(0, $run->run(), implode(' ', $command));
            $said = $run->getOutput().$run->getErrorOutput();
            self::assertDoesNotMatchRegularExpression(
                '/SQLSTATE|#\d|Stack trace|vendor\/|select |\.php/i',
                $said,
                implode(' ', $command),
            );
            self::assertLessThan(400, strlen($said));
        }
    }

    public function test_only_the_stand_in_is_ever_reset(): void
    {
        $target = $this->target();
        $target->exec("INSERT INTO harbour (code, name) VALUES ('X', 'x')");
        self::assertSame(0, Artisan::call('baggage:demo-reset'));
        self::assertSame('0', $target->query("SELECT COUNT(*) FROM harbour WHERE code = 'X'")->fetchColumn());
        $target->exec('SET FOREIGN_KEY_CHECKS = 0');
        foreach ($target->query('SHOW TABLES')->fetchAll(PDO::FETCH_COLUMN) as $table) {
            $target->exec("DROP TABLE `$table`");
        }
        $target->exec('CREATE TABLE harbour (id INT PRIMARY KEY) SELECT 7 AS id');
        self::assertSame(2, Artisan::call('baggage:demo-reset'));
        self::assertSame('7', $target->query('SELECT id FROM harbour')->fetchColumn());
        $target->exec('DROP TABLE harbour');
        HarbourOffice::reset($target);
    }

    private function sendPlan(string $yaml): string
    {
        /** @var TestResponse<\Illuminate\Http\RedirectResponse> $answer */
        $answer = $this->from('/')->post('/plans', [
            'plan' => UploadedFile::fake()->createWithContent('plan.yaml', $yaml),
        ]);
        $answer->assertRedirect();

        return (string) (session('refused') ?? session('told'));
    }
}
