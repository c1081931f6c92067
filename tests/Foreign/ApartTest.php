<?php

namespace Tests\Foreign;

use App\Freezing\FreezeApart;
use App\Freezing\Freezer;
use App\Freezing\FreezeTake;
use App\Models\Extract;
use App\Models\Migration;
use App\Models\Role;
use App\Models\Take;
use App\Models\TakeState;
use App\Reading\Parts;
use App\Support\Apart;
use App\Support\ApartEnded;
use App\Support\Bounds;
use App\Support\Scratch;
use Baggage\Core\Reading\Limits;
use Baggage\Core\Reading\Query\QueryFormat;
use Baggage\Core\Reading\ReaderSettings;
use Baggage\Core\Reading\ReadingError;
use Illuminate\Http\UploadedFile;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use PDO;
use Symfony\Component\Process\Process;
use Tests\TestCase;

/** Foreign bytes are opened in processes of their own: these end at their limits, when asked, and with whoever waits; nothing stays. */
final class ApartTest extends TestCase
{
    protected function setUp(): void
    {
        parent::setUp();
        config(['baggage.apart.on' => true, 'baggage.scratch' => self::work('scratch')]);
    }

    protected function tearDown(): void
    {
        self::assertSame([], glob(self::work('scratch').'/*') ?: [], 'nothing stays behind');
        parent::tearDown();
    }

    /** A database of one view that gives rows, or works, for ever. */
    private function sqlite(string $view): string
    {
        @mkdir(self::work('apart'), 0777, true);
        $path = self::work('apart').'/'.md5($view).'.db';
        @unlink($path);
        $pdo = new PDO("sqlite:$path");
        $pdo->exec('CREATE TABLE small (no INTEGER, name TEXT)');
        $pdo->exec("INSERT INTO small VALUES (1, 'a'), (2, 'b')");
        $pdo->exec("CREATE VIEW v AS $view");

        return $path;
    }

    private function take(string $path, string $table): Take
    {
        $extract = (Migration::query()->first() ?? $this->migration())->sources()->firstOrFail()->extracts()->firstOrCreate(
            ['name' => 'x'],
            ['reader' => (new ReaderSettings(new QueryFormat('', $table)))->toArray()],
        );

        return $extract->newTake(['file' => $path, 'file_name' => 'x.db', 'bytes' => (int) filesize($path)]);
    }

    private function freeze(Take $take): Take
    {
        (new FreezeTake($take->id))->handle(new Freezer);

        return $take->refresh();
    }

    public function test_a_take_is_frozen_in_a_process_of_its_own(): void
    {
        $take = $this->freeze($this->take($this->sqlite('SELECT * FROM small'), 'v'));
        self::assertSame([TakeState::Frozen, 2], [$take->state, $take->rows], (string) $take->error);
        self::assertSame(2, DB::table('staged_rows')->where('take_id', $take->id)->count());
    }

    /** FS7: it counts for ever before it gives a row, so nothing of ours is ever asked whether to go on. */
    public function test_what_gives_no_row_for_ever_is_ended(): void
    {
        config(['baggage.apart.stalled' => 0.5]);
        $endless = 'WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) SELECT i FROM n WHERE i < 0';
        $take = $this->freeze($this->take($this->sqlite($endless), 'v'));
        self::assertSame(TakeState::Failed, $take->state);
        self::assertStringContainsString('Nothing more came', (string) $take->error);
        self::assertSame(0, DB::table('staged_rows')->where('take_id', $take->id)->count());
    }

    /** FS7: stop has an effect at any point, within two seconds by the clock of whoever watches it. */
    public function test_stop_ends_it_where_it_asks_nobody(): void
    {
        $endless = 'WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) SELECT i FROM n WHERE i < 0';
        $take = $this->take($this->sqlite($endless), 'v');
        $now = 0.0;
        $asked = null;
        FreezeApart::freeze($take, new Freezer, function () use ($take, &$now, &$asked): float {
            $isReading = fn () => Take::query()->whereKey($take->id)->where('state', TakeState::Reading);
            if ($asked === null && $isReading()->update(['state' => TakeState::Stopping]) === 1) {
                $asked = $now;
            }

            return $now += 0.1;
        });
        self::assertNotNull($asked);
        self::assertLessThan(2.0, $now - $asked);
        self::assertSame([TakeState::Failed, Freezer::STOPPED], [$take->refresh()->state, $take->error]);
    }

    public function test_an_enormous_cell_ends_its_process_and_no_other(): void
    {
        config(['baggage.apart.freeze' => ['memory' => 64, 'answer' => 1000]]);
        $take = $this->freeze($this->take($this->sqlite('SELECT 1 AS no, zeroblob(900000000) AS cell'), 'v'));
        self::assertSame(TakeState::Failed, $take->state);
        self::assertMatchesRegularExpression('/more memory than the 64 MB|database refuses|broke off/', (string) $take->error);
        self::assertSame(TakeState::Frozen, $this->freeze($this->take($this->sqlite('SELECT 1 AS no'), 'v'))->state);
    }

    public function test_limits_of_time_and_answer_and_an_end_of_its_own(): void
    {
        $slow = fn () => Apart::run(['tinker', '--execute=while (true) { usleep(1000); }'], '', new Bounds(0.6, 128, 1000));
        $loud = fn () => Apart::run(['tinker', '--execute=while (true) { echo str_repeat("x", 9999); }'], '', new Bounds(20, 128, 100_000));
        $wide = fn () => Apart::run(['tinker', '--execute=$a = str_repeat("x", 99 << 20);'], '', new Bounds(20, 64, 1000));
        $ends = fn () => Apart::run(['tinker', '--execute=posix_kill(getmypid(), 11);'], '', new Bounds(20, 128, 1000));
        $says = [];
        foreach ([$slow, $loud, $wide, $ends] as $of) {
            try {
                $of();
            } catch (ApartEnded $e) {
                $says[] = $e->getMessage();
            }
        }
        self::assertSame([
            'It took longer than 0.6 s and was ended.',
            'It gave more than 100,000 bytes to show, and was ended.',
            'It needed more memory than the 64 MB there are for it, and was ended.',
            'The process that read it ended by itself (signal 11). Something in the data does that; nothing of it was kept.',
        ], $says);
    }

    public function test_it_ends_with_whoever_waits_for_it_and_its_folder_is_swept(): void
    {
        $code = 'App\\Support\\Apart::run(["tinker", "--execute=sleep(300);"], "", new App\\Support\\Bounds(null, 128, 1000));';
        $here = ['BAGGAGE_SCRATCH' => self::work('scratch')];
        $worker = new Process([PHP_BINARY, 'artisan', 'tinker', "--execute=$code"], base_path(), $here);
        $worker->start();
        $ours = fn () => trim((string) shell_exec('pgrep -f "execute=sleep.300" | wc -l'));
        $until = microtime(true) + 20;
        do {
            usleep(50_000);
        } while ($ours() === '1' && microtime(true) < $until || (glob(self::work('scratch').'/*') ?: []) === []);
        $worker->signal(SIGKILL);
        $worker->wait();
        usleep(300_000);
        self::assertNotSame([], glob(self::work('scratch').'/*') ?: []);
        Scratch::sweep();
        self::assertSame([], glob(self::work('scratch').'/*') ?: []);
    }

    /** FS7: a preview of what never ends takes no page longer than it may wait; a worker looks, and the page shows what it saw. */
    public function test_a_page_waits_no_longer_than_it_may_and_shows_it_when_it_is_there(): void
    {
        $migration = $this->migration();
        $this->actingAs($this->user(Role::Lead));
        config(['baggage.apart.look.seconds' => 1.5, 'baggage.apart.look_long.seconds' => 1.5, 'queue.default' => 'database']);
        $endless = 'WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) SELECT i FROM n WHERE i < 0';
        $file = new UploadedFile($this->sqlite($endless), 'x.db', null, null, true);
        $page = $this->post("/m/$migration->id/sources/upload", ['source' => 1, 'file' => $file])->headers->get('Location');
        $settings = ['reader' => ['kind' => 'database', 'table' => 'v']];
        $shown = "$page?".http_build_query($settings);
        $began = microtime(true);
        $this->get($shown)->assertReads('A worker looks at it now');
        $this->get($shown)->assertReads('A worker looks at it now');
        self::assertLessThan(15, microtime(true) - $began);
        self::assertSame(1, DB::table('jobs')->count(), 'it is asked for once');
        Artisan::call('queue:work', ['--once' => true, '--queue' => 'looks']);
        $this->get($shown)->assertReads('It took longer than 1.5 s and was ended.');
        // What is small is shown at once, and the pages of others too.
        $settings['reader']['table'] = 'small';
        $this->get("$page?".http_build_query($settings))->assertReads('1 1 a');
    }

    public function test_a_file_that_takes_long_to_open_waits_for_a_worker_and_is_there_then(): void
    {
        $migration = $this->migration();
        $this->actingAs($this->user(Role::Lead));
        config(['queue.default' => 'database', 'baggage.apart.look.seconds' => 0.1]);
        $file = UploadedFile::fake()->createWithContent('x.csv', "no,name\n1,a\n");
        $page = (string) $this->post("/m/$migration->id/sources/upload", ['source' => 1, 'file' => $file])->headers->get('Location');
        $this->get($page)->assertReads('A worker does it now');
        Artisan::call('queue:work', ['--once' => true, '--queue' => 'looks']);
        config(['baggage.apart.look.seconds' => 10]);
        $this->get($page)->assertReads('Freeze x.csv')->assertReads('1 a');
    }

    /** FS11, FS17: nobody else on the machine reads what waits, and what nobody froze goes. */
    public function test_what_waits_is_private_and_goes(): void
    {
        $this->actingAs($this->user(Role::Lead));
        $file = UploadedFile::fake()->createWithContent('x.csv', "no,name\n1,a\n");
        $m = "/m/{$this->migration()->id}";
        $page = (string) $this->post("$m/sources/upload", ['source' => 1, 'file' => $file])->headers->get('Location');
        $kept = glob(config('baggage.vault').'/incoming/'.basename($page).'.*') ?: [];
        self::assertCount(2, $kept);
        foreach ([dirname($kept[0]), ...$kept] as $path) {
            self::assertSame(0, fileperms($path) & 0077, $path);
        }
        array_map(fn (string $path) => touch($path, time() - 6 * 86_400), $kept);
        Artisan::call('baggage:tend');
        $this->get($page)->assertOk();
        array_map(fn (string $path) => touch($path, time() - 8 * 86_400), $kept);
        Artisan::call('baggage:tend');
        $this->get($page)->assertNotFound();
    }

    /** FS9: rows for ever, and a disk that is nearly full. */
    public function test_more_than_there_is_room_for_is_ended(): void
    {
        config(['baggage.apart.on' => false, 'baggage.rows_per_write' => 500, 'baggage.most_rows' => 2000]);
        @mkdir(config('baggage.vault'), 0700, true);
        $rows = $this->sqlite('WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 9000) SELECT i FROM n');
        $take = $this->freeze($this->take($rows, 'v'));
        self::assertStringContainsString('more than 2,000 rows', (string) $take->error);
        config(['baggage.most_rows' => 99_999, 'baggage.disk_reserve' => 99_000_000]);
        $take = $this->freeze($this->take($rows, 'v'));
        self::assertStringContainsString('Reading it needs about 1 MB on the disk, and 1 MB may be taken', (string) $take->error);
        self::assertSame(0, DB::table('staged_rows')->count());
        config(['baggage.disk_reserve' => 1]);
        self::assertSame(9000, $this->freeze($this->take($rows, 'v'))->rows);
        // What one migration has in all; read again, a take is not counted twice.
        config(['baggage.migration.rows' => 18_000]);
        self::assertSame(9000, ($take = $this->freeze($this->take($rows, 'v')))->rows);
        self::assertGreaterThan(9000 * 7, $take->staged_bytes);
        $again = $this->freeze($this->take($rows, 'v'));
        self::assertStringContainsString('the takes of this migration have more than 18,000 rows', (string) $again->error);
        self::assertSame(18_000, DB::table('staged_rows')->count());
        config(['baggage.migration.rows' => 99_999, 'baggage.migration.disk' => 1]);
        $again = $this->freeze($this->take($rows, 'v'));
        self::assertStringContainsString('take more than 1 MB of the disk, which is the most for one', (string) $again->error);
        $this->actingAs($this->user(Role::Lead));
        $file = UploadedFile::fake()->createWithContent('x.csv', "no,name\n1,a\n");
        $m = '/m/'.Migration::query()->value('id');
        $this->post("$m/sources/upload", ['source' => 1, 'file' => $file])->assertSessionHas('refused');
        config(['baggage.migration.disk' => 100]);
        $file = UploadedFile::fake()->createWithContent('x.csv', "no,name\n1,a\n");
        $page = (string) $this->post("$m/sources/upload", ['source' => 1, 'file' => $file])->headers->get('Location');
        $this->get($page)->assertReads('About 1 MB on the disk, where');
    }

    /** FS9: members that are harmless alone, and packed bytes that many members share. */
    public function test_an_archive_is_bounded_as_a_whole(): void
    {
        $path = self::work('many.zip');
        $names = array_map(fn ($n) => "$n.csv", range(1, 40));
        file_put_contents($path, HostileFilesTest::zip(array_fill_keys($names, str_repeat("a,b\n", 5000))));
        $says = function (Limits $limits) use ($path): string {
            Limits::set($limits);
            try {
                Parts::of($path, 'many.zip');
            } catch (ReadingError $e) {
                return $e->getMessage();
            } finally {
                Limits::set(new Limits);
            }

            return 'read';
        };
        self::assertSame('read', $says(new Limits));
        self::assertStringContainsString('would unpack to 800,000 bytes in all; 500 kB can be taken', $says(new Limits(archive: 500_000)));
        // Each of 20,000 bytes is harmless; all of them are not.
        self::assertStringContainsString('none of it is unpacked', $says(new Limits(harmless: 30_000, ratio: 20)));
        self::assertStringContainsString('holds 40 files; 39 can be taken', $says(new Limits(members: 39)));
    }

    /** FS7: what a view of somebody's file does is up to them, so it is run when it is asked for and not before. */
    public function test_views_of_a_file_are_run_only_when_chosen(): void
    {
        $m = "/m/{$this->migration()->id}";
        $this->actingAs($this->user(Role::Lead));
        $file = new UploadedFile($this->sqlite('SELECT name, 7 AS seven FROM small'), 'x.db', null, null, true);
        $page = (string) $this->post("$m/sources/upload", ['source' => 1, 'file' => $file])->headers->get('Location');
        $this->get($page)->assertReads('small')->assertReads('1 1 a')->assertDontSee('seven');
        $this->get("$page?part=1")->assertSee('seven');
        $this->post($page, ['all' => '1']);
        self::assertSame(['small'], Extract::query()->pluck('name')->all());
        $path = self::work('apart').'/only.db';
        @unlink($path);
        (new PDO("sqlite:$path"))->exec('CREATE VIEW alone AS SELECT 8 AS eight');
        $file = new UploadedFile($path, 'y.db', null, null, true);
        $page = (string) $this->post("$m/sources/upload", ['source' => 1, 'file' => $file])->headers->get('Location');
        $this->get($page)->assertReads('run only when it is chosen by itself')->assertDontSee('<th>eight', false);
        $this->get("$page?part=0")->assertSee('<th>eight', false);
    }

    public function test_what_lies_on_the_disk_is_listed_with_its_size_and_goes(): void
    {
        config(['baggage.apart.on' => false]);
        $m = "/m/{$this->migration()->id}";
        $this->actingAs($this->user(Role::Lead));
        foreach (['one.csv', 'two.csv'] as $name) {
            $file = UploadedFile::fake()->createWithContent($name, "no,name\n1,a\n");
            $pages[] = (string) $this->post("$m/sources/upload", ['source' => 1, 'file' => $file])->headers->get('Location');
        }
        $this->post($pages[0], ['name' => 'one', 'reader' => ['kind' => 'delimited']])->assertSessionHas('told');
        $this->get("$m/sources/files")->assertReads('two.csv S 12')->assertReads('one.csv S/one take 1 12');
        $this->delete($pages[1])->assertSessionHas('told');
        $this->delete($pages[1])->assertSessionHas('refused');
        $take = Take::query()->sole();
        $take->update(['state' => TakeState::Reading]);
        $this->delete("$m/sources/takes/$take->id/file")->assertSessionHas('refused');
        $take->update(['state' => TakeState::Frozen]);
        $this->delete("$m/sources/takes/$take->id/file")->assertSessionHas('told');
        self::assertFileDoesNotExist($take->file);
        self::assertSame(1, DB::table('staged_rows')->count());
        $this->get("$m/sources/files")->assertReads('not there any more')->assertDontSee('two.csv');
        // What lies elsewhere is somebody's own, and stays.
        file_put_contents($own = self::work('own.csv'), 'x');
        $take->update(['file' => $own]);
        $this->get("$m/sources/files")->assertDontSee('Remove the file');
        $this->delete("$m/sources/takes/$take->id/file")->assertSessionHas('refused');
        self::assertFileExists($own);
    }

    /** Thirty good files at once take longer than a page waits: those it did not come to wait for the worker, none is refused or lost. */
    public function test_of_many_files_at_once_none_is_lost(): void
    {
        $m = "/m/{$this->migration()->id}";
        $this->actingAs($this->user(Role::Lead));
        config(['queue.default' => 'database', 'baggage.apart.look.seconds' => 0.9]);
        $files = array_map(fn (int $n) => UploadedFile::fake()->createWithContent("f$n.csv", "no,name\n$n,a\n"), range(1, 12));
        $page = $this->post("$m/sources/upload", ['source' => 1, 'file' => $files])->assertSessionMissing('refused');
        $page = (string) $page->headers->get('Location');
        $this->post($page, ['name' => 'f1', 'reader' => ['kind' => 'delimited'], 'then' => 'all'])
            ->assertSessionHas('refused', fn (string $says) => str_contains($says, 'still being looked into'));
        self::assertSame(0, Take::query()->count());
        $waiting = DB::table('jobs')->where('queue', 'looks')->count();
        self::assertGreaterThan(6, $waiting);
        for (; $waiting > 0; $waiting--) {
            Artisan::call('queue:work', ['--once' => true, '--queue' => 'looks']);
        }
        $this->post($page, ['name' => 'f1', 'reader' => ['kind' => 'delimited'], 'then' => 'all'])->assertSessionMissing('refused');
        self::assertSame(12, Take::query()->count());
    }
}
