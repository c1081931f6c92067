<?php

namespace Tests\Feature;

use App\Models\Migration;
use App\Models\Pass;
use App\Models\Role;
use App\Models\Target;
use Illuminate\Support\Facades\DB;
use Tests\TestCase;

/** Runs says what it will load and loads that: all entities, or the one that was chosen. */
final class RunsOfOneEntityTest extends TestCase
{
    private Migration $migration;

    private string $m;

    protected function setUp(): void
    {
        parent::setUp();
        $this->migration = $this->demoMigration();
        $this->m = "/m/{$this->migration->id}";
        $this->actingAs($this->user(Role::Lead));
    }

    private function begin(array $more): void
    {
        $this->post("$this->m/runs/rounds", $more + [
            'name' => 'rehearsal-1',
            'kind' => 'rehearsal',
            'target' => Target::query()->value('id'),
            'parameters' => ['cutover_date' => '2026-12-31'],
        ])->assertRedirect("$this->m/runs")->assertSessionHasNoErrors()->assertSessionMissing('refused');
    }

    public function test_one_entity_alone_and_the_others_afterwards(): void
    {
        $this->get("$this->m/runs")->assertReads('Load 10,449 rows')->assertDontSee('alone');
        $this->get("$this->m/runs/harbour")->assertReads('Load 10,449 rows of all entities')->assertReads('Load 7 rows of Harbour alone');
        $this->begin(['only' => 'harbour']);
        $loaded = DB::table('tallies')->join('loads', 'loads.id', '=', 'load_id')->where('outcome', 'loaded')->pluck('n', 'loads.name');
        self::assertEquals(['Harbours' => 7], $loaded->map(fn ($n) => (int) $n)->all());
        $this->get("$this->m/runs")->assertReads('not asked for too');
    }

    /** The strip brings the table of the passes with it, from the same figures; of the chosen entity where one is. */
    public function test_strip_and_table_agree(): void
    {
        $this->begin([]);
        $pass = Pass::query()->firstOrFail();
        $done = (int) $pass->passLoads()->sum('rows_done');
        $strip = $this->get("$this->m/runs/strip?pass=$pass->id&passes=1")->assertOk();
        $strip->assertReads(number_format($done).' of '.number_format($done).' rows')->assertSee('hx-swap-oob="outerHTML"', false);
        $strip->assertSee('Vessels');
        $this->get("$this->m/runs/strip?pass=$pass->id&passes=1&entity=harbour")->assertOk()->assertSee('Harbours')
            ->assertDontSee('<td>Vessels', false);
        $this->get("$this->m/runs/strip?pass=$pass->id")->assertOk()->assertDontSee('id="passes"', false);
        $this->get("$this->m/runs/strip?pass=$pass->id&passes=1&entity=nothing")->assertNotFound();
    }

    public function test_what_is_due_is_loaded_again_for_the_entity_chosen_or_for_all(): void
    {
        $this->begin([]);
        $codes = $this->migration->codeCrosswalks()->pluck('id', 'name');
        $this->post("$this->m/crosswalks/codes/{$codes['vessel types']}", ['old' => 'MFV', 'new' => 'fishing'])->assertSessionHas('told');
        $this->post("$this->m/crosswalks/codes/{$codes['countries']}", ['old' => 'UKK', 'new' => 'GB'])->assertSessionHas('told');
        $page = $this->get("$this->m/rejects/vessel");
        $page->assertReads('Load 7 rows of Vessel again')->assertReads('Load 12 rows of all entities again');
        $this->get("$this->m/rejects")->assertReads('Load 12 rows again')->assertDontSee('of all entities again');
        $this->post("$this->m/runs/again", ['entity' => 'vessel'])->assertSessionMissing('refused');
        $left = fn () => $this->lines()
            ->whereIn('cause_id', DB::table('causes')->whereIn('value', ['MFV', 'UKK'])->pluck('id'))
            ->where('outcome', 'rejected')
            ->count();
        self::assertSame(5, $left(), 'the countries wait');
        $this->post("$this->m/runs/again")->assertSessionMissing('refused');
        self::assertSame(0, $left());
    }
}
