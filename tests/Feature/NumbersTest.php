<?php

namespace Tests\Feature;

use App\Ledger\CauseReader;
use App\Ledger\DueBook;
use App\Ledger\Links;
use App\Ledger\RowFilter;
use App\Ledger\RowList;
use App\Loading\WorkOutDue;
use App\Mapping\CheckLoad;
use App\Models\CheckState;
use App\Models\Load;
use App\Models\LoadCheck;
use App\Models\Role;
use App\Models\Round;
use App\Rejects\CauseGroup;
use App\Rejects\CauseList;
use App\Rejects\Repairs;
use Illuminate\Support\Facades\DB;
use Tests\TestCase;

/** Numbers on screens open exactly their rows: as many as they say, each once, in any size of pages. */
final class NumbersTest extends TestCase
{
    private Round $round;

    private string $m;

    /** @param  array<string, string|int>  $address */
    private function opens(array $address): int
    {
        $loads = array_map(intval(...), isset($address['load'])
            ? [$address['load']]
            : Load::query()->orderBy('id')->pluck('id')->all());
        $list = new RowList($this->round->laneId());
        $seen = [];
        foreach ([7, 1000] as $size) {
            $rows = [];
            $after = null;
            while (($page = $list->page($loads, RowFilter::of(array_map(strval(...), $address)), $after, $size)) !== []) {
                $last = end($page);
                $after = [(int) $last->load_id, (int) $last->row_no];
                array_push($rows, ...array_map(fn ($r) => "$r->load_id:$r->row_no", $page));
            }
            self::assertSame(array_values(array_unique($rows)), $rows, 'each once');
            $seen[] = $rows;
        }
        self::assertSame($seen[1], $seen[0], 'the same in pages of any size');
        // And the page itself lists the first of them.
        $shown = $this->get("$this->m/rows?".http_build_query($address))->assertOk();
        [$load, $row] = explode(':', $seen[0][0] ?? '0:0');
        $row === '0' ? $shown->assertSee('No such row.') : $shown->assertSee("$this->m/rows/$load/$row");

        return count($seen[0]);
    }

    public function test_groups_of_causes_references_and_the_check(): void
    {
        [$migration, $this->round] = $this->loadedDemo(self::smallDemo());
        $this->m = "/m/$migration->id";
        $this->actingAs($this->user(Role::Lead));
        $crosswalk = $migration->codeCrosswalks()->where('name', 'vessel types')->firstOrFail();
        app(Repairs::class)->mapCode($migration, $crosswalk, 'MFV', 'fishing');
        WorkOutDue::dispatch($migration->id);
        $causes = new CauseReader($this->round->laneId());
        $groups = (new CauseList($causes, new DueBook($this->round->laneId())))->groups(Load::query()->pluck('id')->all());
        $said = fn (string $of) => array_map(fn (CauseGroup $g) => $g->$of, $groups);
        $open = fn (string $which) => array_map(
            fn (CauseGroup $g) => $this->opens(['alike' => $g->id(), 'which' => $which] + ($which === 'below' ? [] : ['load' => $g->load])),
            $groups,
        );
        self::assertGreaterThan(10, count($groups));
        self::assertSame($said('own'), $open('own'));
        self::assertSame($said('held'), $open('below'));
        self::assertSame($said('due'), $open('due'));
        self::assertGreaterThan(0, array_sum($said('due')));
        $page = $this->get("$this->m/rejects")->assertOk();
        foreach ($groups as $group) {
            $page->assertSee('alike='.urlencode($group->id()));
        }
        $this->references();
        $this->check();
    }

    private function references(): void
    {
        $links = (new Links($this->round->laneId()))->counts();
        self::assertNotSame([], $links);
        foreach ($links as $link) {
            self::assertSame((int) $link->waiting, $this->opens(['load' => $link->load_id, 'waits' => $link->field]));
            self::assertSame((int) $link->made, $this->opens(['load' => $link->load_id, 'made' => $link->field]));
            self::assertSame((int) $link->waived, $this->opens(['load' => $link->load_id, 'open' => $link->field]));
        }
        self::assertGreaterThan(0, array_sum(array_column($links, 'waiting')));
        $this->get("$this->m/reconciliation")->assertSee('waits=', false)->assertSee('made=', false);
    }

    /** Rows outside the scope of a check. */
    private function check(): void
    {
        $load = Load::query()->where('name', 'Agreements')->firstOrFail();
        $check = LoadCheck::query()->create(['load_id' => $load->id, 'hash' => '', 'state' => CheckState::Queued]);
        CheckLoad::dispatch($check->id);
        $result = $check->refresh()->result;
        self::assertGreaterThan(0, $result['excluded']);
        $outside = DB::table('check_rows')->where('check_id', $check->id)->where('cause', 65_535);
        self::assertSame($result['excluded'], $outside->count());
        $this->get("$this->m/mapping/agreement?load=$load->id")->assertSee('/check/65535');
        $this->get("$this->m/mapping/loads/$load->id/check/65535")->assertOk()->assertReads('Outside the scope');
    }

    public function test_absurd_addresses_are_harmless(): void
    {
        $migration = $this->demoMigration(dirname($this->smallPlan("no,name\n1,a\n2,b\n", '{code: no, name: name}')));
        $this->round = $this->load($migration);
        $this->actingAs($this->user(Role::Lead));
        $m = "/m/$migration->id";
        foreach (
            [
                'rows?outcome=nonsense', 'rows?cause=-1', 'rows?cause=99999999999999999999', 'rows?alike=a~b',
                "rows?alike=1~'~\"~%", 'rows?alike=1~a~b~c&which=zz',
                'rows?load=999', 'rows?after=1:x', 'rows?after=99:99', 'rows?load=1&from=-5', 'rows?load=1&from=99999999999',
                'rows?waits=%27',
                'rejects?show=nonsense', 'rejects?cause=%00', 'rejects?causes-page=99999999999999999999',
                'rejects?causes-sort=--own',
                'rejects?causes-own=..', 'rejects?causes-own=%3E', 'crosswalks?code=zz', 'crosswalks?code=keys&after=1+2',
                'crosswalks?code=keys&after=9+9+K',
                'sources?extracts-rows=1..2..3&extracts-sort=rows', 'reconciliation?entities-csv=1',
                'reconciliation?loads-csv=', 'gaps?lost-csv=1', 'trace?found-csv=1',
            ] as $address
        ) {
            self::assertSame(200, $this->get("$m/$address")->baseResponse->getStatusCode(), $address);
        }
        $this->get("$m/rows?outcome[]=x")->assertStatus(400);
        $this->get("$m/rejects?causes-own[]=x")->assertStatus(400);
        // Nor is what no page in UTF-8 sends: in a value, in a name, deep in a list.
        $this->get("$m/rows?outcome=%FF")->assertStatus(400);
        $this->post("$m/total", ['name' => "Bad\xFF\xFEname"])->assertStatus(400);
        $this->post("$m/total", ["na\xFFme" => 'x'])->assertStatus(400);
        $this->post("$m/total", ['legacy' => ['x' => "\xC3\x28"]])->assertStatus(400);
        $this->post('/login', ['email' => "\xFF"])->assertStatus(400);
        // One name in the address and in what is sent hides nothing.
        $this->post("$m/total?name=x", ['name' => ['x']])->assertStatus(400);
        $this->get("$m/works/999")->assertNotFound();
    }
}
