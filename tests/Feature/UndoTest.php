<?php

namespace Tests\Feature;

use App\DryRuns\DryRuns;
use App\Freezing\Freezer;
use App\Freezing\FreezeTake;
use App\Ledger\DueBook;
use App\Models\DryRun;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Pass;
use App\Models\Repair;
use App\Models\Role;
use App\Models\Round;
use App\Staging\StagedRows;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Queue;
use PHPUnit\Framework\Attributes\TestWith;
use Standins\HarbourOffice;
use Tests\TestCase;

/** Every way to repair: tried, made, in the list with what it freed, and taken back. */
final class UndoTest extends TestCase
{
    private Migration $migration;

    private Round $round;

    private string $m;

    protected function setUp(): void
    {
        parent::setUp();
        [$this->migration, $this->round] = $this->loadedDemo(self::smallDemo());
        $this->m = "/m/{$this->migration->id}";
        $this->actingAs($this->user(Role::Lead));
    }

    /** @return array{array<string, string>, array<int, int>, list<mixed>, mixed} outcomes, what is due, codes and rules, what would be */
    private function state(): array
    {
        $run = DryRuns::ofRetry($this->round)->refresh();

        return [
            $this->lines()->get(['load_id', 'row_no', 'outcome'])->mapWithKeys(fn ($r) => ["$r->load_id $r->row_no" => $r->outcome])->all(),
            (new DueBook($this->round->laneId()))->counts(),
            [
                DB::table('code_entries')->orderBy('old_value')->pluck('new_value', 'old_value')->all(),
                DB::table('rules')->orderBy('id')->pluck('expression', 'id')->all(),
            ],
            $run->found['rows'] ?? $run->error,
        ];
    }

    /** @return array<string, array{string, string, array<string, mixed>}> what is repaired → code of the cause, way, fields */
    private function ways(): array
    {
        return [
            'value' => ['not_a_date', 'correct', ['header' => 'BUILT', 'new' => '01/02/1999']],
            'code' => ['no_new_value', 'code', ['crosswalk' => 'vessel types', 'code' => 'sail', 'field' => 'type']],
            'rule' => ['too_long', 'rule', ['field' => 'name', 'expression' => 'left(trim(craft_name), 40)']],
            'parent' => ['orphan', 'parent', ['field' => 'owner', 'parent' => '1', 'parent_is' => 'record']],
            'stay' => ['orphan', 'stay', []],
        ];
    }

    /** @return array<string, mixed> */
    private function cause(string $code, Load $load, ?string $field = null): array
    {
        $of = DB::table('causes as c')->join('cause_tallies as t', 't.cause_id', '=', 'c.id')->where('t.outcome', 'rejected')
            ->where('t.n', '>', 0)->where('c.load_id', $load->id)->where('c.code', $code)
            ->when($field !== null, fn ($q) => $q->where('c.field', $field))->first();
        self::assertNotNull($of, $code);

        return ['alike' => "$of->load_id~$of->stage~$of->code~$of->field"];
    }

    /** @return array<string, string> what the form of an opened cause sends where nobody ticks or types anything */
    private function form(string $alike): array
    {
        $page = new \DOMDocument;
        @$page->loadHTML((string) $this->get("$this->m/rejects?cause=".urlencode($alike))->assertOk()->getContent());
        $fields = (new \DOMXPath($page))->query('//form[contains(@action, "/try")]//*[self::input or self::select][@name]');
        $sent = [];
        foreach ($fields ?: [] as $field) {
            assert($field instanceof \DOMElement);
            if ($field->tagName === 'select') {
                $option = $field->getElementsByTagName('option')->item(0);
                $sent[$field->getAttribute('name')] = $option?->getAttribute('value') ?: (string) $option?->textContent;
            } elseif ($field->getAttribute('type') !== 'checkbox') {
                $sent[$field->getAttribute('name')] = $field->getAttribute('value');
            }
        }
        self::assertArrayHasKey('reason', $sent, $alike);

        return array_diff_key($sent, ['_token' => 0]);
    }

    public function test_every_way_is_made_and_taken_back(): void
    {
        $load = Load::query()->where('name', 'Vessels')->firstOrFail();
        $to = "$this->m/rejects/loads/$load->id";
        $before = $this->state();
        foreach ($this->ways() as $name => [$code, $what, $of]) {
            $of += $this->cause($code, $load, $of['field'] ?? null) + ['reason' => "because $name"];
            $of += $this->form($of['alike']);
            $this->repaired($to, $what, $of)->assertSessionMissing('refused')->assertSessionHas('told');
            self::assertNotEquals($before, $this->state(), $name);
            $repair = Repair::query()->latest('id')->firstOrFail();
            self::assertSame([$what, "because $name", null], [$repair->kind, $repair->reason, $repair->undone_at]);
            $this->get("$this->m/rejects?show=repairs")->assertOk()->assertReads("because $name")->assertReads($repair->title);
            $this->post("$this->m/rejects/repairs/$repair->id/undo")->assertSessionMissing('refused')->assertSessionHas('told');
            self::assertEquals($before, $this->state(), "$name, taken back: {$repair->refresh()->undone_told}");
            $this->post("$this->m/rejects/repairs/$repair->id/undo")->assertSessionHas('refused', 'It was taken back already.');
        }
        // Once more, with nothing that it would change.
        $of = ['field' => 'name', 'expression' => (string) $load->rules()->where('field', 'name')->value('expression')];
        $this->tried($to, 'rule', $of + $this->cause('too_long', $load))->assertSessionHas('refused');
    }

    /** The number said is the number tried, with what it frees; what else is due waits. */
    private function onlyThese(Load $load, int $own): Pass
    {
        $alike = $this->cause('not_a_date', $load)['alike'];
        $due = (new DueBook($this->round->laneId()))->counts()[$load->id];
        self::assertGreaterThan($own, $due);
        $this->get("$this->m/rejects?cause=".urlencode($alike))->assertReads("Load $own rows again");
        $this->post("$this->m/dry-runs", ['again' => 1, 'alike' => $alike])->assertRedirect();
        $run = DryRun::query()->latest('id')->firstOrFail();
        $passing = $run->found['rows'];
        $this->get("$this->m/dry-runs/$run->id")->assertOk()->assertReads($run->found['tried'].' rows tried');
        $this->post("$this->m/runs/again", ['alike' => $alike])->assertSessionMissing('refused');
        $pass = $this->round->latestPass() ?? self::fail();
        self::assertSame(['finished', []], [$pass->state->value, $pass->compared['kinds'] ?? null]);
        self::assertSame($run->found['tried'], (int) $pass->passLoads()->sum('rows_done'));
        self::assertSame($own, (int) $pass->passLoads()->where('load_id', $load->id)->sum('rows_done'));
        self::assertSame(
            array_sum(array_column(array_filter($passing, fn (array $r) => $r['outcome'] === 'loaded'), 'n')),
            $this->lines()->where('pass_id', $pass->id)->where('outcome', 'loaded')->count(),
        );
        self::assertSame($due - $own, (new DueBook($this->round->laneId()))->counts()[$load->id]);
        $this->get("$this->m/runs")->assertReads('It did what the dry run said.');

        return $pass;
    }

    public function test_one_row_and_what_a_repair_freed(): void
    {
        $load = Load::query()->where('name', 'Vessels')->firstOrFail();
        $to = "$this->m/rejects/loads/$load->id";
        $rows = $this->lines('o')->join('causes as c', 'c.id', '=', 'o.cause_id')->where('o.load_id', $load->id)
            ->where('o.outcome', 'rejected')->where('c.code', 'not_a_date')->pluck('o.row_no')->all();
        $before = $this->state();
        foreach ([['stay', []], ['match', ['record' => '1']], ['correct', ['header' => 'BUILT', 'new' => '02/02/2002']]] as [$what, $of]) {
            $this->repaired($to, $what, $of + ['row' => $rows[0], 'reason' => 'so'])->assertSessionHas('told');
            $repair = Repair::query()->latest('id')->firstOrFail();
            $this->post("$this->m/rejects/repairs/$repair->id/undo")->assertSessionHas('told');
            self::assertEquals($before, $this->state(), "$what: {$repair->refresh()->undone_told}");
        }
        $of = ['header' => 'BUILT', 'new' => '02/02/2002', 'reason' => 'log'];
        $this->repaired($to, 'correct', $of + $this->cause('not_a_date', $load));
        $repair = Repair::query()->latest('id')->firstOrFail();
        $codes = ['crosswalk' => 'vessel types', 'code' => 'sail', 'field' => 'type'] + $this->cause('no_new_value', $load);
        $this->repaired($to, 'code', $codes)->assertSessionHas('told');
        $pass = $this->onlyThese($load, count($rows));
        self::assertSame([$pass->id => count($rows)], $repair->refresh()->freed);
        $this->get("$this->m/rejects?show=repairs")->assertReads(count($rows).' '.$this->round->name.', pass 2');
        // What was loaded with it stays as it is and is told as differing.
        $this->post("$this->m/rejects/repairs/$repair->id/undo")
            ->assertSessionHas('told', fn (string $told) => str_contains($told, 'keep their records'));
        self::assertSame([count($rows)], array_values(array_filter(array_column((new DueBook($this->round->laneId()))->stale(), 1))));
    }

    public function test_the_cause_that_holds_most_rows_stands_first(): void
    {
        $page = new \DOMDocument;
        @$page->loadHTML((string) $this->get("$this->m/rejects?show=held")->assertOk()->getContent());
        $held = [];
        foreach ((new \DOMXPath($page))->query('//table[@aria-label="Causes that hold rows in the end"]//td[@class="n"]') ?: [] as $cell) {
            $held[] = (int) str_replace(',', '', trim((string) $cell->textContent));
        }
        self::assertGreaterThan(1, count(array_unique($held)));
        $sorted = $held;
        rsort($sorted);
        self::assertSame($sorted, $held);
    }

    /**
     * Repairs over the same cells are taken back in any order: what is left counts, and nothing that was taken back comes again.
     *
     * @param  list<int>  $order
     */
    #[TestWith([[0, 2, 1]])]
    #[TestWith([[1, 0, 2]])]
    public function test_repairs_over_the_same_cells_are_taken_back_in_any_order(array $order): void
    {
        $load = Load::query()->where('name', 'Vessels')->firstOrFail();
        $to = "$this->m/rejects/loads/$load->id";
        $rows = $this->lines('o')->join('causes as c', 'c.id', '=', 'o.cause_id')->where('o.load_id', $load->id)
            ->where('o.outcome', 'rejected')->where('c.code', 'not_a_date')->orderBy('o.row_no')->pluck('o.row_no')->all();
        $take = (int) $load->extract->take_id;
        $at = $load->extract->take?->tidyColumns()->find('BUILT')->position ?? self::fail();
        $says = fn () => array_map(fn (int $row) => (new StagedRows($take))->numbered([$row])[$row][$at], array_slice($rows, 0, 2));
        $read = $says();
        $alike = $this->cause('not_a_date', $load);
        $steps = [
            [$alike + ['new' => '01/01/2001'], ['01/01/2001', '01/01/2001']],
            [$alike + ['new' => '02/02/2002'], ['02/02/2002', '02/02/2002']],
            [['row' => $rows[0], 'new' => '03/03/2003'], ['03/03/2003', null]],
        ];
        foreach ($steps as [$of]) {
            $this->repaired($to, 'correct', $of + ['header' => 'BUILT', 'reason' => 'so'])->assertSessionMissing('refused');
        }
        $repairs = Repair::query()->orderBy('id')->get();
        self::assertSame(['03/03/2003', '02/02/2002'], $says());
        $left = [0, 1, 2];
        foreach ($order as $which) {
            $this->post("$this->m/rejects/repairs/{$repairs[$which]->id}/undo");
            $isRefused = session()->has('refused');
            // All it said was said otherwise since: it stays.
            self::assertSame($which === 0 && $left === [0, 1, 2], $isRefused);
            $left = $isRefused ? $left : array_values(array_diff($left, [$which]));
            $expected = $read;
            foreach ($left as $other) {
                $expected = array_replace($expected, array_filter($steps[$other][1]));
            }
            self::assertSame($expected, $says(), "after $which");
        }
    }

    public function test_a_cause_is_given_to_somebody(): void
    {
        $load = Load::query()->where('name', 'Vessels')->firstOrFail();
        $alike = $this->cause('not_a_date', $load)['alike'];
        $who = $this->user(Role::Reviewer);
        $blank = ['alike' => $alike, 'until' => '', 'note' => ''];
        $give = fn (array $of) => $this->post("$this->m/rejects/loads/$load->id/give", $of + $blank);
        $give(['to' => $who->id])->assertSessionHas('told', "$who->name sees to it.");
        $this->get("$this->m/rejects")->assertOk()->assertReads($who->name);
        $give(['to' => $who->id, 'until' => '2031-01-31', 'note' => 'as on the plates'])->assertSessionHas('told');
        $this->get("$this->m/rejects?cause=".urlencode($alike))->assertReads('2031-01-31')->assertSee('as on the plates');
        $give(['to' => '', 'until' => '2031-01-31'])->assertSessionHas('told', 'Nobody sees to it any more.');
        self::assertSame(0, DB::table('cause_tasks')->count());
        $give(['to' => '999'])->assertNotFound();
        $give(['to' => $who->id, 'until' => 'soon'])->assertSessionHasErrors('until');
        $this->actingAs($this->user(Role::Auditor));
        $give(['to' => $who->id])->assertForbidden();
    }

    /** A default parent is a row of a small load of its own: the next round makes it, and those without a parent belong to it. */
    public function test_a_record_made_for_those_without_a_parent(): void
    {
        $load = Load::query()->where('name', 'Vessels')->firstOrFail();
        $at = "$this->m/rejects/loads/$load->id/default/owner";
        $this->get($at)->assertOk()->assertReads('A party for those of Vessels without one');
        $this->post($at, ['key' => 'UNKNOWN', 'values' => ['name' => '']])
            ->assertSessionHas('refused', fn (string $why) => str_contains($why, ' is required.'));
        $of = ['name' => "Nobody's boats", 'kind' => 'organisation', 'country' => 'GB'];
        $this->post($at, ['key' => 'UNKNOWN', 'values' => ['kind' => 'ghost'] + $of])
            ->assertSessionHas('refused', fn (string $why) => str_starts_with($why, 'kind: Not an allowed value'));
        self::assertSame(0, Load::query()->where('name', 'Default party')->count(), 'nothing half done');
        $made = $this->post($at, ['key' => 'UNKNOWN', 'values' => $of])->assertSessionMissing('refused');
        $run = (string) $made->headers->get('Location');
        $this->get($run)->assertOk()->assertReads('rounds begun from now on have it')->assertReads('0 would pass');
        $this->post("$run/keep")->assertSessionHas('told');
        $this->post($at, ['key' => "O'HARA", 'values' => ['name' => 'Others'] + $of])->assertSessionMissing('refused');
        $orphans = $this->lines('o')->join('causes as c', 'c.id', '=', 'o.cause_id')->where('o.load_id', $load->id)
            ->where('c.code', 'orphan')->where('c.field', 'owner')->orderBy('o.legacy_key')->pluck('o.legacy_key')->all();
        self::assertNotSame([], $orphans);
        HarbourOffice::reset($this->target());
        $next = $this->load($this->migration->refresh(), 'rehearsal-2');
        $default = Load::query()->where('name', 'Default party')->firstOrFail();
        self::assertSame(
            ["O'HARA", 'UNKNOWN'],
            $this->lines()->where('lane_id', $next->laneId())->where('load_id', $default->id)->where('outcome', 'loaded')
                ->orderBy('legacy_key')->pluck('legacy_key')->all(),
        );
        $boats = $this->lines()->where('lane_id', $next->laneId())->where('load_id', $load->id)->whereIn('legacy_key', $orphans)
            ->where('outcome', 'loaded')->pluck('target_key')->all();
        self::assertSame(count($orphans), count($boats));
        self::assertSame([["Nobody's boats"]], $this->targetRows(
            'SELECT DISTINCT p.name FROM vessel v JOIN party p ON p.id = v.owner WHERE v.id IN ('.implode(',', $boats).')',
        ));
        $this->get("/m/{$this->migration->id}/reconciliation")->assertReads('every count proof holds');
    }

    /** Two are made before a worker came to the first; values stay as they were typed. */
    public function test_a_record_made_while_another_waits_to_be_read(): void
    {
        $load = Load::query()->where('name', 'Vessels')->firstOrFail();
        $of = ['name' => '-1 "Quay"; Boats', 'kind' => 'organisation', 'country' => 'GB', 'phone' => '+44 1632 960001'];
        Queue::fake([FreezeTake::class]);
        foreach (["O'HARA", '7'] as $key) {
            $this->post("$this->m/rejects/loads/$load->id/default/owner", ['key' => $key, 'values' => $of])
                ->assertSessionMissing('refused');
        }
        $take = Load::query()->where('name', 'Default party')->firstOrFail()->extract->takes()->latest('number')->firstOrFail();
        (new FreezeTake($take->id))->handle(app(Freezer::class));
        $rows = StagedRows::sample($take->id, 10);
        $at = array_flip($take->refresh()->headers());
        self::assertSame(['7', "O'HARA"], array_column($rows, $at['key']));
        self::assertSame([$of['phone'], $of['phone']], array_column($rows, $at['phone']));
        self::assertSame([$of['name'], $of['name']], array_column($rows, $at['name']));
    }
}
