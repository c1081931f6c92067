<?php

namespace Tests\Feature;

use App\Freezing\Freezer;
use App\Freezing\FreezeTake;
use App\Freezing\Helper;
use App\Models\Extract;
use App\Models\Finding;
use App\Models\Migration;
use App\Models\Role;
use App\Models\Take;
use App\Models\TakeState;
use App\Plans\Headless;
use App\Support\BulkRows;
use Illuminate\Http\UploadedFile;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Queue;
use Symfony\Component\Process\Process;
use Symfony\Component\Yaml\Yaml;
use Tests\TestCase;

/** Freezing: all or nothing, the same with and without a second process, stoppable, and taken up again. */
final class FreezingTest extends TestCase
{
    /** Either the rows are on the page of the sources, or it asks again: whatever ends while it is put together. */
    public function test_the_page_of_sources_is_never_left_between_reading_and_frozen(): void
    {
        $migration = $this->migration();
        $take = $this->frozen($migration, 'some', "a,b\n1,x\n2,y\n");
        $take->update(['state' => TakeState::Reading]);
        $take->extract->update(['take_id' => null]);
        $ends = true;
        DB::listen(function ($query) use ($take, &$ends) {
            if ($ends && str_contains($query->sql, 'from `extracts` where `extracts`.`source_id` in')) {
                $ends = false;
                $take->update(['state' => TakeState::Frozen]);
                $take->extract->update(['take_id' => $take->id]);
            }
        });
        $this->actingAs($this->user(Role::Lead));
        $page = (string) $this->get("/m/$migration->id/sources")->getContent();
        self::assertTrue(str_contains($page, '2 rows frozen') || str_contains($page, 'hx-select-oob="#reading'));
    }

    /** @param  array<string, mixed>  $reader */
    private function take(Migration $migration, string $name, string $bytes, array $reader = []): Take
    {
        $path = sys_get_temp_dir()."/baggage-freezing-$name";
        file_put_contents($path, $bytes);
        $extract = $migration
            ->sources()
            ->firstOrFail()
            ->extracts()
            ->firstOrCreate(['name' => $name], ['reader' => $reader]);

        return $extract
            ->takes()
            ->create([
                'number' => (int) $extract->takes()->max('number') + 1,
                'state' => 'waiting',
                'file' => $path,
                'file_name' => $name,
                'bytes' => strlen($bytes),
            ]);
    }

    public function test_a_profile_made_aside_is_the_one_made_on_the_way(): void
    {
        $bytes = "no,name,born,sum\n";
        for ($i = 1; $i <= 9_000; $i++) {
            $bytes .= sprintf(
                "%05d,%s,%02d/%02d/%d,\"%s\"\n",
                $i,
                $i % 50 ? "Name $i" : ' n/a',
                ($i % 28) + 1,
                ($i % 12) + 1,
                1990 + ($i % 30),
                number_format($i / 4, 2),
            );
        }
        $migration = $this->migration();
        $profiles = $findings = [];
        foreach (['inline' => 20_000, 'aside' => 1_000] as $how => $rows) {
            config(['baggage.rows_per_write' => $rows]);
            $take = $this->take($migration, $how, $bytes);
            (new Freezer)->freeze($take);
            self::assertSame(['frozen', 9_000], [$take->refresh()->state->value, $take->rows], (string) $take->error);
            $profiles[] = $take->profile;
            $findings[] = Finding::query()
                ->where('take_id', $take->id)
                ->orderBy('id')
                ->get(['code', 'header', 'n', 'rows'])
                ->toArray();
            self::assertSame(9_000, DB::table('staged_rows')->where('take_id', $take->id)->count());
        }
        self::assertSame($profiles[0], $profiles[1]);
        self::assertSame($findings[0], $findings[1]);
        self::assertSame(['stray_spaces' => 180, 'placeholder' => 180], array_column($findings[0], 'n', 'code'));
        // What cannot be read is said once, whoever met it first, and the database connection is still good.
        $bad = $this->take($migration, 'bad', "a,b\n1,\"2\n");
        (new Freezer)->freeze($bad);
        self::assertStringContainsString('never closed', (string) $bad->refresh()->error);
        self::assertSame(0, DB::table('staged_rows')->where('take_id', $bad->id)->count());
    }

    /** Columns that may be keys are hashed while a take is read; what the study finds is the same as on a walk of its own. */
    public function test_keys_are_found_from_what_freezing_hashed(): void
    {
        $bytes = "no,twice,name,kind\n";
        for ($i = 1; $i <= 6_000; $i++) {
            $bytes .= sprintf("%05d,%s,Name %d,%s\n", $i, $i % 500 === 0 ? '' : ($i % 700 === 1 ? 'T1' : " T$i "), $i % 40, 'ABC'[$i % 3]);
        }
        $migration = $this->migration();
        $found = [];
        foreach (['walked' => 20_000, 'hashed' => 1_000, 'broken' => 1_000, 'again' => 1_000] as $how => $rows) {
            config(['baggage.rows_per_write' => $rows]);
            $take = $this->take($migration, $how, $bytes);
            (new Freezer)->freeze($take);
            $files = fn (): array => array_map(basename(...), glob(config('baggage.vault')."/hashes/$take->id-*") ?: []);
            self::assertSame($how === 'walked' ? [] : ["$take->id-0", "$take->id-1"], $files(), $how);
            if ($how === 'broken') {
                file_put_contents(config('baggage.vault')."/hashes/$take->id-1", 'half');
            }
            $this->app->make(Headless::class)->study($migration);
            self::assertSame([], $files());
            $keys = DB::table('key_candidates')->where('extract_id', $take->extract_id)->orderBy('id');
            $rows = fn (int $key) => DB::table('key_rows')
                ->where('key_id', $key)
                ->orderBy('row_no')
                ->get(['first_row', 'row_no'])
                ->toArray();
            $found[] = $keys->get()
                ->map(fn ($k) => [$k->columns, $k->duplicate_rows, $k->blank_rows, $k->examples, $rows($k->id)])
                ->all();
        }
        self::assertSame([['["no"]', 0, 0], ['["twice"]', 8, 12]], array_map(fn ($k) => array_slice($k, 0, 3), $found[0]));
        self::assertEquals([$found[0], $found[0], $found[0]], array_slice($found, 1));
        // What was read for nothing leaves nothing behind.
        $bad = $this->take($migration, 'bad', "$bytes\"never closed\n");
        (new Freezer)->freeze($bad);
        self::assertSame([], glob(config('baggage.vault')."/hashes/$bad->id-*"));
    }

    public function test_reading_killed_with_9_starts_over_without_a_row_of_the_first_attempt(): void
    {
        $bytes = "no,name,born,sum\n";
        for ($i = 1; $i <= 60_000; $i++) {
            $bytes .= sprintf(
                "%05d,Name %d,%02d/%02d/%d,%d\n",
                $i,
                $i,
                ($i % 28) + 1,
                ($i % 12) + 1,
                1990 + ($i % 30),
                $i,
            );
        }
        // What workers left that other tests killed.
        BulkRows::sweepOld(-5);
        $take = $this->take($this->migration(), 'killed', $bytes);
        foreach ([1, 12_000, 40_000] as $rows) {
            $reading = new Process(
                [
                    PHP_BINARY,
                    'artisan',
                    'tinker',
                    '--execute',
                    "config(['baggage.rows_per_write' => 1000]); "
                        ."app(App\\Freezing\\Freezer::class)->freeze(App\\Models\\Take::findOrFail($take->id));",
                ],
                base_path(),
            );
            $reading->start();
            for (
                $i = 0;
                $i < 2_000
                && $reading->isRunning()
                && DB::table('staged_rows')->where('take_id', $take->id)->count() < $rows;
                $i++
            ) {
                usleep(5_000);
            }
            $reading->signal(9);
            $reading->wait();
            self::assertSame('reading', $take->refresh()->state->value, $reading->getOutput());
        }
        $this->nothingOfTheFirstAttempt($take);
    }

    private function nothingOfTheFirstAttempt(Take $take): void
    {
        (new Freezer)->freeze($take);
        self::assertSame(
            ['frozen', 60_000, 60_000, 60_000],
            [
                $take->refresh()->state->value,
                $take->rows,
                DB::table('staged_rows')->where('take_id', $take->id)->count(),
                $take->profile[0]['filled'] ?? null,
            ],
            (string) $take->error,
        );
        self::assertSame([], glob(BulkRows::folder().'/*'), 'no row of a client stays in a temporary file');
        // A helper that fails says why, and ends.
        $helper = Helper::start(
            fn () => throw new \RuntimeException('the disk is full'),
            null,
            (string) tempnam(sys_get_temp_dir(), 'helper'),
        );
        $helper?->give('x', 1, 1);
        try {
            $helper?->wait(0);
            self::fail('nothing was said');
        } catch (\RuntimeException $e) {
            self::assertSame('the disk is full', $e->getMessage());
        } finally {
            $helper?->abandon();
        }
    }

    public function test_temporary_files_are_this_installations_own_and_swept(): void
    {
        $folder = BulkRows::folder();
        self::assertSame(0700, fileperms($folder) & 0777, 'nobody else reads rows of a client');
        $others = dirname($folder).'/baggage-of-another-installation';
        @mkdir($others);
        foreach (["$folder/old" => 7200, "$folder/new" => 0, "$others/old" => 7200] as $file => $age) {
            touch($file, time() - $age);
        }
        BulkRows::sweepOld(3600);
        self::assertSame(
            [false, true, true],
            array_map(is_file(...), ["$folder/old", "$folder/new", "$others/old"]),
            'a file that is in use, or of others, stays',
        );
        array_map(unlink(...), ["$folder/new", "$others/old"]);
        rmdir($others);
    }

    public function test_it_can_be_stopped_and_says_how_far_it_is(): void
    {
        Queue::fake();
        $this->freezeTime();
        $migration = $this->migration();
        $take = $this->take($migration, 'long', "a,b\n".str_repeat("1,2\n", 3_000));
        $this->actingAs($this->user(Role::Consultant));
        $at = "/m/$migration->id/sources/takes/$take->id";
        $this->get($at)->assertSee('waits for a worker');
        $take->update([
            'state' => 'reading',
            'rows' => 1500,
            'bytes_read' => 6000,
            'taken_at' => now()->subSeconds(10),
        ]);
        $this->get($at)->assertReads('1,500 rows')->assertReads('150 rows/s')->assertSee('left');
        $this->actingAs($this->user(Role::Auditor))
            ->post("$at/stop")
            ->assertForbidden();
        $this->actingAs($this->user(Role::Lead))
            ->post("$at/stop")
            ->assertRedirect();
        $this->get($at)->assertSee('stops');
        config(['baggage.rows_per_write' => 500]);
        (new FreezeTake($take->id))->handle(new Freezer);
        self::assertSame(['failed', 0], [$take->refresh()->state->value, DB::table('staged_rows')->count()]);
        $this->post("$at/stop")->assertSessionHas('refused');
        // A file that is being read is not frozen a second time.
        Extract::query()
            ->firstOrFail()
            ->takes()
            ->create(['number' => 9, 'state' => 'reading', 'file' => 'x', 'file_name' => 'x', 'bytes' => 1]);
        $answer = $this->post("/m/$migration->id/sources/upload", [
            'source' => $migration->sources()->value('id'),
            'file' => UploadedFile::fake()->createWithContent('long.csv', "a,b\n1,2\n"),
        ]);
        $this->post((string) $answer->headers->get('Location'), [
            'name' => 'long',
            'reader' => ['kind' => 'delimited'],
        ])->assertSessionHas('refused', 'The extract long is being read right now.');
    }

    public function test_who_waits_for_a_first_take_is_shown_its_rows(): void
    {
        $migration = $this->migration();
        $take = $this->take($migration, 'short', "a,b\n1,2\n");
        (new FreezeTake($take->id))->handle(new Freezer);
        $this->actingAs($this->user(Role::Consultant));
        $ask = fn (string $page) => $this->get("/m/$migration->id/sources/takes/$take->id", [
            'HX-Request' => 'true',
            'HX-Current-URL' => "http://localhost/m/$migration->id/sources$page",
        ]);
        $ask("/extracts/$take->extract_id?show=rows")->assertHeader('HX-Trigger', 'figures-are-old');
        $ask('')->assertHeaderMissing('HX-Trigger')->assertReads('Take 1: 1 row is frozen');
        $take->refresh()->update(['number' => 2]);
        $ask("/extracts/$take->extract_id")->assertHeaderMissing('HX-Trigger');
    }

    public function test_takes_without_a_key_are_compared_by_their_contents(): void
    {
        $migration = $this->migration();
        foreach (["a,b\n1,x\n1,x\n2,y\n", "a,b\n1,x\n2,y\n2,y\n3,z\n"] as $bytes) {
            (new FreezeTake($this->take($migration, 'twins', $bytes)->id))->handle(new Freezer);
        }
        $compared = Take::query()->where('number', 2)->firstOrFail()->compared;
        self::assertSame(
            [null, 2, 1, null],
            [$compared['key'], $compared['added'], $compared['gone'], $compared['changed']],
        );
        self::assertSame(
            ['added 4', 'added 5', 'gone 2'],
            DB::table('take_changes')
                ->orderBy('kind')
                ->orderBy('row_no')
                ->get()
                ->map(fn ($r) => "$r->kind $r->row_no")
                ->all(),
            'the second of the rows that are the same',
        );
        $this->actingAs($this->user(Role::Auditor))
            ->get('/m/'.$migration->id.'/sources/extracts/'.Extract::query()->value('id').'?show=takes')
            ->assertSee('no key')
            ->assertSee('the same');
    }

    public function test_another_table_under_the_same_name_is_all_new_rows(): void
    {
        $migration = $this->migration();
        foreach (["a,b\n1,x\n2,y\n", "p,q,r\n7,8,9\n"] as $bytes) {
            (new FreezeTake($this->take($migration, 'other', $bytes)->id))->handle(new Freezer);
        }
        $compared = Take::query()->where('number', 2)->firstOrFail()->compared ?? [];
        self::assertSame([1, 2], [$compared['added'], $compared['gone']]);
    }

    public function test_a_column_that_comes_or_moves_changes_no_row(): void
    {
        $migration = $this->migration();
        $lines = fn (\Closure $row) => implode('', array_map($row, range(1, 300)));
        (new FreezeTake(
            $this->take($migration, 'people', "no,name,town\n".$lines(fn ($i) => "$i,name $i,Orrin\n"))->id,
        ))->handle(new Freezer);
        (new FreezeTake(
            $this->take(
                $migration,
                'people',
                "name,title,no,since\n"
                    .$lines(
                        fn ($i) => $i > 290
                            ? ''
                            : 'name '.($i === 7 ? 'seven' : $i).',Orrin,'.($i === 8 ? 1008 : $i).",x$i\n",
                    ),
            )->id,
        ))->handle(new Freezer);
        $take = Take::query()->where('number', 2)->firstOrFail();
        self::assertSame(
            [['since'], [], ['town' => 'title'], 1, 11, 1],
            array_values(
                array_intersect_key(
                    $take->compared ?? [],
                    array_flip(['columns_added', 'columns_gone', 'columns_renamed', 'added', 'changed', 'gone']),
                ),
            ),
        );
        $this->changedRowsOnPages($migration, $take);
    }

    private function changedRowsOnPages(Migration $migration, Take $take): void
    {
        $this->actingAs($this->user(Role::Auditor));
        $page = "/m/$migration->id/sources/extracts/$take->extract_id?show=changes&of=2&kind";
        $this->get("$page=changed")
            ->assertOk()
            ->assertSeeInOrder(['Rows are told apart by no.', 'name 7', 'name seven']);
        // More rows than a page holds: none twice, none missing.
        DB::table('take_changes')->insertOrIgnore(
            array_map(fn ($row) => ['take_id' => $take->id, 'kind' => 'added', 'row_no' => $row], range(1, 130)),
        );
        $seen = [];
        for (
            $next = "$page=added";
            $next !== null;
            $next = preg_match('/href="([^"]+after=\d+)">The\s+next\s+rows/', $html, $m) === 1 ? $m[1] : null
        ) {
            $html = (string) $this->get($next)->assertOk()->getContent();
            preg_match_all('/show=rows&after=(\d+)"/', $html, $found);
            $seen = array_merge($seen, $found[1]);
        }
        // The row that has come has a number of its own, after all others.
        self::assertSame(array_map(strval(...), [...range(0, 129), 300]), $seen);
    }

    /** The same words in a plan as on the screens: every kind of file, from one folder, frozen headless. */
    public function test_a_plan_reads_files_of_every_kind(): void
    {
        $folder = self::work('kinds');
        @mkdir($folder, 0777, true);
        file_put_contents("$folder/fixed.txt", "0001Ann \n0002Zoe \n");
        file_put_contents("$folder/doc.json", '{"data":[{"no":1,"tags":["a","b"]},{"no":2}]}');
        file_put_contents("$folder/doc.xml", '<r><j no="1"><t>a</t></j><j no="2"/></r>');
        file_put_contents("$folder/mixed.csv", "a;b\n1;Bjørn\n2;Bj\xF8rn\n# end\n");
        (new \PDO("sqlite:$folder/old.sqlite"))->exec(
            "DROP TABLE IF EXISTS t; CREATE TABLE t (a INTEGER, b TEXT); INSERT INTO t VALUES (1, 'x'), (2, 'y'), (3, NULL)",
        );
        $zip = new \ZipArchive;
        $zip->open("$folder/all.zip", \ZipArchive::CREATE | \ZipArchive::OVERWRITE);
        $zip->addFile("$folder/doc.xml", 'in/doc.xml');
        $zip->addFile("$folder/old.sqlite", 'old.sqlite');
        $zip->close();
        $readers = [
            'fixed' => ['fixed.txt', ['kind' => 'fixed_width', 'header' => false, 'layout' => 'NO 1-4, NAME 5-8'], 2],
            'json' => ['doc.json', ['kind' => 'json', 'records' => 'data'], 2],
            'tags' => ['doc.json', ['kind' => 'json', 'records' => 'data', 'list' => 'tags', 'carry' => ['no']], 2],
            'xml' => ['doc.xml', ['kind' => 'xml', 'records' => 'r/j'], 2],
            'mixed' => ['mixed.csv', ['delimiter' => ';', 'encoding' => 'UTF-8 or Windows-1252', 'comment' => '#'], 2],
            'table' => [
                'old.sqlite',
                ['kind' => 'database', 'table' => 't', 'where' => [['column' => 'b', 'test' => 'is not blank']]],
                2,
            ],
            'query' => [
                'old.sqlite',
                [
                    'kind' => 'database',
                    'sql' => 'SELECT a FROM t WHERE a > :n',
                    'parameters' => ['n' => ['fixed' => '1']],
                ],
                2,
            ],
            'zipped' => ['all.zip', ['kind' => 'xml', 'member' => 'in/doc.xml', 'records' => 'r/j'], 2],
            'zipped db' => ['all.zip', ['kind' => 'database', 'member' => 'old.sqlite', 'table' => 't'], 3],
        ];
        $plan = [
            'baggage' => 1,
            'migration' => 'Kinds',
            'target' => self::targetOfPlan(),
            'sources' => [
                [
                    'code' => 'S',
                    'name' => 'S',
                    'extracts' => array_map(
                        fn ($name, $r) => ['name' => $name, 'file' => $r[0], 'reader' => $r[1]],
                        array_keys($readers),
                        $readers,
                    ),
                ],
            ],
        ];
        $this->allKindsAreFrozen($folder, $readers, $plan);
    }

    private function allKindsAreFrozen(string $folder, array $readers, array $plan): void
    {
        file_put_contents("$folder/plan.yaml", Yaml::dump($plan, 8));
        $headless = $this->app->make(Headless::class);
        $migration = $headless->import("$folder/plan.yaml");
        $headless->freeze($migration, "$folder/plan.yaml", fn () => null);
        foreach ($readers as $name => [, , $rows]) {
            $take = Extract::query()->where('name', $name)->firstOrFail()->take;
            self::assertSame([$rows, $rows], [$take?->rows, $take?->source_rows], $name);
        }
        $cells = fn (string $name) => DB::table('staged_rows')
            ->where('take_id', Extract::query()->where('name', $name)->value('take_id'))
            ->orderBy('row_no')
            ->pluck('cells')
            ->map(fn ($c) => json_decode($c))
            ->all();
        self::assertSame([['1', 'Bjørn'], ['2', 'Bjørn']], $cells('mixed'));
        self::assertSame([['1', '1', 'a'], ['1', '2', 'b']], $cells('tags'));
        self::assertSame(
            [2],
            Finding::query()->where('code', 'mixed_encoding')->firstOrFail()->rows,
            'the row, not the line',
        );
        // Read again only when the bytes have changed.
        $headless->freeze($migration, "$folder/plan.yaml", fn () => self::fail('nothing has changed'));
        file_put_contents("$folder/doc.json", '{"data":[{"no":1}]}');
        // No load reads it, so it is told and stops nobody.
        $told = null;
        $headless->freeze($migration, "$folder/plan.yaml", function (Extract $extract, Take $take) use (&$told) {
            $told = $take->error;
        });
        self::assertStringContainsString('No record has anything in its list "tags"', (string) $told);
    }
}
