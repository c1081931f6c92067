<?php

namespace Tests\Feature;

use App\Ledger\DueBook;
use App\Loading\PassRunner;
use App\Loading\Rounds;
use App\Mapping\RuleBook;
use App\Models\Extract;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Pass;
use App\Models\PassKind;
use App\Models\Role;
use App\Models\Round;
use App\Models\RoundEnd;
use App\Models\SetBack;
use App\Plans\Headless;
use App\Reconciling\Proofs;
use App\Reconciling\Report;
use App\Reconciling\RoundEnding;
use App\Rejects\Repairs;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Symfony\Component\Yaml\Yaml;
use Tests\TestCase;

/** What people decide about rows follows the rows, and what a round said it says for ever. */
final class KeptWordTest extends TestCase
{
    private Migration $migration;

    private string $folder;

    private const PARTIES = "no,name,country,bill_to\nK1,Ann,N,\nK2,,N,K3\nK3,Cy,X,\nK4,Di,N,\n";

    private const BOATS = "no,name,owner\nB1,Tern,K1\nB2,Gull,K2\nB3,Skua,K3\nB4,Auk,K9\n";

    /** @param  array<string, mixed>  $more  of the plan's first source */
    private function plan(string $parties = self::PARTIES, string $boats = self::BOATS, array $more = [], string $from = 'S/party'): string
    {
        $this->folder = self::work('kept-word');
        @mkdir($this->folder, 0777, true);
        file_put_contents("$this->folder/party.csv", $parties);
        file_put_contents("$this->folder/boat.csv", $boats);
        $columns = ', country VARCHAR(40) NOT NULL, bill_to INT NULL, FOREIGN KEY (bill_to) REFERENCES party (id)';
        file_put_contents("$this->folder/plan.yaml", Yaml::dump([
            'baggage' => 1,
            'migration' => 'Kept word',
            'target' => self::partiesAndBoats($columns),
            'sources' => [['code' => 'S', 'name' => 'S', 'extracts' => [
                ['name' => 'party', 'file' => 'party.csv'], ['name' => 'boat', 'file' => 'boat.csv'], ...$more,
            ]]],
            'code_crosswalks' => [['name' => 'countries', 'entries' => ['N' => 'NO']]],
            'loads' => [
                ['name' => 'party', 'entity' => 'party', 'from' => $from, 'key' => ['no'], 'fields' => [
                    'name' => 'trim(name)', 'country' => "code('countries', country)", 'bill_to' => 'parent(bill_to)',
                ]],
                ['name' => 'boat', 'entity' => 'boat', 'from' => 'S/boat', 'key' => ['no'], 'fields' => [
                    'name' => 'trim(name)', 'owner' => 'parent(owner)',
                ]],
            ],
        ], 8));

        return "$this->folder/plan.yaml";
    }

    /** @param  array<string, mixed>  $more */
    private function begin(string $parties = self::PARTIES, string $boats = self::BOATS, array $more = [], string $from = 'S/party'): Round
    {
        $headless = $this->app->make(Headless::class);
        $this->migration = $headless->import($this->plan($parties, $boats, $more, $from));
        $headless->freeze($this->migration, "$this->folder/plan.yaml", fn () => null);
        $this->actingAs($this->user(Role::Lead));

        return $this->round('rehearsal-1');
    }

    private function round(string $name, string $kind = 'rehearsal'): Round
    {
        $rounds = $this->app->make(Rounds::class);

        return $rounds->begin($this->migration, $this->migration->targets()->firstOrFail(), $name, $kind);
    }

    private function deliver(string $parties, string $boats = self::BOATS): void
    {
        file_put_contents("$this->folder/party.csv", $parties);
        file_put_contents("$this->folder/boat.csv", $boats);
        $headless = $this->app->make(Headless::class);
        $headless->freeze($this->migration, "$this->folder/plan.yaml", fn () => null);
        $headless->study($this->migration);
    }

    /** @param  list<string>  $without */
    private function pass(Round $round, array $without = []): Pass
    {
        $out = $this->migration->loads()->whereIn('name', $without)->pluck('id')->all();
        $pass = $this->app->make(Rounds::class)->pass($round, $round->latestPass() === null ? PassKind::First : PassKind::Retry, $out);
        PassRunner::of($pass, 0)->work();
        self::assertSame('finished', $pass->refresh()->state->value, (string) $pass->error);
        foreach (Proofs::of($round)->loads() as $proof) {
            self::assertSame(0, $proof->unaccounted());
        }

        return $pass;
    }

    private function named(string $name): Load
    {
        return Load::query()->where('name', $name)->with('extract')->firstOrFail();
    }

    private function repairs(): Repairs
    {
        return $this->app->make(Repairs::class);
    }

    /** @return array<string, string> key → outcome and cause */
    private function outcomes(Round $round, string $load): array
    {
        return $this->lines()
            ->leftJoin('causes', 'causes.id', '=', 'outcomes.cause_id')
            ->where('outcomes.lane_id', $round->laneId())
            ->where('outcomes.load_id', $this->named($load)->id)
            ->orderBy('outcomes.row_no')
            ->get(['legacy_key', 'outcome', 'causes.code'])
            ->mapWithKeys(fn ($r) => [$r->legacy_key => rtrim("$r->outcome $r->code")])
            ->all();
    }

    private function due(Round $round): int
    {
        return array_sum((new DueBook($round->laneId()))->counts());
    }

    /** @return list<string> */
    private function names(string $table = 'party'): array
    {
        return array_column($this->targetRows('SELECT name FROM '.self::otherDatabase().".$table ORDER BY id"), 0);
    }

    private function cause(Round $round, string $load, string $code): int
    {
        return (int) DB::table('causes')
            ->where('lane_id', $round->laneId())
            ->where('load_id', $this->named($load)->id)
            ->where('code', $code)
            ->value('id');
    }

    private function at(string $path): string
    {
        return "/m/{$this->migration->id}/$path";
    }

    /** FT1: a correction of one customer never becomes another's. */
    public function test_a_correction_follows_its_row_into_the_next_take_and_round(): void
    {
        $round = $this->begin();
        $this->pass($round);
        $this->repairs()->correctCell($round, $this->named('party'), 2, 'name', 'Bo', 'by telephone');
        self::assertSame(1, $this->due($round));
        self::assertSame('rejected required', $this->outcomes($round, 'party')['K2'], 'outcomes stay until a pass');
        $pass = $this->pass($round);
        self::assertSame('loaded', $this->outcomes($round, 'party')['K2']);
        $counts = $pass->passLoads()->firstWhere('load_id', $this->named('party')->id)->counts;
        self::assertSame(['loaded' => 1], $counts, 'one said, one tried');
        self::assertSame(0, $this->due($round));
        // A row on top, a column moved.
        $this->deliver("name,no,country,bill_to\nZoe,K0,N,\nAnn,K1,N,\n,K2,N,K3\nCy,K3,X,\nDi,K4,N,\n");
        $next = $this->round('rehearsal-2');
        $this->pass($next);
        self::assertSame(['Ann', 'Di', 'Bo', 'Ann', 'Bo', 'Di', 'Zoe'], $this->names());
        // What the old round shows of row 2 is the row it worked on.
        $this->post($this->at('runs/look'), ['round' => $round->id]);
        $row = fn (int $n) => $this->at("rows/{$this->named('party')->id}/$n");
        $this->get($row(1))->assertOk()->assertSee('Ann')->assertSee('take 1');
        $this->post($this->at('runs/look'), ['round' => $next->id]);
        $this->get($row(1))->assertOk()->assertSee('Ann')->assertSee('take 2');
        $this->get($row(5))->assertOk()->assertSee('Zoe')->assertSee('take 2');
    }

    public function test_corrections_that_did_not_carry_wait_for_a_decision(): void
    {
        $round = $this->begin();
        $this->pass($round);
        $correct = fn (int $row, string $column, string $new) => $this->repairs()
            ->correctCell($round, $this->named('party'), $row, $column, $new, "because $new");
        $correct(1, 'name', 'Anna');
        $correct(2, 'name', 'Bo');
        $correct(3, 'country', 'N');
        $correct(4, 'name', 'Dina');
        // Confirmed, contradicted, without row, carried.
        $this->deliver("no,name,country,bill_to\nK1,Anna,N,\nK2,Bob,N,\nK4,Di,N,\n");
        $page = $this->get($this->at('rejects?show=corrections'))->assertOk()->assertReads('3 corrections wait for a decision');
        foreach (['The source says it now, take 2', 'The source says something else now', 'Its row is not there'] as $state) {
            $page->assertReads($state);
        }
        $next = $this->round('rehearsal-2');
        $this->pass($next);
        self::assertSame(['Anna', 'Bob', 'Dina'], array_slice($this->names(), 2));
        $of = fn (string $new) => DB::table('corrections')->where('new_value', $new)->where('ended', 0)->value('id');
        // All or none: the row of one of them is not there.
        $this->post($this->at('rejects/corrections'), ['corrections' => [$of('Bo'), $of('N')], 'what' => 'again'])
            ->assertSessionHas('refused', fn (string $why) => str_contains($why, 'nothing to put it over'));
        self::assertNotNull($of('Bo'));
        $this->post($this->at('rejects/corrections'), ['corrections' => [$of('Bo')], 'what' => 'again'])->assertSessionHas('told');
        $this->post($this->at('rejects/corrections'), ['corrections' => [$of('Anna'), $of('N')], 'what' => 'go'])->assertSessionHas('told');
        $this->get($this->at('rejects'))->assertOk()->assertDontSee('did not carry');
        $stale = (new DueBook($next->laneId()))->stale()[$this->named('party')->id];
        self::assertSame(1, $stale[1], 'Bob is loaded, and is to be Bo');
        $this->get($this->at('runs'))->assertReads('cells of 1 row');
        $third = $this->round('rehearsal-3');
        $this->pass($third);
        self::assertSame(['Anna', 'Bo', 'Dina'], array_slice($this->names(), 5));
        // Those of another migration are nobody's business here.
        $other = $this->migration('T');
        $this->post("/m/$other->id/rejects/corrections", ['corrections' => [$of('Bo')], 'what' => 'go']);
        self::assertNotNull($of('Bo'));
    }

    public function test_a_ragged_row_is_put_right_as_a_whole(): void
    {
        $round = $this->begin("no,name,country,bill_to\nK1,Smith, Ann,N,\nK2,Bo\nK3,\"C\ny\",N\n");
        $this->pass($round);
        self::assertSame(
            ['K1' => 'rejected long_row', 'K2' => 'rejected short_row', 'K3' => 'rejected short_row'],
            $this->outcomes($round, 'party'),
        );
        $load = $this->named('party')->id;
        $this->get($this->at("rejects?cause=$load~reading~long_row~"))->assertOk()->assertReads('Put the row right');
        $whole = fn (int $row) => $this->at("rejects/loads/$load/rows/$row/whole");
        $this->get($whole(1))->assertOk()->assertReads('has 5 cells, the header 4')->assertSee('data-glue=","', false);
        $put = fn (int $row, array $cells) => $this->repaired($this->at("rejects/loads/$load"), 'row', [
            'row' => $row, 'cells' => $cells, 'reason' => 'r',
        ]);
        $put(1, ['K1', 'Smith', ' Ann', 'N', 'x'])->assertSessionHas('refused');
        $put(1, ['K1', 'Smith, Ann', 'N', '', ''])->assertSessionHas('told');
        $put(2, ['K2', 'Bo', 'N', ''])->assertSessionHas('told');
        $put(3, ['K3', "C\r\ny", 'N', ''])->assertSessionHas('told');
        $kept = DB::table('corrections')->where('ended', 0)->where('new_value', 'like', '%K3%')->value('new_value');
        self::assertSame('["K3","C\ny","N",""]', $kept, 'line ends stay as read');
        self::assertSame(3, $this->due($round));
        // A cell of a row that was put right is changed in what it was made.
        $this->repairs()->correctCell($round, $this->named('party'), 2, 'name', 'Bob', '');
        $this->pass($round);
        self::assertSame(['Smith, Ann', 'Bob', "C\ny"], $this->names());
        $this->deliver("no,name,country,bill_to\nK0,Zoe,N,\nK1,Smith, Ann,N,\nK2,Bo\n");
        $this->pass($this->round('rehearsal-2'));
        self::assertSame(['Smith, Ann', 'Bob', 'Zoe'], array_slice($this->names(), 3));
        $this->get($this->at("rows/$load/1"))->assertOk()->assertSee('Put right as a whole row');
    }

    public function test_a_correction_below_a_made_feed_lies_on_the_extract_it_was_read_from(): void
    {
        $more = [
            ['name' => 'lands', 'file' => 'lands.csv'],
            ['name' => 'joined', 'reader' => [
                'kind' => 'feed', 'combined' => 'join', 'of' => ['S/party', 'S/lands'], 'on' => ['no' => 'party'],
            ]],
        ];
        @mkdir(self::work('kept-word'), 0777, true);
        file_put_contents(self::work('kept-word').'/lands.csv', "party,code\nK2,N\nK1,N\nK3,Q\n");
        $round = $this->begin("no,name,country,bill_to\nK1,Ann,N,\nK2,,N,\nK3,Cy,X,\n", self::BOATS, $more, 'S/joined');
        $this->pass($round);
        $load = $this->named('party');
        $this->repairs()->correctCell($round, $load, 2, 'name', 'Bo', '');
        $this->repairs()->correctCell($round, $load, 3, 'country', 'N', '');
        $this->repairs()->correctCell($round, $load, 3, 'lands code', 'N', '');
        $id = fn (string $name) => Extract::query()->where('name', $name)->value('id');
        $on = fn (string $name) => DB::table('corrections')->where('extract_id', $id($name))->count();
        self::assertSame([2, 1, 0], [$on('party'), $on('lands'), $on('joined')]);
        self::assertSame(2, $this->due($round));
        $this->pass($round);
        self::assertSame(['Ann', 'Bo', 'Cy'], $this->names());
        self::assertSame(1, Extract::query()->where('name', 'joined')->firstOrFail()->takes()->count());
        // By this column rows come together: the feed is made again, and that is said.
        $this->repaired($this->at("rejects/loads/$load->id"), 'correct', ['row' => 3, 'header' => 'no', 'new' => 'K7'])
            ->assertSessionHas('told', fn (string $told) => str_contains($told, 'joined come together by it'));
        self::assertSame(2, Extract::query()->where('name', 'joined')->firstOrFail()->takes()->count());
        $of = ['row' => 3, 'header' => 'lands matches', 'new' => '2'];
        $this->repaired($this->at("rejects/loads/$load->id"), 'correct', $of)->assertSessionHas('refused');
    }

    /** FU6, FN6: a reason is shown wherever the row is; no edit of a rule reopens what was left behind. */
    public function test_a_waiver_follows_its_row_and_takes_no_new_ones_along(): void
    {
        $round = $this->begin();
        $this->pass($round);
        $load = $this->named('party')->id;
        $of = ['cause' => $this->cause($round, 'party', 'no_new_value'), 'reason' => 'sold'];
        $this->repaired($this->at("rejects/loads/$load"), 'stay', $of)->assertSessionHas('told', '1 row waived.');
        $this->get($this->at('rejects?show=left'))->assertReads('Left behind because')->assertSee('sold');
        $this->get($this->at('rows/party?outcome=waived'))->assertSee('sold');
        $this->get($this->at('rows/party'))->assertSee('sold');
        $causes = (new Report)->of($round)['loads'][0]['causes'];
        $left = collect($causes)->firstWhere('outcome', 'waived');
        self::assertSame(['sold', 'Lead'], [$left['values'][0]['because'], $left['values'][0]['by']]);
        $this->get($this->at("rows/$load/3"))->assertReads('Left behind by Lead')->assertSee('sold');
        $this->app->make(RuleBook::class)->write($this->named('party'), 'country', 1, "code('countries', trim(country))", null, null, null);
        self::assertSame('waived no_new_value', $this->outcomes($round, 'party')['K3']);
        // Its boat is due: what it waits for will never be there.
        self::assertSame(1, $this->due($round));
        $this->pass($round);
        self::assertSame('rejected parent_left', $this->outcomes($round, 'boat')['B3']);
        $this->deliver("no,name,country,bill_to\nK0,Zoe,X,\nK1,Ann,N,\nK3,Cy,X,\n");
        $next = $this->round('rehearsal-2');
        $this->pass($next);
        self::assertSame(
            ['K1' => 'loaded', 'K3' => 'waived no_new_value', 'K0' => 'rejected no_new_value'],
            $this->outcomes($next, 'party'),
            'K0 is new: nobody decided about it',
        );
        $this->get($this->at("rejects?cause=$load~mapping~no_new_value~country"))->assertReads('Others were left behind for it: sold');
        $this->post($this->at("rejects/loads/$load/take-back"), ['cause' => $this->cause($next, 'party', 'no_new_value')])
            ->assertSessionHas('told', '1 row rejected again.');
        self::assertSame('rejected no_new_value', $this->outcomes($next, 'party')['K3']);
        self::assertSame(1, $this->due($next), 'its boat may be held again');
        $this->pass($next);
        self::assertSame('held parent_rejected', $this->outcomes($next, 'boat')['B3']);
    }

    public function test_rows_without_a_key_of_their_own_are_left_behind_as_rows(): void
    {
        $round = $this->begin("no,name,country,bill_to\nK1,Ann,N,\n,Bo,N,\nK1,Bo,N,\n,Bo,N,\n");
        $this->pass($round);
        foreach (['no_legacy_key', 'duplicate_key'] as $code) {
            $n = $this->repairs()->waive($round, $this->named('party'), $this->cause($round, 'party', $code), 'r');
            self::assertSame($code === 'no_legacy_key' ? 2 : 1, $n);
        }
        $this->deliver("no,name,country,bill_to\nK0,Zoe,N,\n,Bo,N,\nK1,Ann,N,\nK1,Bo,N,\n,Bo,N,\n,Bo,N,\nK1,Cy,N,\n");
        $next = $this->round('rehearsal-2');
        $this->pass($next);
        $of = $this->lines()->where('lane_id', $next->laneId())->where('load_id', $this->named('party')->id);
        $lines = $of->orderBy('row_no')->pluck('outcome');
        // Those that were there in the order of their numbers, and then the new ones.
        self::assertSame(['loaded', 'waived', 'waived', 'waived', 'loaded', 'rejected', 'rejected'], $lines->all());
    }

    public function test_at_the_cutover_all_that_was_left_behind_is_confirmed_as_a_list(): void
    {
        $round = $this->begin();
        $this->pass($round);
        $this->repairs()->waive($round, $this->named('party'), $this->cause($round, 'party', 'no_new_value'), 'sold');
        $cutover = $this->round('cutover', 'cutover');
        $this->pass($cutover);
        self::assertSame('rejected no_new_value', $this->outcomes($cutover, 'party')['K3']);
        $this->get($this->at('rejects?show=left'))->assertReads('to be confirmed for the cutover')->assertSee('sold');
        $this->post($this->at('rejects/waivers/confirm'))->assertSessionHas('told', '1 row waived as before.');
        self::assertSame('waived no_new_value', $this->outcomes($cutover, 'party')['K3']);
        $this->pass($cutover);
        self::assertSame('waived no_new_value', $this->outcomes($cutover, 'party')['K3']);
        self::assertSame('rejected parent_left', $this->outcomes($cutover, 'boat')['B3']);
    }

    public function test_references_that_wait_are_counted_opened_and_may_be_left_open(): void
    {
        $round = $this->begin("no,name,country,bill_to\nK1,Ann,N,K3\nK3,Cy,X,\n", "no,name,owner\nB1,Tern,K1\n");
        $this->pass($round);
        $load = $this->named('party')->id;
        $report = (new Report)->of($round);
        self::assertSame([1, 1], [$report['references_waiting'], Report::exitCode($report)]);
        $this->get($this->at("rows?load=$load&waits=bill_to"))->assertOk()->assertSee('K1')->assertDontSee('K3');
        $this->post($this->at("rejects/loads/$load/references"), ['field' => 'bill_to', 'reason' => 'never mind'])
            ->assertSessionHas('told', '1 reference left open.');
        $this->repairs()->waive($round, $this->named('party'), $this->cause($round, 'party', 'no_new_value'), 'sold');
        $report = (new Report)->of($round);
        self::assertSame([0, 0, 0], [$report['references_waiting'], $report['open_rows'], Report::exitCode($report)]);
        $this->get($this->at("rows/$load/1"))->assertReads('left open')->assertSee('never mind');
        $next = $this->round('rehearsal-2');
        $this->pass($next);
        self::assertSame(0, (new Report)->of($next)['references_waiting'], 'what was left open stays so');
        // Until the parent comes after all.
        $this->repairs()->correctCell($next, $this->named('party'), 2, 'country', 'N', '');
        $this->pass($next);
        $bill = 'SELECT bill_to FROM '.self::otherDatabase().'.party ORDER BY id';
        self::assertSame([[null], ['3'], [null]], $this->targetRows($bill));
    }

    public function test_a_load_left_out_is_not_asked_for_and_holds_what_needs_it(): void
    {
        $round = $this->begin("no,name,country,bill_to\nK1,Ann,N,\nK2,Bo,N,\n", "no,name,owner\nB1,Tern,K1\nB2,Auk,K9\n");
        $this->pass($round, ['party']);
        self::assertSame(['K1' => 'pending', 'K2' => 'pending'], $this->outcomes($round, 'party'));
        self::assertSame(['B1' => 'held parent_pending', 'B2' => 'rejected orphan'], $this->outcomes($round, 'boat'));
        self::assertStringContainsString('not asked for', (string) DB::table('causes')->where('code', 'parent_pending')->value('message'));
        $report = (new Report)->of($round);
        self::assertSame([2, 2, 0], [$report['not_asked'], $report['open_rows'], $report['due_rows']]);
        $page = $this->get($this->at('runs'))->assertReads('Load the 2 rows not asked for too');
        self::assertStringNotContainsString('again</button>', (string) $page->getContent());
        $this->post($this->at('runs/again'), ['all' => 1]);
        self::assertSame(['K1' => 'loaded', 'K2' => 'loaded'], $this->outcomes($round, 'party'));
        self::assertSame('loaded', $this->outcomes($round, 'boat')['B1']);
        self::assertSame(0, (new Report)->of($round)['not_asked']);
        // The same from the form that begins a round.
        $this->post($this->at('runs/rounds'), ['name' => 'r2', 'kind' => 'rehearsal', 'anyway' => 1,
            'target' => $this->migration->targets()->value('id'), 'without' => [$this->named('boat')->id]])->assertRedirect();
        $second = Round::query()->where('name', 'r2')->firstOrFail();
        self::assertSame(['B1' => 'pending', 'B2' => 'pending'], $this->outcomes($second, 'boat'));
    }

    public function test_a_load_left_out_because_its_rules_do_not_work_is_loaded_once_they_do(): void
    {
        $round = $this->begin("no,name,country,bill_to\nK1,Ann,N,\n", "no,name,owner\nB1,Tern,K1\n");
        $this->named('boat')->rules()->where('field', 'name')->update(['expression' => 'no_such_column']);
        $this->pass($round, ['boat']);
        self::assertSame(1, (new Report)->of($round)['not_asked']);
        $this->app->make(RuleBook::class)->write($this->named('boat'), 'name', 1, 'name', null, null, null);
        $this->pass($round);
        self::assertSame(['B1' => 'loaded'], $this->outcomes($round, 'boat'));
        self::assertSame(0, (new Report)->of($round)['open_rows']);
    }

    public function test_a_round_that_ended_says_for_ever_what_it_said(): void
    {
        $round = $this->begin();
        $this->pass($round);
        $this->post($this->at('runs/end'), ['as' => 'closed', 'reason' => ''])->assertSessionHasErrors('reason');
        $this->post($this->at('runs/end'), ['as' => 'closed', 'reason' => 'all looked at'])->assertSessionHas('told');
        $round->refresh();
        $said = $this->said($round);
        $this->target()->exec('DELETE FROM '.self::otherDatabase().'.boat');
        $this->repairs()->correctCell($round, $this->named('party'), 2, 'name', 'Bo', '');
        $this->app->make(RuleBook::class)->write($this->named('party'), 'name', 1, 'upper(name)', null, null, null);
        $this->deliver("no,name,country,bill_to\nK9,Zoe,N,\n");
        $this->migration->loads()->where('name', 'boat')->update(['name' => 'ships']);
        self::assertSame($said, $this->said($round));
        self::assertSame(0, $this->due($round));
        foreach (
            [
                fn () => $this->app->make(Rounds::class)->pass($round, PassKind::Retry),
                fn () => $this->repairs()->waive($round, $this->named('party'), $this->cause($round, 'party', 'required'), 'r'),
                fn () => RoundEnding::end($round, RoundEnd::Abandoned, 'again'),
            ] as $try
        ) {
            try {
                $try();
                self::fail('an ended round was changed');
            } catch (\DomainException $e) {
                self::assertStringContainsString('has ended', $e->getMessage());
            }
        }
        $this->get($this->at('runs'))->assertReads('Closed')->assertReads('all looked at')->assertDontSee('Newer takes');
        $this->get($this->at("rows/{$this->named('party')->id}/1"))->assertReads('trim(name)')->assertDontSee('upper(name)');
    }

    /** @return array<string, mixed> figures of a round */
    private function said(Round $round): array
    {
        $report = (new Report)->of($round);

        return ['due' => $report['due_rows'], 'stale' => $report['stale_rows'], 'newer' => $report['newer_takes'],
            'entities' => $report['entities'], 'loads' => array_map(fn ($l) => array_diff_key($l, ['load' => 0]), $report['loads'])];
    }

    /** SEMANTICS 22: what was restored from a backup is not written to as if nothing had happened. */
    public function test_a_target_that_was_set_back_is_noticed(): void
    {
        $round = $this->begin();
        $this->pass($round);
        $other = self::otherDatabase();
        $this->target()->exec("DELETE FROM $other.baggage_marks");
        $this->repairs()->correctCell($round, $this->named('party'), 2, 'name', 'Bo', '');
        $pass = $this->app->make(Rounds::class)->pass($round, PassKind::Retry);
        PassRunner::of($pass, 0)->work();
        self::assertSame('stopped', $pass->refresh()->state->value);
        self::assertStringContainsString('set back', (string) $pass->error);
        self::assertSame(['Ann', 'Di'], $this->names());
        $this->get($this->at('runs'))->assertReads('The target was set back');
        $this->post($this->at("passes/$pass->id/resume"))->assertSessionHas('refused');
        $this->actingAs($this->user(Role::Consultant))->post($this->at('runs/records'))->assertForbidden();
        // One record is not there: the lead is not believed.
        $this->actingAs($this->user(Role::Lead));
        $this->target()->exec("SET FOREIGN_KEY_CHECKS = 0; UPDATE $other.party SET id = 77 WHERE name = 'Di'");
        $this->post($this->at('runs/records'))->assertSessionHas('told');
        self::assertSame(SetBack::Yes, $round->refresh()->lane()->firstOrFail()->is_set_back);
        $this->target()->exec("SET FOREIGN_KEY_CHECKS = 0; UPDATE $other.party SET id = 2 WHERE name = 'Di'");
        $this->post($this->at('runs/records'));
        self::assertSame(SetBack::ButThere, $round->refresh()->lane()->firstOrFail()->is_set_back);
        $this->post($this->at("passes/$pass->id/resume"))->assertRedirect();
        self::assertSame('finished', $pass->refresh()->state->value);
        self::assertSame(['Ann', 'Di', 'Bo'], $this->names());
        self::assertSame([['1']], $this->targetRows("SELECT COUNT(*) FROM $other.baggage_marks"), 'its mark is there again');
    }

    /** FT8: a form is about the round it was shown for, whatever another tab looks at meanwhile. */
    public function test_two_tabs_at_two_rounds(): void
    {
        $first = $this->begin();
        $this->pass($first);
        $this->deliver("no,name,country,bill_to\nK0,Zoe,N,\nK1,Ann,N,\nK2,,N,\n");
        $second = $this->round('rehearsal-2');
        $this->pass($second);
        $load = $this->named('party')->id;
        $this->post($this->at('runs/look'), ['round' => $first->id]);
        $this->get($this->at("rows/$load/2"))->assertSee('name="round" value="'.$first->id.'"', false);
        $this->post($this->at('runs/look'), ['round' => $second->id]);
        $form = ['round' => $first->id, 'row' => 2, 'header' => 'name', 'new' => 'Bo'];
        $this->repaired($this->at("rejects/loads/$load"), 'correct', $form)->assertSessionHas('told');
        $places = DB::table('correction_places')->orderBy('take_id')->pluck('row_no')->all();
        self::assertSame([2, 2], $places, 'row 2 of the first take is row 2 of the second, in whatever line it stands');
        // A round of another migration is none here.
        $other = $this->migration('T')->rounds()->create(['name' => 'x', 'kind' => 'rehearsal', 'number' => 1]);
        $this->get($this->at("rejects?round=$other->id"))->assertOk()->assertSee('Rehearsal 2');
    }

    /** FT8: what is due is worked out in every round that is open, whichever one looks at. */
    public function test_due_rows_are_those_of_the_round_one_looks_at(): void
    {
        $first = $this->begin();
        $this->pass($first);
        $second = $this->round('rehearsal-2');
        $this->pass($second);
        $this->app->make(RuleBook::class)->write($this->named('party'), 'name', 1, "first(name, 'unnamed')", null, null, null);
        self::assertSame([1, 1], [$this->due($first), $this->due($second)]);
        $this->post($this->at('runs/look'), ['round' => $first->id]);
        $this->get($this->at('rejects'))->assertReads('Load 1 row again');
        $this->get($this->at('runs'))->assertReads('rules or codes behind at most 2 records');
        $this->post($this->at('runs/again'));
        $is = fn (Round $round) => $this->outcomes($round, 'party')['K2'];
        self::assertSame(['loaded', 'rejected required'], [$is($first), $is($second)]);
        self::assertSame([0, 1], [$this->due($first), $this->due($second)]);
        // A rule that is set back makes nothing due any more.
        $this->app->make(RuleBook::class)->write($this->named('party'), 'name', 2, 'trim(name)', null, null, null);
        self::assertSame(0, $this->due($second));
    }

    public function test_rows_the_target_refused_are_tried_again_when_somebody_asks(): void
    {
        $round = $this->begin("no,name,country,bill_to\nK1,Ann,N,\nK2,Bo,N,\n", "no,name,owner\nB1,Tern,K1\n");
        DB::unprepared('ALTER TABLE '.self::otherDatabase().".party ADD CONSTRAINT no_bo CHECK (name <> 'Bo')");
        $this->pass($round);
        self::assertStringStartsWith('rejected', $this->outcomes($round, 'party')['K2']);
        DB::unprepared('ALTER TABLE '.self::otherDatabase().'.party DROP CONSTRAINT no_bo');
        self::assertSame(0, $this->due($round));
        $cause = (int) $this->lines()->where('legacy_key', 'K2')->where('lane_id', $round->laneId())->value('cause_id');
        $this->post($this->at("rejects/loads/{$this->named('party')->id}/ask"), ['cause' => $cause])
            ->assertSessionHas('told', '1 row will be tried again.');
        self::assertSame(1, $this->due($round));
        $this->pass($round);
        self::assertSame('loaded', $this->outcomes($round, 'party')['K2']);
        self::assertSame(0, $this->due($round));
    }

    /** FT5: a newer file is never passed over in silence, and a round keeps what it was begun with. */
    public function test_headless_says_what_a_round_does_not_work_on(): void
    {
        $plan = $this->plan("no,name,country,bill_to\nK1,Ann,N,\n", "no,name,owner\nB1,Tern,K1\n");
        $json = self::work('result.json');
        $run = fn (array $with = []) => [Artisan::call('baggage:run', ['plan' => $plan, '--round' => 'r1', '--json' => $json] + $with),
            json_decode((string) file_get_contents($json), true)];
        self::assertSame(0, $run()[0]);
        file_put_contents("$this->folder/party.csv", "no,name,country,bill_to\nK0,Zoe,N,\nK1,Anna,N,\n");
        [$exit, $result] = $run();
        self::assertSame(1, $exit);
        self::assertSame(['S/party', 1, 2], [$result['newer_takes'][0]['name'], $result['newer_takes'][0]['worked_on'],
            $result['newer_takes'][0]['takes'][0]['number']]);
        self::assertSame([0, true], [$result['open_rows'], $result['proofs_hold']]);
        self::assertSame(0, $run(['--keep-takes' => true])[0]);
        self::assertSame(2, $run(['--target' => 'elsewhere'])[0]);
        self::assertSame(2, $run(['--without' => ['nothing']])[0]);
        self::assertSame(2, $run(['--workers' => '9'])[0]);
        $text = (string) file_get_contents($plan);
        file_put_contents($plan, str_replace('file: party.csv', "file: party.csv\n                row_key: [nope]", $text));
        self::assertSame(2, $run()[0], 'a column that is not there names no row');
        file_put_contents($plan, $text);
        // Another round into the same target, without one load: told, and no reason by itself.
        [$exit, $result] = [Artisan::call('baggage:run', ['plan' => $plan, '--round' => 'r2', '--json' => $json, '--without' => ['boat']]),
            json_decode((string) file_get_contents($json), true)];
        self::assertSame([0, 1, 1], [$exit, $result['not_asked'], $result['loads'][1]['not_asked']]);
        self::assertStringContainsString('r1', $result['warnings'][0]);
        file_put_contents($plan, str_replace('trim(name)', 'upper(name)', (string) file_get_contents($plan)));
        [$exit, $result] = [Artisan::call('baggage:run', ['plan' => $plan, '--round' => 'r2', '--json' => $json]),
            json_decode((string) file_get_contents($json), true)];
        self::assertSame([0, 0, 2], [$exit, $result['not_asked'], $result['stale_rows']]);
    }

    public function test_a_round_keeps_its_parameters_and_runs_says_what_is_newer(): void
    {
        $round = $this->begin();
        $this->pass($round);
        $this->deliver("no,name,country,bill_to\nK0,Zoe,N,\nK1,Anna,N,\nK2,,N,K3\nK3,Cy,X,\n");
        $page = (string) $this->get($this->at('runs'))->assertReads('Newer takes were read')->getContent();
        self::assertMatchesRegularExpression('~S/party</a>\s*</td>\s*<td class="n">1</td>\s*<td class="n">2</td>\s*<td class="n">1</td>\s*'
            .'<td class="n">1</td>\s*<td class="n">1</td>~', $page, 'K0 is new, K1 changed, K4 is gone');
        self::assertSame(4, Proofs::of($round)->loads()[$this->named('party')->id]->feedRows);
        $this->migration->parameters()->create(['name' => 'day', 'prompt' => 'Which day?', 'default_value' => '1']);
        $headless = $this->app->make(Headless::class);
        $rounds = $this->app->make(Rounds::class);
        $rounds->begin($this->migration, $this->migration->targets()->firstOrFail(), 'r9', 'rehearsal', ['day' => '5']);
        $headless->isMeant($this->migration, 'r9', null, ['day' => '5']);
        $this->expectExceptionMessage('was begun with day=5');
        $headless->isMeant($this->migration, 'r9', null, ['day' => '6']);
    }
}
