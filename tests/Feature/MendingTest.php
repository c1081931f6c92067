<?php

namespace Tests\Feature;

use App\Models\ClientFile;
use App\Models\CodeCrosswalk;
use App\Models\Extract;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Role;
use App\Models\Round;
use App\Models\Take;
use App\Plans\Headless;
use Illuminate\Http\UploadedFile;
use Illuminate\Support\Facades\DB;
use Illuminate\Testing\TestResponse;
use Standins\HarbourOffice;
use Symfony\Component\Yaml\Yaml;
use Tests\TestCase;

/** A12: what was added by mistake is renamed, corrected or removed; what hangs on it is shown first. */
final class MendingTest extends TestCase
{
    private Migration $migration;

    private string $m;

    protected function setUp(): void
    {
        parent::setUp();
        $this->migration = $this->demoMigration(self::smallDemo());
        $this->m = "/m/{$this->migration->id}/mend";
        $this->actingAs($this->user(Role::Lead));
    }

    /** @return TestResponse<\Symfony\Component\HttpFoundation\Response> */
    private function page(string $at): TestResponse
    {
        return $this->get("$this->m/$at")->assertOk();
    }

    public function test_renaming_keeps_everything_running(): void
    {
        $before = $this->load($this->migration, 'rehearsal-1');
        $source = $this->migration->sources()->where('code', 'BB')->firstOrFail();
        $this->post("$this->m/source/$source->id", ['code' => 'BX'])
            ->assertSessionHas('refused', fn (string $why) => str_contains($why, 'keep legacy keys under this code'));
        $this->post("$this->m/source/$source->id", ['name' => 'Berth book', 'notes' => 'since 1998'])->assertSessionHas('told');
        $this->post("$this->m/source/$source->id", ['name' => 'Berth book'])
            ->assertSessionHas('refused', 'It says that already; nothing was changed.');
        foreach (Extract::query()->with('source')->get() as $extract) {
            $this->post("$this->m/extract/$extract->id", ['name' => "$extract->name two"])->assertSessionHas('told');
        }
        $codes = CodeCrosswalk::query()->where('name', 'vessel types')->firstOrFail();
        $this->page("codes/$codes->id")->assertReads('Vessels, type. Renamed, they name it anew.');
        $this->post("$this->m/codes/$codes->id", ['name' => 'kinds of craft'])->assertSessionHas('told');
        self::assertSame("code('kinds of craft', craft_type)", DB::table('rules')->where('field', 'type')->value('expression'));
        $load = Load::query()->where('name', 'Vessels')->firstOrFail();
        $this->post("$this->m/load/$load->id", ['name' => 'Boats', 'note' => 'all that floats'])->assertSessionHas('told');
        $this->post("$this->m/round/$before->id", ['name' => 'first-try'])->assertSessionHas('told');
        $this->post("$this->m/migration/{$this->migration->id}", ['name' => 'Harbours'])->assertSessionHas('told');
        // Feeds find what they are made of, rules their codes, and a round does what the one before did.
        HarbourOffice::reset($this->target());
        $after = $this->load($this->migration->refresh(), 'rehearsal-2');
        $count = fn (Round $r) => DB::table('tallies')->where('lane_id', $r->laneId())->where('n', '>', 0)
            ->orderBy('load_id')->orderBy('outcome')->get(['load_id', 'outcome', 'n'])->all();
        self::assertEquals($count($before), $count($after));
        foreach (['sources', 'mapping', 'crosswalks', 'runs', 'rejects'] as $stop) {
            $this->get("/m/{$this->migration->id}/$stop")->assertOk();
        }
        $this->get('/')->assertReads('Harbours');
    }

    public function test_what_is_needed_stays_and_says_so_and_what_is_not_goes(): void
    {
        $round = $this->load($this->migration);
        $load = Load::query()->where('name', 'Vessels')->firstOrFail();
        $codes = CodeCrosswalk::query()->where('name', 'vessel types')->firstOrFail();
        foreach ([
            "load/$load->id" => 'has outcomes of it',
            "extract/$load->extract_id" => 'reads BB/craft',
            "take/{$load->extract->take_id}" => 'works on it',
            "source/{$load->extract->source_id}" => 'reads BB/craft',
            "codes/$codes->id" => 'uses it: change the rule first',
        ] as $at => $why) {
            $this->page($at)->assertReads($why)->assertDontSee('This cannot be taken back');
            $this->delete("$this->m/$at")->assertSessionHas('refused', fn (string $said) => str_contains($said, $why));
        }
        // A take that nothing works on goes, and the extract is back at the one before.
        $first = $load->extract->take_id;
        $second = $this->frozenAgain($load->extract);
        self::assertSame($second->id, $load->extract->refresh()->take_id);
        $this->page("take/$second->id")->assertReads('goes back to take 1');
        $this->delete("$this->m/take/$second->id")->assertSessionHas('told');
        self::assertSame($first, $load->extract->refresh()->take_id);
        self::assertSame(0, DB::table('staged_rows')->where('take_id', $second->id)->count());
        // The round goes with its ledger; then the load does, and its extract and codes.
        $this->page("round/$round->id")->assertReads('What it wrote stays in the target');
        $this->delete("$this->m/round/$round->id")->assertSessionHas('told');
        self::assertSame(0, DB::table('outcomes')->count() + DB::table('causes')->count() + DB::table('passes')->count());
        Load::query()->where('name', '<>', 'Vessels')->get()->each(fn (Load $l) => $this->delete("$this->m/load/$l->id"));
        foreach (["load/$load->id", "codes/$codes->id"] as $at) {
            $this->delete("$this->m/$at")->assertSessionMissing('refused')->assertSessionHas('told');
        }
        $this->page("extract/$load->extract_id")->assertReads('This cannot be taken back');
        $this->delete("$this->m/extract/$load->extract_id")->assertSessionHas('told');
        self::assertNull(Extract::query()->find($load->extract_id));
        self::assertSame(0, DB::table('staged_rows')->where('take_id', $first)->count());
        $this->get("/m/{$this->migration->id}/log")->assertReads('removed the round');
    }

    private function frozenAgain(Extract $extract): Take
    {
        $take = $extract->newTake(['file' => $extract->take?->file, 'file_name' => 'craft.csv', 'bytes' => 10]);
        $this->app->make(\App\Freezing\Freezer::class)->freeze($take);
        self::assertNull($take->refresh()->error);

        return $take;
    }

    /** Nothing of a migration that was removed is left in any table. */
    public function test_a_migration_goes_with_everything(): void
    {
        $kept = ['users', 'login_sessions', 'cache', 'cache_locks', 'sessions', 'schema_migrations', 'settings', 'turns'];
        $tables = array_column(DB::select(
            "SELECT table_name AS t FROM information_schema.tables WHERE table_schema = DATABASE() AND table_type = 'BASE TABLE'",
        ), 't');
        $round = $this->load($this->migration);
        $load = Load::query()->where('name', 'Vessels')->firstOrFail();
        $cause = (int) DB::table('cause_tallies as t')->join('causes as c', 'c.id', '=', 't.cause_id')->where('c.load_id', $load->id)
            ->where('t.outcome', 'rejected')->where('c.code', 'not_a_date')->value('c.id');
        $at = "/m/{$this->migration->id}/rejects/loads/$load->id";
        $this->repaired($at, 'correct', ['cause' => $cause, 'header' => 'BUILT', 'new' => '01/01/2001'])->assertSessionHas('told');
        $this->repaired($at, 'stay', ['row' => $this->lines()->where('load_id', $load->id)->where('outcome', 'rejected')->value('row_no'),
            'reason' => 'x'])->assertSessionHas('told');
        $this->answered($load);
        $this->page("migration/{$this->migration->id}")->assertReads('What was written into targets stays there.');
        $this->delete("$this->m/migration/{$this->migration->id}")->assertRedirect('/')->assertSessionHas('told');
        $left = [];
        foreach (array_diff($tables, $kept) as $table) {
            $n = DB::table($table)->count();
            $left += $n === 0 ? [] : [$table => $n];
        }
        unset($left['audit_entries']);
        self::assertSame([], $left);
        $this->get('/')->assertOk();
        self::assertGreaterThan(0, (int) $this->target()->query('SELECT COUNT(*) FROM vessel')->fetchColumn());
    }

    /** A file went to the client and came back with a remark and a cell changed. */
    private function answered(Load $load): void
    {
        $this->post("/m/{$this->migration->id}/rejects/files", ['format' => 'csv', 'of' => $load->id])->assertRedirect();
        $file = ClientFile::query()->firstOrFail();
        $text = str_replace(',A-99999,', ',A-1,', (string) file_get_contents($file->path()));
        $text = (string) preg_replace('/,,('.$file->code.'-)/', ',ask her,$1', $text, 1);
        $this->post("/m/{$this->migration->id}/rejects/answers", ['answer' => UploadedFile::fake()->createWithContent('back.csv', $text)]);
        self::assertSame([1, 1], [DB::table('row_remarks')->count(), (int) DB::table('answer_changes')->exists()]);
    }

    /** FU3: a failed upload nobody uses blocks nothing. */
    public function test_an_extract_nothing_reads_may_fail(): void
    {
        $plan = $this->smallPlan("no,name\n1,a\n", '{name: name, code: no}');
        $text = Yaml::parseFile($plan);
        $text['sources'][0]['extracts'][] = ['name' => 'broken', 'file' => 'broken.csv'];
        file_put_contents(dirname($plan).'/broken.csv', '');
        file_put_contents($plan, Yaml::dump($text, 9));
        $headless = $this->app->make(Headless::class);
        $migration = $headless->import($plan);
        $told = [];
        $headless->freeze($migration, $plan, function (Extract $extract, Take $take) use (&$told) {
            $told[$extract->name] = $take->state->value;
        });
        self::assertSame(['file' => 'frozen', 'broken' => 'failed'], $told);
    }
}
