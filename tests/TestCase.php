<?php

namespace Tests;

use App\Freezing\Freezer;
use App\Freezing\FreezeTake;
use App\Models\Membership;
use App\Models\Migration;
use App\Models\Role;
use App\Models\Round;
use App\Models\Take;
use App\Models\TakeState;
use App\Models\User;
use App\Overview\OverviewMaker;
use App\People\Confirmation;
use App\People\Sessions;
use App\Plans\Headless;
use App\Targets\TargetLink;
use Demo\Generator;
use Illuminate\Contracts\Auth\Authenticatable;
use Illuminate\Contracts\Console\Kernel;
use Illuminate\Database\Query\Builder;
use Illuminate\Foundation\Http\Events\RequestHandled;
use Illuminate\Foundation\Testing\TestCase as Base;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Event;
use Illuminate\Testing\TestResponse;
use PDO;
use PHPUnit\Framework\Assert as PHPUnit;
use Standins\HarbourOffice;
use Symfony\Component\Yaml\Yaml;
use Tests\Support\Prepared;

/** Runs against the private MariaDB that bin/with-database starts. */
abstract class TestCase extends Base
{
    private static bool $migrated = false;

    /** @var list<string> */
    private array $leaks = [];

    /** Folder with the demo's files at scale 1, made once a run. */
    private static ?string $demo = null;

    public function createApplication()
    {
        $app = require __DIR__.'/../bootstrap/app.php';
        $app->make(Kernel::class)->bootstrap();

        return $app;
    }

    protected function setUp(): void
    {
        // What a reader sees: without tags, a blank for any white space.
        TestResponse::macro('assertReads', function (string $text) {
            /** @var TestResponse<\Symfony\Component\HttpFoundation\Response> $this */
            $seen = html_entity_decode(strip_tags((string) $this->getContent()), ENT_QUOTES);
            PHPUnit::assertStringContainsString($text, (string) preg_replace('/\s+/u', ' ', $seen));

            return $this;
        });
        if (getenv('DB_SOCKET') === false) {
            self::fail('Run these through bin/test --suite=feature: they need a private database.');
        }
        parent::setUp();
        config(['queue.default' => 'sync']);
        $this->leaks = [];
        Event::listen(RequestHandled::class, $this->look(...));
        self::emptyTables();
        $target = $this->target();
        foreach ($target->query('SHOW FULL TABLES')->fetchAll(PDO::FETCH_KEY_PAIR) as $table => $kind) {
            $kind = $kind === 'VIEW' ? 'VIEW' : 'TABLE';
            $target->exec("SET FOREIGN_KEY_CHECKS = 0; DROP $kind `$table`; SET FOREIGN_KEY_CHECKS = 1");
        }
        HarbourOffice::reset($target);
    }

    private static function emptyTables(): void
    {
        if (! self::$migrated) {
            Artisan::call('migrate:fresh', ['--force' => true]);
            self::$migrated = true;
        } else {
            $tables = DB::select("SELECT table_name AS t, COALESCE(auto_increment, 0) AS n FROM information_schema.tables
                WHERE table_schema = DATABASE() AND table_type = 'BASE TABLE' AND table_name <> 'schema_migrations'");
            // What the server believes of the number of rows may be of a minute ago: the tables are asked.
            $asked = array_map(
                fn (\stdClass $of) => "SELECT '$of->t' AS t FROM DUAL WHERE $of->n > 1 OR EXISTS (SELECT 1 FROM `$of->t`)",
                $tables,
            );
            DB::statement('SET FOREIGN_KEY_CHECKS = 0');
            foreach (DB::select(implode(' UNION ALL ', $asked)) as $table) {
                DB::statement("TRUNCATE TABLE `$table->t`");
            }
            DB::statement('SET FOREIGN_KEY_CHECKS = 1');
        }
    }

    /** No answer, and nothing that is told on the next page, says where anything lies here, an SQL error, or a trace. */
    private function look(RequestHandled $handled): void
    {
        $told = $handled->request->hasSession() ? $handled->request->session()->only(['refused', 'told']) : [];
        $said = $handled->response->getContent().json_encode($told, JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE);
        foreach ([base_path(), self::work(''), sys_get_temp_dir().'/', 'SQLSTATE[', '#0 /'] as $leak) {
            $at = strpos($said, $leak);
            if ($at !== false) {
                $this->leaks[] = $handled->request->path().': '.substr($said, max(0, $at - 80), 200);
            }
        }
    }

    /** What pages show around their work area is what it would be made as now, or marked old: whatever a test wrote, however. */
    protected function tearDown(): void
    {
        if ($this->status()->isUnknown() || $this->status()->isSuccess()) {
            self::assertSame([], $this->leaks);
            $kept = DB::table('overviews')
                ->whereNotExists(fn ($q) => $q->from('overview_marks as m')->whereColumn('m.migration_id', 'overviews.migration_id'))
                ->pluck('value', 'migration_id');
            foreach ($kept as $id => $value) {
                $now = OverviewMaker::of(Migration::query()->findOrFail($id))->toJson();
                self::assertSame($now, $value, 'something was written that no mark was left for');
            }
        }
        parent::tearDown();
    }

    /** Loads only the tests of the whole demo run. */
    private const LATER = [
        'Pontoons',
        'Customers of the workshop',
        'Meter readings',
        'Invoice lines',
        'Payments',
        'Workshop jobs',
        'Notes',
    ];

    /** A file or folder of this run of tests; suites that run at the same time share none. */
    protected static function work(string $name): string
    {
        return (getenv('BAGGAGE_WORK') ?: dirname(__DIR__).'/var/test')."/$name";
    }

    protected static function demo(): string
    {
        if (self::$demo === null) {
            self::$demo = self::work('demo');
            (new Generator(1, 1998, self::$demo))->write();
        }

        return self::$demo;
    }

    /** Folder with the demo's files at a fifth of its scale. */
    protected static function smallDemo(): string
    {
        $folder = self::work('small-demo');
        if (
            ! is_file("$folder/answer-key.json")
            || filemtime("$folder/answer-key.json")
                < max(array_map(filemtime(...), glob(dirname(__DIR__).'/demo/*.*') ?: []))
        ) {
            (new Generator(0.2, 1998, $folder))->write();
        }

        return $folder;
    }

    /**
     * The demo as a new installation has it: plan read, files frozen, nothing loaded.
     *
     * @param  bool  $whole  also the extracts no load reads, which take most of the time
     * @param  bool  $all  all loads; else the seven that most tests are about
     */
    protected function demoMigration(?string $folder = null, bool $whole = false, bool $all = false): Migration
    {
        $folder ??= self::demo();
        $plan = "$folder/plan.yaml";
        if (! $whole || ! $all) {
            $text = Yaml::parseFile($plan);
            $text['loads'] = array_values(
                array_filter($text['loads'], fn ($l) => $all || ! in_array($l['name'], self::LATER, true)),
            );
            $text['proofs'] = self::proofsOf($text);
            $read = $whole ? null : array_column($text['loads'], 'from');
            foreach ($text['sources'] as $source) {
                foreach ($source['extracts'] as $extract) {
                    $read = $read !== null && in_array("$source[code]/$extract[name]", $read, true)
                        ? [...$read, ...$extract['reader']['of'] ?? []]
                        : $read;
                }
            }
            foreach ($text['sources'] as &$source) {
                $source['extracts'] = array_values(
                    array_filter(
                        $source['extracts'],
                        fn ($e) => $read === null || in_array("$source[code]/$e[name]", $read, true),
                    ),
                );
            }
            file_put_contents($plan = "$folder/loads.yaml", Yaml::dump($text, 9));
        }
        $freeze = function () use ($plan): Migration {
            $headless = $this->app->make(Headless::class);
            $migration = $headless->import($plan);
            $headless->freeze($migration, $plan, fn () => null);

            return $migration;
        };
        // Of a folder of a test's own it is not worth while.
        $isDemo = in_array($folder, [self::work('demo'), self::work('small-demo')], true);

        return $isDemo ? $this->prepared("frozen $plan".self::digest($folder, $plan), $freeze) : $freeze();
    }

    /**
     * @param  array<string, mixed>  $plan
     * @return list<array<string, mixed>> its control totals that are about loads it has
     */
    private static function proofsOf(array $plan): array
    {
        $names = array_column($plan['loads'], 'name');
        $about = fn (array $p) => isset($p['load']) ? [$p['load']] : array_keys((array) $p['legacy']);

        return array_values(array_filter($plan['proofs'] ?? [], fn (array $p) => array_diff($about($p), $names) === []));
    }

    /** @return array{Migration, Round} the demo after its first pass */
    protected function loadedDemo(?string $folder = null, bool $whole = false, bool $all = false): array
    {
        $folder ??= self::demo();
        $key = 'loaded '.($whole ? 'whole ' : '').($all ? 'all ' : '').self::digest($folder, "$folder/plan.yaml");
        $migration = $this->prepared($key, function () use ($folder, $whole, $all) {
            $this->load($migration = $this->demoMigration($folder, $whole, $all));

            return $migration;
        });

        return [$migration, $migration->rounds()->firstOrFail()];
    }

    /**
     * Made once in a run, and put back where it is asked for again.
     *
     * @param  \Closure(): Migration  $make
     */
    private function prepared(string $key, \Closure $make): Migration
    {
        $target = (string) getenv('HARBOUR_OFFICE_DATABASE');
        if (Prepared::restore($key, $target)) {
            $migration = Migration::query()->firstOrFail();
            // Those who are members of whatever comes.
            event('eloquent.created: '.Migration::class, $migration);

            return $migration;
        }
        $isFirst = ! Migration::query()->exists();
        $migration = $make();
        $isFirst ? Prepared::keep($key, $target, self::work('prepared')) : null;

        return $migration;
    }

    /** Of everything a plan reads. */
    private static function digest(string $folder, string $plan): string
    {
        $files = array_filter(glob("$folder/*") ?: [], is_file(...));

        return md5((string) json_encode([$folder, md5_file($plan), array_map(
            fn (string $f) => $f === $plan || str_ends_with($f, '.yaml') ? null : [$f, filesize($f), filemtime($f)],
            $files,
        )]));
    }

    /** A migration with one source and nothing else. */
    protected function migration(string $source = 'S'): Migration
    {
        $migration = Migration::query()->create(['name' => 'M', 'target_name' => 'x', 'installation' => 'test']);
        $migration->sources()->create(['code' => $source, 'name' => $source]);

        return $migration;
    }

    /**
     * A repair as a page proposes it: tried.
     *
     * @param  array<string, mixed>  $of  what the form says; "cause" for one that is ticked
     * @return TestResponse<\Symfony\Component\HttpFoundation\Response>
     */
    protected function tried(string $load, string $what, array $of): TestResponse
    {
        $of += isset($of['cause']) ? ['causes' => [$of['cause']]] : [];

        return $this->post("$load/try", ['what' => $what] + array_diff_key($of, ['cause' => 0]));
    }

    /**
     * Tried and kept; what was refused when it was tried is answered.
     *
     * @param  array<string, mixed>  $of
     * @return TestResponse<\Symfony\Component\HttpFoundation\Response>
     */
    protected function repaired(string $load, string $what, array $of): TestResponse
    {
        $tried = $this->tried($load, $what, $of);
        $to = (string) $tried->headers->get('Location');

        return str_contains($to, '/dry-runs/') ? $this->post("$to/keep") : $tried;
    }

    protected function load(Migration $migration, string $round = 'rehearsal-1'): Round
    {
        return $this->app->make(Headless::class)->run($migration, $round, null);
    }

    protected function target(): PDO
    {
        return new PDO(
            'mysql:host=127.0.0.1;port='.getenv('DB_PORT').';dbname='.getenv('HARBOUR_OFFICE_DATABASE')
                .';charset=utf8mb4',
            (string) getenv('HARBOUR_OFFICE_USERNAME'),
            (string) getenv('HARBOUR_OFFICE_PASSWORD'),
            [PDO::ATTR_ERRMODE => PDO::ERRMODE_EXCEPTION, PDO::ATTR_STRINGIFY_FETCHES => true],
        );
    }

    /** @return list<list<string|null>> */
    protected function targetRows(string $sql): array
    {
        return $this->target()->query($sql)->fetchAll(PDO::FETCH_NUM);
    }

    /** Logged in, and having proved a moment ago who they are. */
    public function be(Authenticatable $user, $guard = null)
    {
        parent::be($user, $guard);
        $request = Request::create('/');
        $request->setLaravelSession($this->app->make('session')->driver());
        if ($user instanceof User && Sessions::begin($request, $user)) {
            Confirmation::note($request);
        }

        return $this;
    }

    /** Somebody who is this in every migration there is, and in those that come. */
    protected function user(Role $role): User
    {
        $user = User::query()->firstOrCreate(
            ['email' => str_replace(' ', '', $role->value).'@example.test'],
            ['name' => ucfirst($role->value), 'password' => 'secret-'.$role->name, 'is_administrator' => $role === Role::Lead],
        );
        $give = fn (Migration $migration) => Membership::give($user, $migration, $role);
        Migration::query()->get()->each($give);
        Migration::created(function (Migration $migration) use ($give) {
            $give($migration);
        });

        return $user;
    }

    /** A small plan over one CSV file and the stand-in's harbour and berth. */
    protected function smallPlan(string $csv, string $fields, string $entity = 'harbour', string $extra = ''): string
    {
        $folder = self::work('small');
        @mkdir($folder, 0777, true);
        file_put_contents("$folder/file.csv", $csv);
        file_put_contents(
            "$folder/plan.yaml",
            "baggage: 1\nmigration: Small\ntarget: {application: x, connections: [{name: r, host: 127.0.0.1, port: "
                .'"${HARBOUR_OFFICE_PORT}", database: "${HARBOUR_OFFICE_DATABASE}", username: harbour, '
                ."password_env: HARBOUR_OFFICE_PASSWORD}]}\n"
                ."sources: [{code: S, name: Small, extracts: [{name: file, file: file.csv}]}]\nloads: [{name: L, "
                    ."entity: $entity, from: S/file, key: [no], fields: $fields$extra}]\n",
        );

        return "$folder/plan.yaml";
    }

    /**
     * An empty target of parties and boats, which refer to parties, beside the stand-in's.
     *
     * @param  string  $more  further columns of a party
     * @return array<string, mixed> as a plan says it
     */
    protected static function partiesAndBoats(string $more = ''): array
    {
        $database = self::emptyOther();
        DB::unprepared("CREATE TABLE $database.party (id INT AUTO_INCREMENT PRIMARY KEY, name VARCHAR(40) NOT NULL$more) ENGINE=InnoDB");
        DB::unprepared("CREATE TABLE $database.boat (id INT AUTO_INCREMENT PRIMARY KEY, name VARCHAR(40) NOT NULL, owner INT NOT NULL, "
            .'FOREIGN KEY (owner) REFERENCES party (id)) ENGINE=InnoDB');
        $target = self::targetOfPlan();
        $target['connections'][0]['database'] = $database;

        return $target;
    }

    /** A second database for targets, with nothing in it: what another test left refers to itself in any order. */
    protected static function emptyOther(): string
    {
        $database = self::otherDatabase();
        DB::unprepared('SET FOREIGN_KEY_CHECKS = 0');
        DB::unprepared("CREATE OR REPLACE DATABASE $database CHARACTER SET utf8mb4");
        DB::unprepared('SET FOREIGN_KEY_CHECKS = 1');

        return $database;
    }

    protected static function otherDatabase(): string
    {
        return str_replace('harbour_', 'other_', (string) getenv('HARBOUR_OFFICE_DATABASE'));
    }

    /** @return array<string, mixed> the part of a plan that says where records go */
    protected static function targetOfPlan(): array
    {
        return [
            'application' => 'x',
            'connections' => [
                [
                    'name' => 'r',
                    'host' => '127.0.0.1',
                    'port' => '${HARBOUR_OFFICE_PORT}',
                    'database' => '${HARBOUR_OFFICE_DATABASE}',
                    'username' => 'harbour',
                    'password_env' => 'HARBOUR_OFFICE_PASSWORD',
                ],
            ],
        ];
    }

    /** The next take of an extract of the migration's first source, frozen from a text. */
    protected function frozen(Migration $migration, string $name, string $text): Take
    {
        @mkdir(self::work('frozen'), 0777, true);
        $path = self::work('frozen')."/$name.csv";
        file_put_contents($path, $text);
        $extract = $migration->sources()->firstOrFail()->extracts()->firstOrCreate(['name' => $name], ['reader' => []]);
        $take = $extract->newTake(['file' => $path, 'file_name' => "$name.csv", 'bytes' => strlen($text)]);
        (new FreezeTake($take->id))->handle(new Freezer);
        self::assertSame(TakeState::Frozen, $take->refresh()->state, (string) $take->error);

        return $take;
    }

    /** The lines of all ledgers, with their round, entity, source and causes. */
    protected function lines(string $as = 'outcomes'): Builder
    {
        return DB::query()->fromSub(
            DB::table('outcomes as x')
                ->join('lanes as n', 'n.id', '=', 'x.lane_id')
                ->join('key_spaces as k', 'k.id', '=', 'x.space_id')
                ->leftJoin('row_causes as w', fn ($j) => $j
                    ->on('w.lane_id', '=', 'x.lane_id')
                    ->on('w.load_id', '=', 'x.load_id')
                    ->on('w.item', '=', 'x.item'))
                ->select([
                    'n.round_id', 'x.lane_id', 'x.load_id', 'x.item as row_no', 'k.entity_id', 'k.name as space', 'x.legacy_key',
                    'x.outcome', 'x.target_key', 'x.sent_hash', 'x.stands', 'w.cause_id', 'w.root_cause_id', 'x.pass_id',
                ]),
            $as,
        );
    }

    protected function link(Round $round): TargetLink
    {
        return new TargetLink($round->target()->firstOrFail());
    }
}
