<?php

namespace Tests\Feature;

use App\Catalogue\Definitions;
use App\Freezing\Freezer;
use App\Models\ColumnReference;
use App\Models\Connection;
use App\Models\Extract;
use App\Models\Finding;
use App\Models\FindingDecision;
use App\Models\Load;
use App\Models\Migration;
use App\Models\ReferenceDecision;
use App\Models\Role;
use App\Models\Source;
use App\Models\Take;
use App\Plans\Headless;
use App\Plans\PlanExporter;
use App\Profiling\Study;
use App\Reading\Database\DatabaseLink;
use App\Reading\Database\QueryTable;
use App\Staging\ValueHashes;
use Baggage\Core\Reading\Query\QueryFormat;
use Baggage\Core\Reading\ReadingError;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use PDO;
use Standins\OldDesk;
use Symfony\Component\Process\Process;
use Symfony\Component\Yaml\Yaml;
use Tests\TestCase;

/** Reading, profiling, keys, references, takes and databases, on the demo and on a real database. */
final class SourcesTest extends TestCase
{
    private function studied(): Migration
    {
        $migration = $this->demoMigration(null, true);
        $this->app->make(Headless::class)->study($migration);

        return $migration;
    }

    private function extract(string $name): Extract
    {
        [$code, $extract] = explode('/', $name);

        return Extract::query()
            ->where('name', $extract)
            ->whereHas('source', fn ($q) => $q->where('code', $code))
            ->with('take')
            ->firstOrFail();
    }

    public function test_everything_planted_in_the_sources_is_found(): void
    {
        $migration = $this->studied();
        $key = json_decode((string) file_get_contents(self::demo().'/answer-key.json'), true)['extracts'];
        foreach ($key as $name => $expected) {
            $extract = $this->extract($name);
            self::assertSame($expected['rows'], $extract->take?->rows, $name);
            foreach ($expected['findings'] as $what => $rows) {
                [$code, $header] = explode(':', "$what:");
                $finding = Finding::query()
                    ->where('take_id', $extract->take_id)
                    ->where('code', $code)
                    ->when($header !== '', fn ($q) => $q->where('header', $header))
                    ->first();
                self::assertNotNull($finding, "$name $what");
                if (! in_array($code, ['round_count', 'cut_off'], true)) {
                    self::assertSame($rows, $finding->n, "$name $what");
                }
            }
        }
        $this->orphansAndKeysPlanted($migration);
    }

    private function orphansAndKeysPlanted(Migration $migration): void
    {
        $orphans = ColumnReference::query()
            ->with(['extract', 'parent'])
            ->get()
            ->mapWithKeys(
                fn ($r) => [
                    "{$r->extract->name}.".implode('+', $r->columns)." {$r->parent->name}" => $r->orphan_rows,
                ],
            )
            ->all();
        $planted = [
            'people.BILL_TO people' => 2,
            'craft.OWNER_NO people' => 4,
            'craft.AGR_NO agreement' => 2,
            'agreement.CRAFT_NO craft' => 5,
            'agreement.HARB+SLIP slip' => 12,
            'agreement.CUST_NO people' => 0,
            'slip.HARB harbour' => 0,
            'pontoon.PART_OF pontoon' => 1,
            'parts.parent.job_no jobs' => 0,
            'notes.JOB jobs' => 0,
            'payment.INV_NO invoice' => 0,
        ];
        self::assertEquals($planted, array_intersect_key($orphans, $planted));
        self::assertArrayNotHasKey('line.INV_NO payment', $orphans);
        $keys = DB::table('key_candidates')
            ->join('extracts', 'extracts.id', '=', 'extract_id')
            ->orderBy('key_candidates.id')
            ->get(['extracts.name', 'key_candidates.columns', 'duplicate_rows'])
            ->groupBy('name')
            ->map(fn ($k) => [implode('+', json_decode($k[0]->columns, true)), $k[0]->duplicate_rows]);
        self::assertSame(
            [['HARB+SLIP', 0], ['CRAFT_NO', 0], ['AGR_NO', 0]],
            [$keys['slip'], $keys['craft'], $keys['agreement']],
        );
        self::assertSame(
            3,
            Finding::query()
                ->where('take_id', $this->extract('BB/people')->take_id)
                ->where('code', 'duplicate_keys')
                ->value('n'),
        );
        $this->screensShowIt($migration);
    }

    private function screensShowIt(Migration $migration): void
    {
        $this->actingAs($this->user(Role::Auditor));
        foreach (
            [
                '',
                '/references',
                '/references?orphans='.ColumnReference::query()->where('orphan_rows', '>', 0)->value('id'),
                ...Extract::query()
                    ->pluck('id')
                    ->flatMap(
                        fn ($id) => array_map(fn ($s) => "/extracts/$id$s", [
                            '',
                            '?show=keys',
                            '?show=findings',
                            '?show=rows',
                            '?show=takes',
                            '/columns/1',
                        ]),
                    ),
            ] as $page
        ) {
            $this->get("/m/$migration->id/sources$page")->assertOk();
        }
        foreach (Finding::query()->where('rows', '<>', '[]')->limit(6)->get() as $finding) {
            $this->get("/m/$migration->id/sources/extracts/$finding->extract_id/findings/$finding->id")
                ->assertOk()
                ->assertSee(number_format($finding->rows[0]));
        }
    }

    public function test_all_rows_of_a_finding_can_be_opened_however_many(): void
    {
        $lines = ['no,name,born,sum,word,seen'];
        for ($i = 1; $i <= 9_000; $i++) {
            $lines[] = $i === 4_000
                ? $lines[0]
                : implode(',', [
                    "K$i",
                    $i % 3 === 0 ? "name  $i" : ($i % 3 === 1 ? "n\u{00C3}\u{00B8}m $i" : "name $i"),
                    $i % 2 === 0
                        ? sprintf('%02d/%02d/%02d', ($i % 28) + 1, ($i % 12) + 1, $i % 100)
                        : ($i % 4 === 1
                            ? '00/00/0000'
                            : '01/02/2003'),
                    $i % 11 === 0 ? 'as agreed' : $i,
                    $i % 3 === 0 ? '?' : "w\x07$i",
                    $i % 2 === 0 ? ' ' : '31/02/2003',
                ]).($i % 4 === 0 ? ',extra' : '');
        }
        $migration = Migration::query()->create(['name' => 'M', 'target_name' => 'x', 'installation' => 'test']);
        $path = self::work('many.csv');
        file_put_contents($path, implode("\n", $lines)."\n");
        $extract = $migration
            ->sources()
            ->create(['code' => 'S', 'name' => 'S'])
            ->extracts()
            ->create(['name' => 'many', 'reader' => []]);
        $take = $extract
            ->takes()
            ->create([
                'number' => 1,
                'state' => 'waiting',
                'file' => $path,
                'file_name' => 'many.csv',
                'bytes' => (int) filesize($path),
            ]);
        (new Freezer)->freeze($take);
        $this->app->make(Study::class)->of($migration);
        $this->everyRowIsOnAPage($lines, $migration, $extract, $take);
    }

    private function everyRowIsOnAPage(array $lines, Migration $migration, Extract $extract, Take $take): void
    {
        $rows = array_map(fn ($l) => explode(',', $l), array_slice($lines, 1));
        $is = fn (\Closure $test) => array_values(
            array_map(fn ($at) => $at + 1, array_keys(array_filter($rows, fn ($r) => $r[0] !== 'no' && $test($r)))),
        );
        $wanted = [
            'stray_spaces name' => $is(fn ($r) => str_contains($r[1], '  ')),
            'mojibake name' => $is(fn ($r) => str_contains($r[1], "\u{00C3}")),
            'two_digit_year born' => $is(fn ($r) => strlen($r[2]) === 8),
            'sentinel_date born' => $is(fn ($r) => $r[2] === '00/00/0000'),
            'control_characters word' => $is(fn ($r) => $r[4] !== '?'),
            'placeholder word' => $is(fn ($r) => $r[4] === '?'),
            'ragged_rows ' => $is(fn ($r) => count($r) === 7),
        ];
        $this->actingAs($this->user(Role::Auditor));
        $seen = [];
        foreach (Finding::query()->where('take_id', $take->id)->where('n', '>', 2_000)->get() as $finding) {
            $name = "$finding->code $finding->header";
            $of = DB::table('finding_rows')
                ->where('finding_id', $finding->id)
                ->orderBy('row_no')
                ->pluck('row_no')
                ->all();
            self::assertCount($finding->n, $of, $name);
            if (isset($wanted[$name])) {
                self::assertSame($wanted[$name], $of, $name);
                $seen[] = $name;
            }
            $this->get(
                "/m/$migration->id/sources/extracts/$extract->id/findings/$finding->id?after=".$of[count($of) - 3],
            )
                ->assertOk()
                ->assertDontSee('the first 2,000')
                ->assertSee('>'.number_format($of[count($of) - 1]).'<', false);
        }
        self::assertEqualsCanonicalizing(array_keys($wanted), $seen);
    }

    public function test_findings_are_decided_once_and_stay_decided(): void
    {
        $folder = self::work('small');
        $plan = $this->smallPlan("no,name\n1, a\n2,n/a\n3,c\n", '{code: no, name: name}');
        $headless = $this->app->make(Headless::class);
        $headless->freeze($migration = $headless->import($plan), $plan, fn () => null);
        [$spaces, $placeholder] = [
            Finding::query()->where('code', 'stray_spaces')->firstOrFail(),
            Finding::query()->where('code', 'placeholder')->firstOrFail(),
        ];
        $at = "/m/$migration->id/sources/extracts/$spaces->extract_id/findings";
        $this->actingAs($this->user(Role::Auditor))
            ->post($at, ['decisions' => [$spaces->id => ['decision' => 'accepted']]])
            ->assertForbidden();
        $this->actingAs($this->user(Role::Reviewer))
            ->post($at, ['decisions' => [$spaces->id => ['decision' => 'by_rule', 'note' => 'trim()']]])
            ->assertRedirect();
        $this->post($at, ['decisions' => [$placeholder->id => ['decision' => 'at_source', 'note' => 'Mari asks']]])->assertRedirect();
        self::assertSame(
            [
                ['finding' => 'stray_spaces', 'column' => 'name', 'is' => 'by_rule', 'note' => 'trim()'],
                ['finding' => 'placeholder', 'column' => 'name', 'is' => 'at_source', 'note' => 'Mari asks'],
            ],
            (new PlanExporter)->export($migration)['sources'][0]['extracts'][0]['findings'],
        );
        $this->decidedAlsoInTheNextTake($folder, $plan, $headless, $migration, $spaces);
    }

    private function decidedAlsoInTheNextTake(string $folder, string $plan, Headless $headless, Migration $migration, Finding $spaces): void
    {
        file_put_contents("$folder/file.csv", "no,name\n1, a\n2,n/a\n3,d\n5,e\n");
        $headless->freeze($migration, $plan, fn () => null);
        $now = Finding::query()
            ->where('take_id', Extract::query()->value('take_id'))
            ->pluck('decision', 'code');
        self::assertSame(
            [FindingDecision::ByRule, FindingDecision::Open],
            [$now['stray_spaces'], $now['placeholder']],
        );
        self::assertStringContainsString(
            'in take 2 again',
            (string) Finding::query()->latest('id')->where('code', 'placeholder')->value('note'),
        );
        $headless->study($migration);
        $compared = Take::query()->where('number', 2)->firstOrFail()->compared;
        self::assertSame(
            [['no'], 1, 1, 0],
            [$compared['key'], $compared['added'], $compared['changed'], $compared['gone']],
        );
        self::assertSame(
            [['added', 4, null], ['changed', 3, 3]],
            DB::table('take_changes')
                ->orderBy('kind')
                ->get()
                ->map(fn ($r) => [$r->kind, $r->row_no, $r->was_row])
                ->all(),
        );
        $extract = "/m/$migration->id/sources/extracts/$spaces->extract_id";
        $this->get("$extract?show=takes")->assertSee('of=2&kind=changed', false);
        $this->get("$extract?show=changes&of=2&kind=changed")
            ->assertOk()
            ->assertSeeInOrder(['Was row', 'no', 'Column', '3', 'name', 'c', 'd']);
        $this->get("$extract?show=changes&of=2&kind=added")
            ->assertOk()
            ->assertReads('1 added 1 changed 0 gone')
            ->assertSeeInOrder(['5', 'e']);
        $this->get("$extract?show=changes&of=1&kind=added")->assertNotFound();
    }

    public function test_the_legacy_key_of_a_load_tells_rows_apart_even_where_some_share_it(): void
    {
        $folder = self::work('small');
        $plan = $this->smallPlan("no,name\n1,a\n1,b\n2,c\n3,d\n", '{code: no, name: name}');
        $headless = $this->app->make(Headless::class);
        $headless->freeze($migration = $headless->import($plan), $plan, fn () => null);
        file_put_contents("$folder/file.csv", "no,name\n1,a\n1,B\n2,C\n4,e\n");
        $headless->freeze($migration, $plan, fn () => null);
        $headless->study($migration);
        self::assertSame(['no'], Take::query()->where('number', 2)->firstOrFail()->compared['key'] ?? null);
        self::assertSame(
            ['added 5 ', 'changed 2 1', 'changed 3 3', 'gone 4 '],
            DB::table('take_changes')
                ->orderBy('kind')
                ->orderBy('row_no')
                ->get()
                ->map(fn ($r) => "$r->kind $r->row_no $r->was_row")
                ->all(),
        );
    }

    public function test_columns_that_come_go_and_change_their_name(): void
    {
        $folder = self::work('small');
        $plan = $this->smallPlan("no,name,town\n1,a,Orrin\n2,b,Holm\n", '{code: no, name: name}');
        $headless = $this->app->make(Headless::class);
        $headless->freeze($migration = $headless->import($plan), $plan, fn () => null);
        file_put_contents("$folder/file.csv", "no,title,extra\n2,b,x\n1,a,y\n");
        $headless->freeze($migration, $plan, fn () => null);
        $headless->study($migration);
        $compared = Take::query()->where('number', 2)->firstOrFail()->compared;
        self::assertSame(
            [['extra'], ['town'], ['name' => 'title']],
            [$compared['columns_added'], $compared['columns_gone'], $compared['columns_renamed']],
        );
        // A load never silently reads other columns than it was mapped on.
        $headless->run($migration, 'rehearsal-1', null);
        self::assertStringContainsString('has no column "name"', (string) DB::table('pass_loads')->value('error'));
    }

    public function test_a_database_is_tried_read_and_read_again_from_where_it_stood(): void
    {
        $migration = Migration::query()->create(['name' => 'M', 'target_name' => 'x', 'installation' => 'test']);
        $source = $migration->sources()->create(['code' => 'LV', 'name' => 'Live']);
        $db = $this->target();
        $db->exec(
            'CREATE OR REPLACE TABLE legacy (id INT PRIMARY KEY, `Owner Name` VARCHAR(40), born DATE NULL, sum '
                .'DECIMAL(10,2), raw VARBINARY(4))',
        );
        $db->exec(
            "INSERT INTO legacy VALUES (1, 'Bjørn', '1998-05-01', 12.50, NULL), (2, '', NULL, -0.10, x'00ff'), (3, "
                ."'Ann%', '2001-01-01', 7, 'ab')",
        );
        $db->exec('CREATE OR REPLACE VIEW legacy_view AS SELECT id, born FROM legacy');
        $this->actingAs($this->user(Role::Consultant));
        $form = [
            'name' => 'live',
            'driver' => 'mysql',
            'host' => '127.0.0.1',
            'port' => getenv('DB_PORT'),
            'database' => getenv('HARBOUR_OFFICE_DATABASE'),
            'username' => 'harbour',
            'password' => getenv('HARBOUR_OFFICE_PASSWORD'),
        ];
        foreach (
            [
                ['password' => 'wrong', 'says' => 'the user name or the password is wrong'],
                ['database' => 'nowhere', 'says' => 'has no database'],
                ['port' => '9', 'says' => 'No database answers at 127.0.0.1 port 9'],
                [
                    'driver' => 'dblib',
                    'port' => '9',
                    'says' => in_array('dblib', \PDO::getAvailableDrivers(), true)
                        ? 'No database answers'
                        : 'php8.2-sybase',
                ],
                ['driver' => 'pgsql', 'port' => '9', 'says' => 'No database answers'],
                ['driver' => 'odbc', 'database' => 'Nothing', 'says' => 'knows no ODBC source'],
            ] as $wrong
        ) {
            $answer = $this->followingRedirects()->post(
                "/m/$migration->id/sources/$source->id/connections",
                array_diff_key($wrong, ['says' => 0]) + $form,
            );
            $answer->assertOk()->assertSee($wrong['says']);
        }
        $this->tablesAreRead($migration, $source, $db, $form);
    }

    private function tablesAreRead(Migration $migration, Source $source, PDO $db, array $form): void
    {
        $this->post("/m/$migration->id/sources/$source->id/connections", $form);
        $connection = Connection::query()->firstOrFail();
        self::assertStringNotContainsString(
            (string) getenv('HARBOUR_OFFICE_PASSWORD'),
            (string) DB::table('connections')->value('password'),
        );
        $at = "/m/$migration->id/sources/connections/$connection->id";
        $this->get($at)->assertSee('legacy_view')->assertDontSee((string) getenv('HARBOUR_OFFICE_PASSWORD'));
        $this->get("$at/table?table=legacy")
            ->assertSee('Owner Name')
            ->assertSee('0x00ff');
        $this->post("$at/freeze", ['tables' => ['legacy', 'legacy_view']])->assertRedirect();
        $take = $this->extract('LV/legacy')->take;
        self::assertSame(
            [3, 3, 'by the database\'s own count'],
            [$take?->rows, $take?->source_rows, $take?->counted_by],
        );
        self::assertSame(
            ['1', 'Bjørn', '1998-05-01', '12.50', null],
            json_decode((string) DB::table('staged_rows')->where('take_id', $take?->id)->value('cells'), true),
        );
        $this->filtersWithoutSql($migration, $db, $at);
    }

    private function filtersWithoutSql(Migration $migration, PDO $db, string $at): void
    {
        // Filters without SQL, and values that would be SQL stay values.
        foreach (
            [
                ['begins with', 'Ann%', 1],
                ['is', "x' OR '1'='1", 0],
                ['is blank', '', 1],
                ['one of', 'Bjørn, Ann%', 2],
                ['contains', '%', 1],
            ] as [$test, $value, $n]
        ) {
            $page = $this->get(
                "$at/table?"
                    .http_build_query([
                        'name' => 'f',
                        'reader' => [
                            'kind' => 'database',
                            'connection' => 'live',
                            'table' => 'legacy',
                            'only' => 'id',
                            'where' => [['column' => 'Owner Name', 'test' => $test, 'value' => $value]],
                        ],
                    ]),
            );
            self::assertSame(
                $n,
                substr_count((string) $page->getContent(), '<td class="n">')
                    - substr_count((string) $page->getContent(), 'zero'),
                $test,
            );
        }
        $this->aQueryThatRemembers($migration, $db, $at);
    }

    private function aQueryThatRemembers(Migration $migration, PDO $db, string $at): void
    {
        // A query that remembers the highest key it has seen.
        $reader = [
            'kind' => 'database',
            'connection' => 'live',
            'sql' => 'SELECT id, sum FROM legacy WHERE id > :last',
            'parameters_text' => 'last = highest id, first 1',
        ];
        $this->post("$at/freeze", ['name' => 'news', 'reader' => $reader])->assertRedirect();
        self::assertSame(['2', '3'], $this->ids('LV/news'));
        $db->exec("INSERT INTO legacy VALUES (9, 'new', NULL, 1, NULL)");
        $news = $this->extract('LV/news');
        $this->post("/m/$migration->id/sources/extracts/$news->id/again")->assertRedirect();
        self::assertSame(
            [['9'], ['last' => '3']],
            [$this->ids('LV/news'), $this->extract('LV/news')->take?->parameters],
        );
        $this->whatGoesWrongWhileReading($db);
        $this->assertPlanRoundTrip($migration);
        $db->exec('DROP VIEW legacy_view; DROP TABLE legacy');
    }

    public function test_sql_server_is_read_over_its_protocol(): void
    {
        $port = 14_330 + random_int(0, 600);
        $peer = proc_open(
            [PHP_BINARY, dirname(__DIR__).'/Support/sql-server-peer.php', (string) $port],
            [1 => ['pipe', 'w']],
            $pipes,
        );
        self::assertSame("ready\n", fgets($pipes[1]));
        try {
            $this->aServerIsRead($port);
        } finally {
            proc_terminate($peer, 9);
        }
    }

    private function aServerIsRead(int $port): void
    {
        $source = Migration::query()
            ->create(['name' => 'M', 'target_name' => 'x', 'installation' => 'test'])
            ->sources()
            ->create(['code' => 'YS', 'name' => 'Yard server']);
        $this->actingAs($this->user(Role::Consultant));
        $form = [
            'name' => 'yard',
            'driver' => 'dblib',
            'host' => '127.0.0.1',
            'port' => (string) $port,
            'database' => 'yard',
            'username' => 'reader',
            'password' => 'Sound-7!',
        ];
        foreach (
            [
                ['password' => 'wrong', 'says' => 'the user name or the password is wrong'],
                ['database' => 'nowhere', 'says' => 'has no database "nowhere"'],
                ['port' => '9', 'says' => 'No database answers at 127.0.0.1 port 9'],
            ] as $wrong
        ) {
            $this->followingRedirects()
                ->post(
                    "/m/$source->migration_id/sources/$source->id/connections",
                    array_diff_key($wrong, ['says' => 0]) + $form,
                )
                ->assertSee($wrong['says']);
        }
        $this->post("/m/$source->migration_id/sources/$source->id/connections", $form);
        $at = "/m/$source->migration_id/sources/connections/".Connection::query()->value('id');
        $this->tablesOfTheServer($at);
    }

    private function tablesOfTheServer(string $at): void
    {
        $this->get($at)->assertSee('jobs')->assertSee('open jobs');
        $this->get("$at/table?table=jobs")
            ->assertSee('Bjørn Åse')
            ->assertSee('Łukasz 日本');
        $this->post("$at/freeze", ['tables' => ['jobs', 'open jobs']])->assertRedirect();
        self::assertSame(['frozen', null], [($t = Take::query()->firstOrFail())->state->value, $t->error]);
        $jobs = $this->extract('YS/jobs')->take;
        self::assertSame(
            [3, 3, "by the database's own count"],
            [$jobs?->rows, $jobs?->source_rows, $jobs?->counted_by],
        );
        self::assertSame(
            ['0003', "O'Neil; --", '-1.00', '1999-12-31'],
            json_decode(
                (string) DB::table('staged_rows')->where('take_id', $jobs?->id)->where('row_no', 3)->value('cells'),
                true,
            ),
        );
        self::assertSame(['0001'], $this->ids('YS/open jobs'));
        $reader = [
            'kind' => 'database',
            'connection' => 'yard',
            'table' => 'jobs',
            'where' => [['column' => 'who', 'test' => 'begins with', 'value' => "O'N"]],
        ];
        $this->post("$at/freeze", ['name' => 'few', 'reader' => $reader])->assertRedirect();
        self::assertSame(['0003'], $this->ids('YS/few'));
    }

    public function test_a_migration_a_killed_worker_left_unstudied_is_studied(): void
    {
        $plan = $this->smallPlan("no,name\n1,a\n2,b\n", '{code: no, name: name}');
        $headless = $this->app->make(Headless::class);
        $headless->freeze($headless->import($plan), $plan, fn () => null);
        DB::table('key_candidates')->delete();
        DB::table('takes')->update(['studied_at' => null]);
        self::assertSame(0, Artisan::call('baggage:tend'));
        self::assertSame(1, DB::table('key_candidates')->where('columns', '["no"]')->count());
        self::assertNotNull(DB::table('takes')->value('studied_at'));
    }

    /** A connection that drops in the middle, a user without the right, and a stop: nothing half frozen stays. */
    private function whatGoesWrongWhileReading(PDO $db): void
    {
        $connection = Connection::query()->firstOrFail();
        $table = new QueryTable(
            ($link = DatabaseLink::to($connection, 10)),
            QueryFormat::fromArray(['connection' => 'live', 'sql' => 'SELECT a.seq FROM seq_1_to_300000 a']),
        );
        $seen = 0;
        try {
            foreach ($table->rows() as $row) {
                if (++$seen === 5) {
                    $db->exec(
                        'KILL '.$db
                            ->query("SELECT id FROM information_schema.processlist WHERE info LIKE 'SELECT a.seq%'")
                            ->fetchColumn(),
                    );
                }
            }
            self::fail('nothing was said');
        } catch (ReadingError $e) {
            self::assertMatchesRegularExpression('/broke off after [\d,]+ rows/', $e->getMessage());
        }
        DB::unprepared("CREATE OR REPLACE USER nobody@'127.0.0.1' IDENTIFIED BY 'x'");
        DB::unprepared("GRANT SELECT ON {$connection->database}.legacy_view TO nobody@'127.0.0.1'");
        try {
            (new QueryTable(
                DatabaseLink::to($connection->replicate()->fill(['username' => 'nobody', 'password' => 'x']), 10),
                QueryFormat::fromArray(['connection' => 'live', 'sql' => 'SELECT * FROM legacy']),
            ))->columns();
            self::fail('nothing was said');
        } catch (ReadingError $e) {
            self::assertStringContainsString('SELECT command denied to user', $e->getMessage());
        }
        $this->aStopKeepsTheTakeBefore();
    }

    private function aStopKeepsTheTakeBefore(): void
    {
        $take = $this->extract('LV/legacy')
            ->takes()
            ->create(['number' => 7, 'state' => 'stopping', 'file' => '', 'file_name' => 'x', 'bytes' => 0]);
        $kept = $this->extract('LV/legacy')->take_id;
        config(['baggage.rows_per_write' => 1]);
        (new Freezer)->freeze($take);
        self::assertSame(['failed', $kept], [$take->refresh()->state->value, $this->extract('LV/legacy')->take_id]);
        self::assertStringContainsString('It was stopped', (string) $take->error);
        self::assertSame(0, DB::table('staged_rows')->where('take_id', $take->id)->count());
    }

    /** @return list<string> */
    private function ids(string $extract): array
    {
        return DB::table('staged_rows')
            ->where('take_id', $this->extract($extract)->take_id)
            ->orderBy('row_no')
            ->pluck('cells')
            ->map(fn ($c) => json_decode($c, true)[0])
            ->all();
    }

    private function assertPlanRoundTrip(Migration $migration): void
    {
        $migration
            ->targets()
            ->create([
                'name' => 't',
                'host' => '127.0.0.1',
                'port' => (string) getenv('DB_PORT'),
                'database' => (string) getenv('HARBOUR_OFFICE_DATABASE'),
                'username' => 'harbour',
                'password_env' => 'HARBOUR_OFFICE_PASSWORD',
                'from_command_line' => true,
            ]);
        ColumnReference::query()->create([
            'migration_id' => $migration->id,
            'extract_id' => $this->extract('LV/legacy_view')->id,
            'columns' => ['id'],
            'parent_extract_id' => $this->extract('LV/legacy')->id,
            'parent_columns' => ['id'],
            'values_total' => 3,
            'values_found' => 3,
            'orphan_rows' => 0,
            'decision' => 'accepted',
        ]);
        Connection::query()->update([
            'password' => null,
            'password_env' => 'HARBOUR_OFFICE_PASSWORD',
            'from_command_line' => true,
        ]);
        $this->comesBackFromAPlan($migration);
    }

    private function comesBackFromAPlan(Migration $migration): void
    {
        $exporter = new PlanExporter;
        $plan = ['migration' => 'Copy'] + json_decode((string) json_encode($exporter->export($migration)), true);
        $folder = self::work('small');
        file_put_contents("$folder/copy.yaml", Yaml::dump($plan, 9));
        $headless = $this->app->make(Headless::class);
        $copy = $headless->import("$folder/copy.yaml");
        self::assertEquals(
            $plan,
            ['migration' => 'Copy'] + json_decode((string) json_encode($exporter->export($copy)), true),
        );
        $headless->freeze($copy, "$folder/copy.yaml", fn () => null);
        self::assertSame(
            4,
            Extract::query()
                ->where('name', 'legacy')
                ->whereHas('source', fn ($q) => $q->where('migration_id', $copy->id))
                ->firstOrFail()->take?->rows,
        );
    }

    public function test_queries_over_row_sized_tables_use_their_index(): void
    {
        $columns = DB::select(
            'EXPLAIN SELECT row_no, line, cells FROM staged_rows WHERE take_id = 1 AND row_no > 0 '
                .'AND row_no <= 200000 AND JSON_VALUE(cells, \'$[1]\') = \'x\' ORDER BY row_no LIMIT 60',
        );
        self::assertSame('PRIMARY', $columns[0]->key);
        $hashes = ValueHashes::begin();
        $lines = fn (int $side, int $rows) => implode(
            '',
            array_map(fn ($i) => ValueHashes::line($side, hash('xxh3', "$i"), $i), range(1, $rows)),
        );
        $hashes->load($lines(1, 20_000).$lines(2, 400), 20_400);
        $hashes->index();
        $columns = DB::select(
            'EXPLAIN SELECT COUNT(*) FROM value_hashes c WHERE c.side = 2 AND NOT EXISTS (SELECT 1 FROM value_hashes p '
                .'WHERE p.side = 1 AND p.key_hash = c.key_hash)',
        );
        self::assertSame(
            ['by_hash'],
            array_values(array_unique(array_filter(array_map(fn ($c) => $c->key, $columns)))),
        );
        $hashes->clear();
    }

    /** @return array{int, Process} a service's port and process, answering */
    private function service(string $router, int $port): array
    {
        while (@fsockopen('127.0.0.1', $port) !== false) {
            $port++;
        }
        @unlink(sys_get_temp_dir()."/old-desk-$port");
        $server = new Process([PHP_BINARY, '-S', "127.0.0.1:$port", $router]);
        $server->start();
        for ($i = 0; $i < 50 && @fsockopen('127.0.0.1', $port) === false; $i++) {
            usleep(100_000);
        }

        return [$port, $server];
    }

    private function desk(): Source
    {
        $migration = Migration::query()->create(['name' => 'M', 'target_name' => 'x', 'installation' => 'test']);
        $this->actingAs($this->user(Role::Consultant));

        return $migration->sources()->create(['code' => 'OD', 'name' => 'Old desk']);
    }

    public function test_a_service_that_sends_without_end_is_cut_off(): void
    {
        [$port, $server] = $this->service(dirname(__DIR__).'/Support/endless-service.php', 19_200);
        $source = $this->desk();
        $migration = $source->migration;
        $form = ['name' => 'desk', 'driver' => 'http', 'host' => "http://127.0.0.1:$port"];
        $this->post("/m/$migration->id/sources/$source->id/connections", $form)->assertRedirect();
        $at = "/m/$migration->id/sources/connections/".Connection::query()->value('id');
        memory_reset_peak_usage();
        foreach (['plain', 'packed'] as $path) {
            $reader = ['kind' => 'http', 'connection' => 'desk', 'path' => $path, 'records' => ''];
            $this->get("$at/table?".http_build_query(['reader' => $reader]))
                ->assertOk()
                ->assertSee('Page 1 is larger than 64 MB.');
        }
        $server->stop();
        // Not one page of them was held in memory.
        self::assertLessThan(memory_get_usage() + (48 << 20), memory_get_peak_usage());
    }

    public function test_a_service_is_read_page_by_page(): void
    {
        [$port, $server] = $this->service(dirname(__DIR__, 2).'/standins/old-desk.php', 18_600);
        $source = $this->desk();
        $this->connectedAndRead($port, $server, $source->migration, $source);
    }

    private function connectedAndRead(int $port, Process $server, Migration $migration, Source $source): void
    {
        $form = [
            'name' => 'desk',
            'driver' => 'http',
            'host' => "http://127.0.0.1:$port",
            'password' => 'X-Desk-Key: '.OldDesk::KEY,
        ];
        $this->post("/m/$migration->id/sources/$source->id/connections", $form)->assertRedirect();
        $connection = Connection::query()->firstOrFail();
        $at = "/m/$migration->id/sources/connections/$connection->id";
        $reader = fn (string $path, array $more = []) => $more + [
            'kind' => 'http',
            'connection' => 'desk',
            'path' => $path,
            'records' => 'tickets',
        ];
        $this->get("$at/table?".http_build_query(['reader' => $reader('numbered?size=20')]))
            ->assertOk()
            ->assertSee('berth.harbour')
            ->assertSee('2019-02-02');
        foreach (
            [
                ['numbered', $reader('numbered?size=20', ['paging' => 'number', 'page_parameter' => 'page']), 137],
                ['linked', $reader('linked?size=40', ['paging' => 'link']), 137],
                [
                    'cursor',
                    $reader('cursor?size=50', [
                        'paging' => 'cursor',
                        'page_parameter' => 'after',
                        'next' => 'next',
                        'records' => 'data.tickets',
                    ]),
                    137,
                ],
                ['shaky', $reader('shaky?size=50'), 50],
                ['notes', $reader('linked', ['paging' => 'link', 'list' => 'notes', 'carry' => 'no']), 54],
            ] as [$name, $settings, $rows]
        ) {
            $this->post("$at/freeze", ['name' => $name, 'reader' => $settings])->assertRedirect();
            $take = $this->extract("OD/$name")->take;
            self::assertSame(
                [$rows, $rows],
                [$take?->rows, $take?->source_rows],
                (string) Take::query()->latest('id')->value('error'),
            );
        }
        $this->badAnswersOfAService($server, $migration, $source, $form, $at, $reader);
    }

    private function badAnswersOfAService(
        Process $server,
        Migration $migration,
        Source $source,
        array $form,
        string $at,
        \Closure $reader,
    ): void {
        self::assertSame(
            ['137', '2019-06-26', 'PHO', '137', '34.25', null],
            json_decode(
                (string) DB::table('staged_rows')
                    ->where('take_id', $this->extract('OD/numbered')->take_id)
                    ->where('row_no', 137)
                    ->value('cells'),
                true,
            ),
        );
        foreach (
            [['gone', 'nothing at'], ['broken', 'cut off'], ['page', 'answers with a web page']] as [$path, $says]
        ) {
            $this->post("$at/freeze", ['name' => "bad $path", 'reader' => $reader($path)]);
            self::assertStringContainsString($says, (string) Take::query()->latest('id')->value('error'));
        }
        $this->post("/m/$migration->id/sources/$source->id/connections", ['password' => 'X-Desk-Key: wrong'] + $form);
        $this->get($at)->assertOk()->assertSee('the key in the connection');
        $server->stop(0);
        $this->get($at)->assertOk()->assertSee('No service answers');
        self::assertSame(0, Extract::query()->where('name', 'like', 'bad %')->whereNotNull('take_id')->count());
    }

    public function test_an_accepted_reference_is_known_to_mapping_and_order(): void
    {
        $migration = $this->studied();
        $this->actingAs($this->user(Role::Lead));
        $slip = ColumnReference::query()
            ->where('extract_id', $this->extract('BB/agreement')->id)
            ->where('columns', '["HARB","SLIP"]')
            ->firstOrFail();
        $this->post("/m/$migration->id/sources/references/$slip->id", ['decision' => 'accepted'])->assertRedirect();
        $load = Load::query()->where('name', 'Agreements')->firstOrFail();
        $load->rules()->where('field', 'berth')->delete();
        $this->post("/m/$migration->id/mapping/loads/$load->id/map", [
            'column' => 'slip',
            'field' => 'berth',
        ])->assertRedirect();
        self::assertSame('parent([harb, slip])', $load->rules()->where('field', 'berth')->value('expression'));
        // Without any rule the order still puts the parent first.
        $load->rules()->where('field', 'berth')->delete();
        self::assertContains('berth', (new Definitions($migration->fresh()))->order()->parentsOf('agreement'));
        $slip->update(['decision' => ReferenceDecision::Dismissed]);
        self::assertNotContains('berth', (new Definitions($migration->fresh()))->order()->parentsOf('agreement'));
        // A new load takes the key its profile found.
        $this->post("/m/$migration->id/mapping/loads", [
            'entity' => 'berth',
            'extract' => $this->extract('BB/slip')->id,
            'name' => 'Berths again',
        ])->assertRedirect();
        self::assertSame(['harb', 'slip'], Load::query()->where('name', 'Berths again')->firstOrFail()->key_columns);
        $this->actingAs($this->user(Role::Reviewer))
            ->post("/m/$migration->id/sources/references/$slip->id", ['decision' => 'found'])
            ->assertForbidden();
    }
}
