<?php

namespace Tests\Feature;

use App\Loading\PassRunner;
use App\Loading\Rounds;
use App\Mapping\Shelf;
use App\Models\ChangeList;
use App\Models\CodeCrosswalk;
use App\Models\Extract;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Pass;
use App\Models\PassKind;
use App\Models\Role;
use App\Models\Round;
use App\Support\Meanwhile;
use App\View\Page;
use App\View\RecordSent;
use App\View\Say;
use Illuminate\Http\UploadedFile;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Queue;
use Tests\TestCase;

/** What the screens show of a loaded demo, against the ledger and the target themselves. */
final class ScreensTest extends TestCase
{
    private Migration $migration;

    private Round $round;

    private string $m;

    protected function setUp(): void
    {
        parent::setUp();
        // A fifth of the demo is enough where no planted number is asked for.
        $whole = in_array(
            $this->name(),
            [
                'test_the_rows_behind_a_number_are_paged_without_a_gap',
                'test_a_cause_is_opened_and_repaired_in_place',
                'test_records_shown_are_the_records_written',
            ],
            true,
        );
        [$this->migration, $this->round] = $this->loadedDemo($whole ? null : self::smallDemo());
        $this->m = "/m/{$this->migration->id}";
        $this->actingAs($this->user(Role::Lead));
    }

    private function named(string $load): Load
    {
        return Load::query()->where('name', $load)->firstOrFail();
    }

    /** @return array<string, int> outcome → rows, by the ledger alone */
    private function ledger(int $load): array
    {
        return $this->lines()
            ->where('round_id', $this->round->id)
            ->where('load_id', $load)
            ->groupBy('outcome')
            ->selectRaw('outcome, COUNT(*) AS n')
            ->pluck('n', 'outcome')
            ->map(fn ($n) => (int) $n)
            ->all();
    }

    public function test_every_number_of_the_count_proof_opens_exactly_its_rows(): void
    {
        $page = (string) $this->get("$this->m/reconciliation")
            ->assertOk()
            ->assertSee('Every row is accounted for')
            ->getContent();
        preg_match_all(
            '~href="([^"]*/rows/[a-z_]+\?load=(\d+)&(?:amp;)?outcome=([a-z]+))">([\d,]+)</a>~',
            $page,
            $links,
            PREG_SET_ORDER,
        );
        self::assertGreaterThan(15, count($links));
        foreach ($links as [, $href, $load, $outcome, $shown]) {
            $n = (int) str_replace(',', '', $shown);
            self::assertSame($this->ledger((int) $load)[$outcome], $n, "$load $outcome");
            $first = (string) $this->get(html_entity_decode($href))->assertOk()->getContent();
            self::assertSame(
                min(50, $n),
                preg_match_all('~<a class="tag[^>]*data-journey~', $first) ?: substr_count($first, '<tr class="hit">'),
                "$load $outcome",
            );
        }
    }

    public function test_loads_that_share_keys_are_set_alike(): void
    {
        $vessels = $this->named('Vessels');
        $second = $this->migration->loads()->create([
            'name' => 'Second', 'entity_id' => $vessels->entity_id, 'extract_id' => $vessels->extract_id, 'position' => 90,
            'key_columns' => ['craft_no'],
        ]);
        $this->post("$this->m/mapping/loads/$second->id", [
            'key' => ['craft_no'],
            'key_normalisation' => 'number', 'policy' => 'create',
        ])->assertSessionHas('told', 'Kept. Keys are compared alike in Vessels now, which shares them.');
        self::assertSame('number', $this->named('Vessels')->key_normalisation->value);
    }

    public function test_the_rail_says_how_many_rows_there_are(): void
    {
        $this->get("$this->m/sources")->assertReads('All entities 2,117')->assertReads('Vessel 180');
    }

    public function test_the_rows_behind_a_number_are_paged_without_a_gap(): void
    {
        $load = $this->named('Invoices');
        $seen = [];
        $next = "$this->m/rows/invoice?load=$load->id&outcome=held";
        for ($i = 0; $i < 10 && $next !== null; $i++) {
            $page = (string) $this->get($next)->assertOk()->getContent();
            preg_match_all("~/rows/$load->id/(\d+)~", $page, $rows);
            $seen = [...$seen, ...array_map(intval(...), $rows[1])];
            $next = preg_match('~href="([^"]*after=[^"]+)"~', $page, $m) === 1 ? html_entity_decode($m[1]) : null;
        }
        $expected = $this->lines()
            ->where('load_id', $load->id)
            ->where('outcome', 'held')
            ->orderBy('row_no')
            ->pluck('row_no')
            ->map(fn ($n) => (int) $n)
            ->all();
        self::assertSame($expected, array_values(array_unique($seen)));
    }

    public function test_a_key_is_found_from_either_side(): void
    {
        $vessel = $this->lines()
            ->where('load_id', $this->named('Vessels')->id)
            ->whereNotNull('target_key')
            ->orderBy('row_no')
            ->first();
        self::assertNotNull($vessel);
        $journey = "$this->m/rows/$vessel->load_id/$vessel->row_no";
        $this->get("$this->m/trace?q=".urlencode($vessel->legacy_key))->assertRedirect($journey);
        $this->get("$this->m/trace?q=".urlencode("BB $vessel->legacy_key"))->assertRedirect($journey);
        $this->get("$this->m/trace?q=nothing-like-it")
            ->assertOk()
            ->assertSee('nothing-like-it');
        $this->get($journey)
            ->assertSee($vessel->legacy_key)
            ->assertSee($vessel->target_key)
            ->assertSee('What each rule made of it');
        $this->get("$this->m/crosswalks?key=".urlencode(substr($vessel->legacy_key, 0, 4)))->assertSee(
            $vessel->legacy_key,
        );
        $this->get("$this->m/crosswalks/vessel?key=$vessel->target_key")->assertSee($vessel->legacy_key);
        $this->get("$this->m/crosswalks?key=no-such-key")->assertSee('No key of this round begins so');
    }

    /** The record shown before a run is the record that stands in the target after it. */
    public function test_records_shown_are_the_records_written(): void
    {
        $page = Page::of($this->migration, 'mapping', 'vessel');
        $load = $page->definitions->one(Load::query()->findOrFail($page->loads()->firstOrFail()->id));
        $rows = $this->lines()
            ->where('load_id', $load->id)
            ->where('outcome', 'loaded')
            ->orderBy('row_no')
            ->limit(200)
            ->pluck('target_key', 'row_no');
        self::assertCount(200, $rows);
        $fields = ['name', 'registration', 'owner', 'type', 'built', 'length_m', 'draught_m'];
        $written = [];
        foreach (
            $this->target()
                ->query('SELECT id, '.implode(', ', $fields).' FROM vessel')
                ->fetchAll(\PDO::FETCH_ASSOC) as $record
        ) {
            $written[$record['id']] = array_diff_key($record, ['id' => 0]);
        }
        $staged = DB::table('staged_rows')
            ->where('take_id', $load->extract->take_id)
            ->whereIn('row_no', $rows->keys())
            ->pluck('cells', 'row_no');
        foreach ($rows as $row => $key) {
            $sent = RecordSent::of($page, $load, (int) $row, json_decode($staged[$row], true));
            self::assertNull($sent['journey']?->cause);
            $shown = array_map(
                fn (string $f) => $sent['record'][$f]['target'] ?? $sent['record'][$f]['value'],
                array_combine($fields, $fields),
            );
            self::assertSame($written[$key], $shown, "row $row");
        }
    }

    public function test_a_cause_is_opened_and_repaired_in_place(): void
    {
        $vessels = $this->named('Vessels');
        $this->get("$this->m/rejects/vessel")->assertReads('35 rows rejected, 15 held');
        $codes = "$this->m/rejects/vessel?cause=$vessels->id~mapping~no_new_value~type";
        $this->get($codes)->assertSee('MFV')->assertSee('X?');
        $crosswalk = CodeCrosswalk::query()->where('name', 'vessel types')->firstOrFail();
        $this->post("$this->m/crosswalks/codes/$crosswalk->id", [
            'old' => 'MFV',
            'new' => 'fishing',
        ])->assertSessionHas('told', '"MFV" becomes "fishing".');
        $this->post("$this->m/crosswalks/codes/$crosswalk->id", ['old' => 'X?', 'is' => 'reject'])->assertSessionHas(
            'told',
        );

        $this->cellsValuesAndWaivers($vessels);
    }

    private function cellsValuesAndWaivers(Load $vessels): void
    {
        // A cell, a value for all rows of a cause, and a waiver with its reason.
        $cause = fn (string $code) => DB::table('causes')
            ->where('load_id', $vessels->id)
            ->where('code', $code)
            ->orderBy('id')
            ->first();
        $date = $cause('not_a_date');
        $this->get("$this->m/rejects/vessel?cause=$vessels->id~mapping~not_a_date~built")->assertSee('31/02/2003');
        $this->repaired("$this->m/rejects/loads/$vessels->id", 'correct', [
            'cause' => $date->id,
            'header' => 'NOPE',
            'new' => 'x',
        ])->assertSessionHas('refused');
        $this->repaired("$this->m/rejects/loads/$vessels->id", 'correct', [
            'cause' => $date->id,
            'header' => 'BUILT',
            'new' => '28/02/2003',
            'reason' => 'the log says so',
        ])->assertSessionHas('told', '7 rows corrected.');
        $row = $this->lines()
            ->where('load_id', $vessels->id)
            ->where('cause_id', $cause('too_long')->id)
            ->value('row_no');
        $this->repaired("$this->m/rejects/loads/$vessels->id", 'correct', [
            'row' => 999999,
            'header' => 'CRAFT_NAME',
            'new' => 'x',
        ])->assertSessionHas('refused');
        $this->repaired("$this->m/rejects/loads/$vessels->id", 'correct', [
            'row' => $row,
            'header' => 'CRAFT_NAME',
            'new' => 'Her Majesty',
            'reason' => 'short name',
        ])->assertSessionHas('told');
        $this->get("$this->m/rows/$vessels->id/$row")
            ->assertSee('Her Majesty')
            ->assertSee('short name');
        $codes = $this->lines()->whereIn('cause_id', DB::table('causes')->whereIn('value', ['MFV', 'X?'])->pluck('id'))->count();
        $this->get("$this->m/rejects/vessel")->assertReads('Load '.($codes + 8).' rows again');
        $orphan = $cause('orphan');
        $alike = $this->lines()->where('cause_id', $orphan->id)->count();
        $this->repaired("$this->m/rejects/loads/$vessels->id", 'stay', [
            'cause' => $orphan->id,
            'reason' => '',
        ])->assertSessionHasErrors('reason');
        $this->repaired("$this->m/rejects/loads/$vessels->id", 'stay', [
            'cause' => $orphan->id,
            'reason' => 'nobody knows the owner',
        ])->assertSessionHas('told', Say::count($alike, 'row').' waived.');

        $this->loadedAgain($vessels, $alike);
    }

    private function loadedAgain(Load $vessels, int $alike): void
    {
        $pass = $this->app->make(Rounds::class)->pass($this->round, PassKind::Retry);
        PassRunner::of($pass, 0)->work();
        $after = $this->ledger($vessels->id);
        // Repaired: 7 dates, a name, and the 7 fishing boats that have a type now.
        self::assertSame([850 + 15, $alike], [$after['loaded'], $after['waived']]);
        self::assertSame(900, array_sum($after));
        $this->get("$this->m/rejects/vessel")->assertSee('Required, and the rule gives nothing');
    }

    public function test_rounds_are_begun_looked_at_and_stopped(): void
    {
        Queue::fake();
        $target = $this->migration->targets()->firstOrFail();
        $begin = fn (array $form) => $this->post(
            "$this->m/runs/rounds",
            $form + ['kind' => 'rehearsal', 'target' => $target->id],
        );
        $begin(['name' => 'Not So'])->assertSessionHasErrors('name');
        $begin(['name' => 'rehearsal-1'])->assertSessionHas('refused', 'There is a round named "rehearsal-1" already.');
        $begin(['name' => 'rehearsal-2'])->assertSessionHas('inUse');
        self::assertSame(1, Round::query()->count(), 'told before it starts');
        Artisan::call('baggage:demo-reset');
        $begin(['name' => 'rehearsal-2'])->assertRedirect("$this->m/runs");
        $second = Round::query()->where('name', 'rehearsal-2')->firstOrFail();
        self::assertSame(
            [['0']],
            $this->targetRows('SELECT COUNT(*) FROM vessel'),
            'the stand-in is as it was delivered',
        );
        $this->get("$this->m/runs")->assertSee('Rehearsal 2');
        // Two at a time are not to be had; a stop before a worker takes it up ends it.
        $this->post("$this->m/runs/again")->assertSessionHas('refused');
        $pass = Pass::query()->where('round_id', $second->id)->firstOrFail();
        $this->get("$this->m/runs/strip")
            ->assertOk()
            ->assertHeaderMissing('HX-Trigger');
        $this->post("$this->m/passes/$pass->id/pause")->assertRedirect();
        self::assertSame('stopped', $pass->refresh()->state->value);
        $this->get("$this->m/runs/strip")->assertHeader('HX-Trigger', 'figures-are-old');
        $this->post("$this->m/passes/$pass->id/resume")->assertRedirect();
        self::assertSame('queued', $pass->refresh()->state->value);
        PassRunner::of($pass, 0)->work();
        self::assertSame('finished', $pass->refresh()->state->value);
        $this->theFirstIsStillThere($pass);
    }

    private function theFirstIsStillThere(Pass $pass): void
    {
        $this->post("$this->m/runs/look", ['round' => $this->round->id])->assertRedirect();
        $this->get("$this->m/runs")->assertSee('<h1>Rehearsal 1</h1>', false);
        $this->actingAs($this->user(Role::Auditor))
            ->post("$this->m/passes/$pass->id/pause")
            ->assertForbidden();
        $this->post("$this->m/passes/$pass->id/end")->assertForbidden();
    }

    public function test_a_target_that_is_gone_is_named_where_it_is_needed(): void
    {
        $this->migration->targets()->update(['port' => '9']);
        foreach (['target', 'target/tables'] as $stop) {
            $this->get("$this->m/$stop")
                ->assertOk()
                ->assertSee('No database answers at ${HARBOUR_OFFICE_HOST} port 9');
        }
        $this->get("$this->m/reconciliation")->assertOk()->assertDontSee('could not be counted');
        $this->post("$this->m/reconciliation/count");
        $this->get("$this->m/reconciliation")
            ->assertOk()
            ->assertSee('The target could not be counted');
        $this->post("$this->m/target/read")->assertSessionHas('refused');
        $this->post("$this->m/runs/rounds", [
            'name' => 'rehearsal-9',
            'kind' => 'rehearsal',
            'target' => $this->migration->targets()->value('id'),
        ])->assertSessionHas('refused');
        self::assertSame(1, Round::query()->count());
    }

    public function test_migrations_are_begun_and_plans_go_out_and_come_in(): void
    {
        $this->get('/')->assertSee('Orrin Sound Harbours');
        $form = [
            'name' => 'Next client',
            'target_name' => 'new office',
            'host' => '127.0.0.1',
            'port' => (string) getenv('DB_PORT'),
            'database' => (string) getenv('HARBOUR_OFFICE_DATABASE'),
            'username' => 'harbour',
            'password' => 'secret-of-the-client',
        ];
        $this->post('/migrations', $form)->assertRedirect();
        $next = Migration::query()->where('name', 'Next client')->firstOrFail();
        self::assertStringNotContainsString(
            'secret-of-the-client',
            (string) DB::table('targets')->where('migration_id', $next->id)->value('password'),
        );
        $this->post('/migrations', $form)->assertRedirect();
        self::assertSame(1, Migration::query()->where('name', 'Next client')->count());
        $plan = (string) $this->get("$this->m/plan")
            ->assertOk()
            ->getContent();
        self::assertStringContainsString('migration: ', $plan);
        self::assertStringNotContainsString((string) getenv('HARBOUR_OFFICE_PASSWORD'), $plan);
        $this->plansComeIn($form, $plan);
    }

    private function plansComeIn(array $form, string $plan): void
    {
        $upload = fn (string $text) => $this->post('/plans', [
            'plan' => UploadedFile::fake()->createWithContent('plan.yaml', $text),
        ]);
        $upload("baggage: 1\nmigration: x\n")->assertSessionHas('refused');
        // Names from the environment are not filled in here; the copy is begun with its own way into the target.
        $upload(str_replace('Orrin Sound Harbours', 'A copy', $plan))->assertSessionHas('refused');
        $copy = ['name' => 'A copy', 'password' => (string) getenv('HARBOUR_OFFICE_PASSWORD')] + $form;
        $this->post('/migrations', $copy)->assertRedirect();
        $said = array_map(fn ($part) => "/$part: .*HARBOUR_OFFICE.*\n/", ['host', 'port', 'database', 'username']);
        $given = ["host: $copy[host]\n", "port: '$copy[port]'\n", "database: $copy[database]\n", "username: $copy[username]\n"];
        $upload(str_replace('Orrin Sound Harbours', 'A copy', (string) preg_replace($said, $given, $plan)))
            ->assertSessionMissing('refused');
        // Begun on a screen, it is not changed before somebody has looked at each change.
        $list = ChangeList::query()->latest('id')->firstOrFail();
        self::assertSame(0, Migration::query()->where('name', 'A copy')->firstOrFail()->loads()->count());
        $this->get("/m/$list->migration_id/changes/$list->id")->assertOk()->assertReads('application (changed here too)');
        $this->post("/m/$list->migration_id/changes/$list->id", ['do' => 'accept', 'accept' => array_keys($list->changes)])
            ->assertSessionMissing('refused');
        self::assertSame(
            $this->migration->loads()->count(),
            Migration::query()->where('name', 'A copy')->firstOrFail()->loads()->count(),
        );
        $this->actingAs($this->user(Role::Auditor))->post('/migrations', $form)->assertForbidden();
    }

    public function test_loads_are_made_set_and_removed(): void
    {
        $m = "$this->m/mapping";
        $extract = Extract::query()->where('name', 'craft')->firstOrFail();
        $this->post("$m/loads", [
            'entity' => 'vessel',
            'extract' => $extract->id,
            'name' => 'Vessels',
        ])->assertSessionHas('refused');
        $this->post("$m/loads", [
            'entity' => 'vessel',
            'extract' => $extract->id,
            'name' => 'Second',
        ])->assertRedirect();
        $load = $this->named('Second');
        $set = fn (array $form) => $this->post(
            "$m/loads/$load->id",
            $form + [
                'key' => ['craft_no'],
                'key_normalisation' => 'trim',
                'policy' => 'create',
            ],
        );
        $set(['scope' => "craft_type == 'TUG'"])->assertSessionHas(
            'refused',
            'Say why the other rows are left out; the reason stands on the count proof.',
        );
        $set(['scope' => 'craft_typ == 1', 'scope_reason' => 'x'])->assertSessionHas('refused');
        $set([
            'scope' => "craft_type == 'TUG'",
            'scope_reason' => 'only tugs',
            'policy' => 'create_or_update',
            'match_field' => ['name', '', 'nothing'],
            'match_how' => ['letters', 'exact', 'exact'],
        ])->assertSessionHas('told', 'Kept.');
        self::assertSame(['name'], $load->refresh()->match_rules);
        self::assertSame(['name' => 'letters'], $load->matches()->first()?->on);
        // Somebody else, who had it open since before.
        $was = Meanwhile::shown(['scope' => '', 'policy' => 'create_or_update'], ['scope', 'policy']);
        $set(['was' => $was, 'scope' => "craft_type == 'BARGE'", 'scope_reason' => 'only barges', 'policy' => 'create_or_update'])
            ->assertSessionHas('lost', [
                ['what' => 'Only rows where', 'theirs' => "craft_type == 'TUG'", 'mine' => "craft_type == 'BARGE'"],
            ]);
        $this->get("$m/vessel?load=$load->id")
            ->assertSee('only tugs')
            ->assertSee('matched by name');
        $this->delete("$this->m/mend/load/$load->id")->assertRedirect("$this->m/mapping");
        $this->delete("$this->m/mend/load/{$this->named('Vessels')->id}")->assertSessionHas('refused');

        $this->theWayOfAColumn($m, $extract);
    }

    private function theWayOfAColumn(string $m, Extract $extract): void
    {
        // A column's way: mapped from the shelf, or left behind, or taken up again.
        $vessels = $this->named('Vessels');
        $this->post("$m/loads/$vessels->id/map", ['column' => 'survey_dt', 'field' => 'name'])->assertSessionHas(
            'refused',
        );
        $this->post("$m/loads/$vessels->id/map", [
            'column' => 'survey_dt',
            'field' => 'insured_until',
        ])->assertRedirect();
        $columns = "$m/extracts/$extract->id/columns";
        $this->post($columns, ['header' => 'OLD_NO', 'reason' => 'card index']);
        $this->get("$m/vessel?columns=left")->assertReads('Left behind: card index');
        $this->get("$m/vessel?columns=used")
            ->assertSee('Vessels, insured_until')
            ->assertSee('key of Vessels');
        $this->post($columns, ['header' => 'OLD_NO', 'undo' => 1]);
        $this->get("$m/vessel?show=open")
            ->assertSee('0 without a decision')
            ->assertSee('1 undecided');
    }

    public function test_extracts_that_no_load_reads_want_a_decision(): void
    {
        Load::query()
            ->whereIn('id', [$this->named('Invoices')->id])
            ->update(['extract_id' => Extract::query()->where('name', 'agreement')->value('id')]);
        $invoice = Extract::query()->where('name', 'invoice')->firstOrFail();
        $unread = fn () => array_map(
            fn (Extract $e) => [$e->name, $e->not_loaded],
            (new Shelf(Page::of($this->migration, 'mapping')->definitions))->unread(),
        );
        self::assertContains(['invoice', null], $unread());
        $this->get("$this->m/mapping")->assertReads('no load reads, without a decision');
        $this->post("$this->m/mapping/extracts/$invoice->id/not-loaded", ['reason' => 'accounts stay where they are']);
        self::assertContains(['invoice', 'accounts stay where they are'], $unread());
        $this->get("$this->m/mapping/document")->assertSee('accounts stay where they are');
        $this->post("$this->m/mapping/extracts/$invoice->id/not-loaded", ['reason' => '']);
        self::assertContains(['invoice', null], $unread());
    }
}
