<?php

namespace Tests\Feature;

use App\Console\Tending;
use App\Loading\PassRunner;
use App\Loading\Rounds;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Pass;
use App\Models\PassKind;
use App\Models\Repair;
use App\Models\Role;
use App\Models\Round;
use App\Models\Work;
use App\Models\WorkState;
use App\Reconciling\CountBook;
use App\Rejects\RepairRows;
use App\Rejects\RowsFile;
use Illuminate\Database\Events\QueryExecuted;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Queue;
use PHPUnit\Framework\Attributes\TestWith;
use Tests\TestCase;

/** What takes longer than a page: a worker does it, pages say how far it is, and a kill loses and doubles nothing. */
final class LongWorkTest extends TestCase
{
    private const ROWS = 2_600;

    private Migration $migration;

    private Round $round;

    private Load $load;

    private string $m;

    protected function setUp(): void
    {
        parent::setUp();
        $csv = "no,name,kind\n";
        for ($n = 1; $n <= self::ROWS; $n++) {
            $csv .= "K$n,Name $n,wrong\n";
        }
        // All but the last ten fail for one value.
        for ($n = 1; $n <= 10; $n++) {
            $csv .= "G$n,Good $n,person\n";
        }
        $this->migration = $this->demoMigration(dirname($this->smallPlan($csv, "{kind: kind, name: name, country: \"'GB'\"}", 'party')));
        $this->round = $this->load($this->migration);
        $this->load = Load::query()->firstOrFail();
        $this->m = "/m/{$this->migration->id}";
        $this->actingAs($this->user(Role::Lead));
        self::assertSame(['loaded' => 10, 'rejected' => self::ROWS], $this->outcomes());
    }

    /** @return array<string, int> */
    private function outcomes(): array
    {
        return $this->lines()->groupBy('outcome')->orderBy('outcome')->selectRaw('outcome, COUNT(*) AS n')->pluck('n', 'outcome')
            ->sortKeys()->map(fn ($n) => (int) $n)->all();
    }

    private function cause(): int
    {
        return (int) DB::table('cause_tallies')->where('outcome', 'rejected')->where('n', '>', 0)->value('cause_id');
    }

    /** @return array<string, mixed> */
    private function correction(): array
    {
        return ['cause' => $this->cause(), 'header' => 'kind', 'new' => 'person', 'reason' => 'as they said'];
    }

    public function test_a_value_in_many_rows_is_corrected_by_a_worker(): void
    {
        $tried = $this->tried("$this->m/rejects/loads/{$this->load->id}", 'correct', $this->correction());
        Queue::fake();
        $this->post($tried->headers->get('Location').'/keep')->assertSessionHas('told');
        $work = Work::query()->firstOrFail();
        self::assertSame([WorkState::Queued, self::ROWS], [$work->state, $work->total]);
        self::assertSame(0, DB::table('corrections')->count());
        $this->get("$this->m/rejects")->assertOk()->assertReads('0 of 2,600');
        // While it goes on no pass may begin, and nothing is decided twice.
        $this->post("$this->m/runs/again")
            ->assertSessionHas('refused', 'Rows are being repaired by a worker. Begin the pass when it has ended.');
        // Killed after the first thousand.
        $reached = 0;
        DB::listen(function (QueryExecuted $query) use (&$reached) {
            if (str_starts_with($query->sql, 'update `works` set `given`') && ++$reached === 2) {
                throw new \RuntimeException('killed');
            }
        });
        app(RepairRows::class, ['work' => $work->id])->handle();
        self::assertSame(1000, DB::table('corrections')->count());
        self::assertSame([1000, 1000], [$work->refresh()->done, $work->given['after']]);
        $work->update(['state' => WorkState::Running, 'told' => null]);
        (new Tending)->all();
        Queue::assertPushed(RepairRows::class, 2);
        (new RepairRows($work->id))->handle();
        self::assertSame([WorkState::Done, '2,600 rows corrected.'], [$work->refresh()->state, $work->told]);
        self::assertSame(self::ROWS, DB::table('corrections')->count());
        self::assertSame(self::ROWS, DB::table('correction_places')->distinct()->count('row_no'));
        $this->get("$this->m/works/$work->id", ['HX-Request' => 'true'])->assertReads('2,600 rows corrected.');
        // It was shown.
        $this->get("$this->m/rejects")->assertDontSee('rows corrected');
    }

    public function test_waiving_many_rows_counts_again_and_is_taken_back(): void
    {
        $of = ['cause' => $this->cause(), 'reason' => 'sold'];
        $waive = fn () => $this->repaired("$this->m/rejects/loads/{$this->load->id}", 'stay', $of);
        $cause = $this->cause();
        $waive()->assertSessionHas('told', '2,600 rows waived.');
        self::assertSame(['loaded' => 10, 'waived' => self::ROWS], $this->outcomes());
        self::assertSame(self::ROWS, CountBook::of($this->round)?->loads[$this->load->id]->outcomes['waived']);
        $this->get("$this->m/rejects?show=left")->assertReads('sold')->assertReads('2,600');
        $this->post("$this->m/rejects/loads/{$this->load->id}/take-back", ['cause' => $cause])
            ->assertSessionHas('told', '2,600 rows rejected again.');
        self::assertSame(['loaded' => 10, 'rejected' => self::ROWS], $this->outcomes());
        // Who may not repair may not have it done either.
        $this->actingAs($this->user(Role::Auditor));
        $waive()->assertForbidden();
        self::assertSame(2, Work::query()->count());
    }

    #[TestWith(['correct', 'corrections taken back.'])]
    #[TestWith(['stay', 'rows rejected again.'])]
    public function test_a_repair_of_many_rows_is_taken_back_by_a_worker(string $what, string $told): void
    {
        $of = ['correct' => $this->correction(), 'stay' => ['cause' => $this->cause(), 'reason' => 'sold']][$what];
        $counted = fn () => DB::table($what === 'correct' ? 'corrections' : 'waivers')->where('ended', 0)->count();
        $this->repaired("$this->m/rejects/loads/{$this->load->id}", $what, $of)->assertSessionHas('told');
        self::assertSame(self::ROWS, $counted());
        $repair = Repair::query()->latest('id')->firstOrFail();
        $undo = "$this->m/rejects/repairs/$repair->id/undo";
        Queue::fake([RepairRows::class]);
        $this->post($undo)->assertSessionHas('told', fn (string $told) => str_contains($told, 'a worker does it'));
        $this->post($undo)->assertSessionHas('refused', 'A worker is at taking it back already.');
        $this->get("$this->m/rejects")->assertReads("Taking back: $repair->title")->assertReads('0 of 2,600');
        $this->post("$this->m/runs/again")
            ->assertSessionHas('refused', 'Rows are being repaired by a worker. Begin the pass when it has ended.');
        $work = Work::query()->latest('id')->firstOrFail();
        (new RepairRows($work->id))->handle();
        self::assertSame([WorkState::Done, "2,600 $told"], [$work->refresh()->state, $work->told]);
        self::assertSame([0, ['loaded' => 10, 'rejected' => self::ROWS]], [$counted(), $this->outcomes()]);
        self::assertNotNull($repair->refresh()->undone_at);
        $this->post($undo)->assertSessionHas('refused', 'It was taken back already.');
    }

    public function test_a_pass_that_began_meanwhile_stops_the_repair_and_nothing_is_half_done(): void
    {
        $tried = $this->tried("$this->m/rejects/loads/{$this->load->id}", 'stay', ['cause' => $this->cause(), 'reason' => 'sold']);
        Queue::fake();
        $this->post($tried->headers->get('Location').'/keep');
        Pass::query()->latest('id')->firstOrFail()->update(['state' => 'running']);
        (new RepairRows(Work::query()->firstOrFail()->id))->handle();
        $work = Work::query()->firstOrFail();
        self::assertSame(WorkState::Refused, $work->state);
        self::assertStringContainsString('A pass is at work', (string) $work->told);
        self::assertSame(0, DB::table('waivers')->count());
        $this->get("$this->m/rejects")->assertReads('A pass is at work on these rows');
    }

    public function test_all_rows_behind_a_number_as_a_file_for_whoever_asked(): void
    {
        $this->post("$this->m/rows/party?outcome=rejected")->assertRedirect();
        $work = Work::query()->firstOrFail();
        self::assertSame([WorkState::Done, self::ROWS], [$work->state, $work->total]);
        $this->get("$this->m/rows/party?outcome=rejected")->assertReads('Fetch the rows as .csv');
        $lines = file((string) RowsFile::path($work));
        self::assertCount(self::ROWS + 1, $lines);
        self::assertSame("Load,Row,Legacy key,New key,Outcome,Because,Field,Value\r\n", $lines[0]);
        self::assertStringStartsWith('L,1,K1,,rejected,', $lines[1]);
        self::assertSame(0600, fileperms((string) RowsFile::path($work)) & 0777);
        $this->actingAs($this->user(Role::Auditor))->get("$this->m/works/$work->id/file")->assertNotFound();
        $this->actingAs($this->user(Role::Lead))->get("$this->m/works/$work->id/file")->assertOk()->assertDownload('rows.csv');
        // A day later it is gone.
        DB::table('works')->update(['updated_at' => now()->subDays(2)]);
        RowsFile::sweep();
        $this->get("$this->m/works/$work->id/file")->assertNotFound();
    }

    public function test_figures_are_counted_by_a_worker_and_what_does_not_add_up_is_listed(): void
    {
        $this->get("$this->m/reconciliation")->assertReads('Ledger and target were counted on')->assertReads('every count proof holds');
        // Somebody takes a record away, another puts one in, and a line of the ledger is lost.
        $key = (string) $this->lines()->where('outcome', 'loaded')->orderBy('row_no')->value('target_key');
        $this->target()->exec("DELETE FROM party WHERE id = $key");
        DB::table('outcomes')->where('load_id', $this->load->id)->where('item', 5)->delete();
        // Shown are the figures of then, until they are counted again.
        $this->get("$this->m/reconciliation")->assertReads('every count proof holds');
        $this->post("$this->m/reconciliation/count")->assertRedirect();
        $this->get("$this->m/reconciliation")->assertDontSee('every count proof holds')->assertSee("$this->m/gaps/party");
        $counted = CountBook::of($this->round);
        self::assertSame([$this->load->id => [5]], $counted?->lost);
        // What somebody else took is of other origin; the proof of the target itself still holds.
        self::assertSame([-1, 0], [$counted->entities['party']->otherOrigin, $counted->entities['party']->targetGap()]);
        DB::table('record_counters')->increment('made');
        CountBook::ask($this->round);
        $gaps = CountBook::of($this->round)?->gaps['party'];
        self::assertSame([[$this->load->id, self::ROWS + 1, $key]], $gaps['gone']);
        self::assertSame($gaps['before'], count($gaps['foreign']));
        $page = $this->get("$this->m/gaps/party")->assertOk();
        $page->assertReads('1 row without an outcome')->assertReads('1 row whose record is no longer there');
        $this->get("$this->m/gaps/party?gone-csv=1")->assertOk()->assertHeader('Content-Type', 'text/csv; charset=utf-8');
    }

    public function test_a_round_is_renamed_described_and_ended_by_a_worker(): void
    {
        $this->post("$this->m/runs/describe", ['name' => 'dress-rehearsal', 'note' => 'With the client'])
            ->assertSessionHas('told', 'Kept.');
        $this->get("$this->m/runs")->assertReads('Dress rehearsal')->assertReads('With the client')->assertSee('Timetable of Pass 1');
        foreach (['', 'Capital', 'a b', str_repeat('x', 61)] as $name) {
            $this->post("$this->m/runs/describe", ['name' => $name])->assertSessionHasErrors('name');
        }
        $this->actingAs($this->user(Role::Reviewer))->post("$this->m/runs/describe", ['name' => 'mine'])->assertForbidden();
        $this->actingAs($this->user(Role::Lead));
        // It goes on under its new name, and the target knows it again.
        $this->load->rules()->where('field', 'kind')->update(['expression' => "'person'"]);
        app(\App\Mapping\Waiting::class)->changed($this->migration);
        PassRunner::of(app(Rounds::class)->pass($this->round->refresh(), PassKind::Retry), 0)->work();
        self::assertSame(['loaded' => self::ROWS + 10], $this->outcomes());
        Queue::fake();
        $this->post("$this->m/runs/end", ['as' => 'closed', 'reason' => 'done'])->assertRedirect();
        self::assertFalse($this->round->refresh()->hasEnded());
        $this->get("$this->m/runs")->assertReads('Counting dress-rehearsal, then it is closed');
        (new \App\Reconciling\EndRound(Work::query()->latest('id')->firstOrFail()->id))->handle();
        self::assertTrue($this->round->refresh()->hasEnded());
        self::assertTrue(CountBook::of($this->round)?->isDone());
        $this->get("$this->m/runs")->assertReads('dress-rehearsal is closed. Its figures stay as they are.');
    }
}
