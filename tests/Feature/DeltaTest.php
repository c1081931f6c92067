<?php

namespace Tests\Feature;

use App\Decisions\CorrectionBook;
use App\Deltas\Delta;
use App\DryRuns\DryRuns;
use App\DryRuns\WorkOnDryRun;
use App\Ledger\DeltaBook;
use App\Loading\PassRunner;
use App\Loading\Rounds;
use App\Models\DryRun;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Pass;
use App\Models\PassKind;
use App\Models\Role;
use App\Models\Round;
use App\Models\WorkState;
use App\Plans\Headless;
use App\Reconciling\Proofs;
use App\Rejects\Repairs;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\TestWith;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Symfony\Component\Yaml\Yaml;
use Tests\TestCase;

/** A round follows the client's data and the rules: what differs is sent, and nothing else. */
final class DeltaTest extends TestCase
{
    private const PARTIES = ['1' => 'Abel', '2' => 'Bede', '3' => 'Cole', '4' => 'Dunn'];

    private const BOATS = ['7' => ['Tern', '1'], '8' => ['Skua', '2'], '9' => ['Auk', '2']];

    private Migration $migration;

    private string $folder;

    private Round $round;

    /**
     * @param  array<string, mixed>  $party  more about the load of parties
     * @param  array<string, mixed>  $boat
     */
    private function plan(array $party = [], array $boat = []): string
    {
        $this->folder = self::work('delta');
        @mkdir($this->folder, 0777, true);
        file_put_contents("$this->folder/plan.yaml", Yaml::dump([
            'baggage' => 1,
            'migration' => 'Delta',
            'target' => self::partiesAndBoats(', mail VARCHAR(40) NULL'),
            'sources' => [['code' => 'S', 'name' => 'S', 'extracts' => [
                ['name' => 'party', 'file' => 'party.csv'], ['name' => 'boat', 'file' => 'boat.csv'],
            ]]],
            'match_rules' => [['entity' => 'party', 'name' => 'same name', 'on' => ['name' => 'letters']]],
            'loads' => [
                $party + ['name' => 'Parties', 'entity' => 'party', 'from' => 'S/party', 'key' => ['no'], 'fields' => ['name' => 'name']],
                $boat + ['name' => 'Boats', 'entity' => 'boat', 'from' => 'S/boat', 'key' => ['no'],
                    'fields' => ['name' => 'name', 'owner' => 'parent(owner)']],
            ],
        ], 8));

        return "$this->folder/plan.yaml";
    }

    /**
     * @param  array<array-key, string>  $parties  number → name
     * @param  array<array-key, array{string, string}>  $boats  number → name and owner
     */
    private function deliver(array $parties, array $boats): void
    {
        $lines = fn (array $rows) => implode('', array_map(fn (array $r) => implode(',', $r)."\n", $rows));
        $keyed = fn (array $all) => array_map(fn ($key, $of) => [$key, ...(array) $of], array_keys($all), $all);
        file_put_contents("$this->folder/party.csv", $lines([['no', 'name'], ...$keyed($parties)]));
        file_put_contents("$this->folder/boat.csv", $lines([['no', 'name', 'owner'], ...$keyed($boats)]));
        isset($this->migration) ? $this->freeze() : null;
    }

    private function freeze(): void
    {
        $this->app->make(Headless::class)->freeze($this->migration, "$this->folder/plan.yaml", fn () => null);
    }

    /**
     * @param  array<string, mixed>  $party
     * @param  array<string, mixed>  $boat
     */
    private function begin(array $party = [], array $boat = [], array $parties = self::PARTIES, array $boats = self::BOATS): void
    {
        $plan = $this->plan($party, $boat);
        $this->deliver($parties, $boats);
        $this->migration = $this->app->make(Headless::class)->import($plan);
        $this->freeze();
        $this->actingAs($this->user(Role::Lead));
        $rounds = $this->app->make(Rounds::class);
        $this->round = $rounds->begin($this->migration, $this->migration->targets()->firstOrFail(), 'rehearsal-1');
        $this->pass(PassKind::First);
    }

    private function pass(PassKind $kind, ?Delta $delta = null): Pass
    {
        $pass = $this->app->make(Rounds::class)->pass($this->round, $kind, delta: $delta);
        PassRunner::of($pass, 0)->work();
        self::assertSame(['finished', null], [$pass->refresh()->state->value, $pass->error]);
        $this->holds();

        return $pass;
    }

    private function delta(bool $full = false): Pass
    {
        return $this->pass(PassKind::Delta, new Delta($full));
    }

    /** The law, the tallies and the target. */
    private function holds(): void
    {
        $proofs = Proofs::of($this->round->refresh());
        $tallied = $proofs->loads(false);
        foreach ($proofs->loads() as $load => $proof) {
            self::assertSame(0, $proof->unaccounted(), 'the law');
            self::assertEquals(array_filter($proof->outcomes), array_filter($tallied[$load]->outcomes), 'tallies');
        }
        foreach ($proofs->entities() as $name => $proof) {
            self::assertSame(0, $proof->targetGap(), $name);
            $stand = DB::table('outcomes as o')->join('loads as l', 'l.id', '=', 'o.load_id')
                ->join('entities as e', 'e.id', '=', 'entity_id')
                ->where('lane_id', $this->round->laneId())->where('e.name', $name)->distinct()->count('target_key');
            $grown = (int) $proof->targetAfter - (int) $proof->targetBefore - $proof->otherOrigin;
            self::assertSame($grown, $stand, "$name: keys that stand");
        }
    }

    /** @return array<int, string> id → name */
    private function parties(): array
    {
        return DB::table(self::otherDatabase().'.party')->orderBy('id')->pluck('name', 'id')->all();
    }

    /** @return array<string, int> name → owner */
    private function boats(): array
    {
        return DB::table(self::otherDatabase().'.boat')->orderBy('id')->pluck('owner', 'name')->map(fn ($n) => (int) $n)->all();
    }

    /** @return array<array-key, string> legacy key → outcome */
    private function outcomes(string $load): array
    {
        return DB::table('outcomes')->where('lane_id', $this->round->laneId())->where('load_id', $this->load0($load)->id)
            ->orderBy('item')->pluck('outcome', 'legacy_key')->all();
    }

    private function load0(string $name): Load
    {
        return $this->migration->loads()->where('name', $name)->firstOrFail();
    }

    /** @return array<string, int> */
    private function compared(Pass $pass, string $load): array
    {
        return $pass->passLoads()->where('load_id', $this->load0($load)->id)->firstOrFail()->compared ?? [];
    }

    public function test_what_came_changed_and_went(): void
    {
        $this->begin();
        // One on top, one changed, one gone, and all in another order.
        $this->deliver(['6' => 'Ford', '4' => 'Dunn', '2' => 'Bede two', '1' => 'Abel'], self::BOATS + ['10' => ['Rail', '6']]);
        $pass = $this->delta();
        self::assertSame([1 => 'Abel', 2 => 'Bede two', 3 => 'Cole', 4 => 'Dunn', 5 => 'Ford'], $this->parties());
        self::assertSame(['1' => 'loaded', '2' => 'loaded', '3' => 'review', '4' => 'loaded', '6' => 'loaded'], $this->outcomes('Parties'));
        self::assertSame(['Tern' => 1, 'Skua' => 2, 'Auk' => 2, 'Rail' => 5], $this->boats());
        self::assertEquals(
            ['added' => 1, 'changed' => 1, 'gone' => 1, 'back' => 0, 'to_do' => 2, 'rows' => 4], $this->compared($pass, 'Parties'),
        );
        // The same again costs nothing.
        $pass = $this->delta();
        self::assertSame(0, $this->compared($pass, 'Parties')['to_do'] + $this->compared($pass, 'Boats')['to_do']);
        self::assertSame(0, (int) $pass->passLoads()->sum('rows_done'));
        // All looked at anew, and nothing sent.
        $pass = $this->delta(true);
        self::assertSame(['same' => 4], $pass->passLoads()->where('load_id', $this->load0('Parties')->id)->firstOrFail()->counts);
        self::assertSame(0, DB::table('values_before')->where('pass_id', $pass->id)->count());
    }

    public function test_rows_that_are_back_stand_as_they_did(): void
    {
        $this->begin();
        $this->deliver(array_diff_key(self::PARTIES, ['3' => '']), self::BOATS);
        $this->delta();
        self::assertSame('review', $this->outcomes('Parties')['3']);
        $this->deliver(array_replace(self::PARTIES, ['3' => 'Cole again']), self::BOATS);
        $this->delta();
        self::assertSame('loaded', $this->outcomes('Parties')['3']);
        self::assertSame([1 => 'Abel', 2 => 'Bede', 3 => 'Cole again', 4 => 'Dunn'], $this->parties());
    }

    public function test_records_of_rows_that_went_are_removed_where_the_load_says_so(): void
    {
        $this->begin(['gone' => 'remove'], ['gone' => 'remove']);
        $this->deliver(['4' => 'Dunn'], ['9' => ['Auk', '2']]);
        $would = fn (string $load) => DeltaBook::wouldRemove(
            $this->round->laneId(), $this->load0($load)->id, (int) $this->load0($load)->extract->take_id,
        );
        self::assertSame([3, 2], [$would('Parties'), $would('Boats')]);
        $pass = $this->delta();
        // Bede is still the owner of a boat that is delivered.
        self::assertSame([2 => 'Bede', 4 => 'Dunn'], $this->parties());
        self::assertSame(['Auk' => 2], $this->boats());
        self::assertSame(['1' => 'withdrawn', '2' => 'review', '3' => 'withdrawn', '4' => 'loaded'], $this->outcomes('Parties'));
        $why = DB::table('row_causes as w')->join('causes as c', 'c.id', '=', 'w.cause_id')->where('w.lane_id', $this->round->laneId())
            ->orderBy('c.code')->pluck('c.code')->all();
        // The boat stands with the owner it had.
        self::assertSame(['parent_left', 'still_needed'], $why);
        $kept = DB::table('values_before')->where('pass_id', $pass->id)->where('load_id', $this->load0('Parties')->id);
        self::assertSame(2, $kept->count());
        // Its boat goes too: now nothing needs it.
        $this->migration->extracts()->update(['allow_empty' => true]);
        $this->deliver(['4' => 'Dunn'], []);
        $this->delta();
        self::assertSame([[4 => 'Dunn'], []], [$this->parties(), $this->boats()]);
        // And comes back with everything: as new ones.
        $this->deliver(self::PARTIES, self::BOATS);
        $this->delta();
        self::assertSame([4 => 'Dunn', 5 => 'Abel', 6 => 'Bede', 7 => 'Cole'], $this->parties());
        self::assertSame(['Tern' => 5, 'Skua' => 6, 'Auk' => 6], $this->boats());
    }

    public function test_a_row_that_fails_now_stands_with_its_last_good_values(): void
    {
        $this->begin();
        $this->deliver(array_replace(self::PARTIES, ['2' => str_repeat('x', 50)]), self::BOATS + ['10' => ['Rail', '2']]);
        $this->delta();
        self::assertSame('rejected', $this->outcomes('Parties')['2']);
        self::assertSame([1 => 'Abel', 2 => 'Bede', 3 => 'Cole', 4 => 'Dunn'], $this->parties());
        // Its children find it.
        self::assertSame(2, $this->boats()['Rail']);
        self::assertSame(1, Proofs::of($this->round)->loads()[$this->load0('Parties')->id]->older());
        $this->deliver(array_replace(self::PARTIES, ['2' => 'Bede again']), self::BOATS + ['10' => ['Rail', '2']]);
        $this->delta();
        self::assertSame('loaded', $this->outcomes('Parties')['2']);
        self::assertSame('Bede again', $this->parties()[2]);
        self::assertSame(0, Proofs::of($this->round)->loads()[$this->load0('Parties')->id]->older());
    }

    public function test_rules_that_changed_are_sent_where_records_differ(): void
    {
        $this->begin();
        $this->load0('Parties')->rules()->where('field', 'name')->update(['expression' => "name == 'Cole' ? 'Coal' : name"]);
        $pass = $this->delta();
        self::assertSame([1 => 'Abel', 2 => 'Bede', 3 => 'Coal', 4 => 'Dunn'], $this->parties());
        self::assertSame(['same' => 3, 'loaded' => 1], $this->sorted($pass->passLoads()->orderBy('id')->firstOrFail()->counts ?? []));
        // It is not looked at again.
        self::assertSame(0, $this->compared($this->delta(), 'Parties')['to_do']);
    }

    /**
     * @param  array<string, int>  $counts
     * @return array<string, int>
     */
    private function sorted(array $counts): array
    {
        krsort($counts);

        return $counts;
    }

    /** Whatever clusters come and go: another look at all rows changes nothing, and taken back all is as it was. */
    #[TestWith(['remove'])]
    #[TestWith(['keep'])]
    #[TestWith(['review'])]
    public function test_clusters_change_through_random_deliveries(string $policy): void
    {
        $random = new Randomizer(new Mt19937(11));
        $names = fn () => array_filter(array_map(
            fn () => ['Abel', 'ABEL', 'Bede', 'bede', 'Cole', null][$random->getInt(0, 5)], array_fill(1, 7, 0),
        ));
        $boats = fn () => array_map(fn () => ['Tern', (string) $random->getInt(1, 7)], array_fill(1, 4, 0));
        $more = ['gone' => $policy, 'policy' => 'create_or_update', 'match' => ['same name']];
        $this->begin($more, ['gone' => $policy], $names(), $boats());
        $parties = fn () => DB::table(self::otherDatabase().'.party')->orderBy('id')->get()->all();
        $state = fn () => [$this->ledgerLines(), $parties(), $this->boats()];
        for ($n = 0; $n < 5; $n++) {
            $before = $state();
            $this->deliver($names(), $boats());
            $pass = $this->delta();
            if ($random->getInt(0, 1) === 0) {
                $this->backOut($pass->number);
                self::assertEquals($before, $state(), "delivery $n taken back");

                continue;
            }
            $after = $state();
            $this->delta(true);
            self::assertEquals($after, $state(), "delivery $n looked at anew");
        }
    }

    public function test_a_member_of_a_cluster_takes_over_what_its_survivor_leaves(): void
    {
        $matches = ['policy' => 'create_or_update', 'match' => ['same name']];
        $this->begin($matches, [], ['1' => 'Abel', '2' => 'abel', '3' => 'ABEL', '4' => 'Dunn'], ['7' => ['Tern', '3']]);
        self::assertSame(['1' => 'loaded', '2' => 'merged', '3' => 'merged', '4' => 'loaded'], $this->outcomes('Parties'));
        $this->deliver(['2' => 'abel', '3' => 'ABEL', '4' => 'Dunn'], ['7' => ['Tern', '3']]);
        $this->delta();
        self::assertSame(['1' => 'withdrawn', '2' => 'loaded', '3' => 'merged', '4' => 'loaded'], $this->outcomes('Parties'));
        self::assertSame([[1 => 'abel', 2 => 'Dunn'], ['Tern' => 1]], [$this->parties(), $this->boats()]);
        // One that matches no more gets its own record, and its children go with it.
        $this->deliver(['2' => 'abel', '3' => 'Cain', '4' => 'Dunn'], ['7' => ['Tern', '3']]);
        $this->delta();
        self::assertSame(['2' => 'loaded', '3' => 'loaded', '4' => 'loaded'], array_slice($this->outcomes('Parties'), 1, null, true));
        self::assertSame([[1 => 'abel', 2 => 'Dunn', 3 => 'Cain'], ['Tern' => 3]], [$this->parties(), $this->boats()]);
    }

    /** @return array<string, mixed> of the target and the ledger */
    private function everything(): array
    {
        $lane = $this->round->laneId();
        $all = fn (string $sql) => array_map(get_object_vars(...), DB::select($sql));

        return [
            'party' => $all('SELECT * FROM '.self::otherDatabase().'.party ORDER BY id'),
            'boat' => $all('SELECT * FROM '.self::otherDatabase().'.boat ORDER BY id'),
            'outcomes' => $all("SELECT load_id, item, legacy_key, stands, outcome, target_key, HEX(sent_hash) AS h, pass_id FROM outcomes
                WHERE lane_id = $lane ORDER BY load_id, item"),
            'causes' => $all("SELECT load_id, item, cause_id FROM row_causes WHERE lane_id = $lane ORDER BY load_id, item"),
            'matches' => $all("SELECT match_key, target_key, load_id, item FROM match_entries WHERE lane_id = $lane ORDER BY match_key"),
            'made' => $all("SELECT entity_id, made FROM record_counters WHERE lane_id = $lane ORDER BY entity_id"),
            'takes' => $all("SELECT load_id, take_id, feed_rows FROM round_loads WHERE round_id = {$this->round->id} ORDER BY load_id"),
        ];
    }

    public function test_a_delta_is_taken_back_whole(): void
    {
        $this->begin(['gone' => 'remove'], ['gone' => 'remove']);
        $loaded = $this->everything();
        // Removed with all their boats, changed, failed, moved to another owner, and new.
        $this->deliver(['6' => 'Ford', '2' => 'Bede two', '4' => str_repeat('x', 50)], ['8' => ['Skua', '6'], '10' => ['Rail', '6']]);
        $this->delta();
        self::assertSame([2 => 'Bede', 4 => 'Dunn', 5 => 'Ford'], array_replace($this->parties(), [2 => 'Bede']));
        self::assertSame(['Skua' => 5, 'Rail' => 5], $this->boats());
        $second = $this->everything();
        $this->deliver(self::PARTIES, self::BOATS);
        $this->delta();
        $this->backOut(3);
        self::assertEquals($second, $this->everything());
        $this->backOut(2);
        self::assertEquals($loaded, $this->everything());
        // And done again.
        $this->delta();
        $this->backOut(1);
        self::assertSame([[], []], [$this->parties(), $this->boats()]);
        self::assertSame(['pending'], array_values(array_unique($this->outcomes('Parties') + $this->outcomes('Boats'))));
    }

    /** @return array<int, array{string, string|null}> row → outcome and target key */
    private function stand(): array
    {
        return DB::table('outcomes')->orderBy('item')->get()->mapWithKeys(fn ($o) => [$o->item => [$o->outcome, $o->target_key]])->all();
    }

    #[TestWith(['b'])]
    #[TestWith([''])]
    public function test_a_repaired_row_takes_the_record_of_a_later_one_that_is_worked_on_with_it(string $later): void
    {
        $plan = $this->smallPlan("no,name\n1,\n1,b\n2,c\n", '{code: no, name: name}');
        $this->migration = $this->demoMigration(dirname($plan));
        $this->round = $this->load($this->migration);
        $key = $this->stand()[2][1];
        self::assertSame([['rejected', null], ['loaded', $key]], [$this->stand()[1], $this->stand()[2]]);
        $take = $this->migration->loads()->firstOrFail()->extract->take;
        $this->app->make(CorrectionBook::class)->cells($take, [1], 'name', 'a', '');
        $later === 'b' ?: $this->app->make(CorrectionBook::class)->cells($take, [2], 'name', $later, '');
        // Both are mapped anew, in one stretch.
        $pass = $this->app->make(Rounds::class)->pass($this->round->refresh(), PassKind::Delta, delta: new Delta(true));
        PassRunner::of($pass, 0)->work();
        self::assertSame(['finished', null], [$pass->refresh()->state->value, $pass->error]);
        self::assertSame([['loaded', $key], ['rejected', null]], [$this->stand()[1], $this->stand()[2]]);
        self::assertSame('a', $this->targetRows("SELECT name FROM harbour WHERE id = $key")[0][0]);
    }

    private function backOut(int $number): void
    {
        $pass = $this->app->make(Rounds::class)->backOut($this->round, $number);
        PassRunner::of($pass, 0)->work();
        self::assertSame(['finished', null, 0], [$pass->refresh()->state->value, $pass->error, $pass->left_records]);
        $this->holds();
    }

    public function test_the_command_line_says_beforehand_what_it_would_do(): void
    {
        $this->begin(['gone' => 'remove'], ['gone' => 'remove']);
        $this->deliver(['4' => 'Dunn two', '5' => 'Eads', '2' => 'Bede'], ['9' => ['Auk', '2']]);
        $run = function (array $more): array {
            $file = "$this->folder/result.json";
            @unlink($file);
            $plan = ['plan' => "$this->folder/plan.yaml", '--round' => 'rehearsal-1', '--json' => $file];
            $code = Artisan::call('baggage:run', $plan + $more);

            return [$code, json_decode((string) file_get_contents($file), true)];
        };
        [$code, $result] = $run(['--delta' => true, '--dry-run' => true]);
        self::assertSame(1, $code);
        self::assertEquals([
            ['load' => 'Parties', 'added' => 1, 'changed' => 1, 'gone' => 2, 'untouched' => 1, 'to_map' => 1, 'would_remove' => 2,
                'records_made' => 1, 'records_changed' => 1, 'fields' => ['name' => 1]],
            ['load' => 'Boats', 'added' => 0, 'changed' => 0, 'gone' => 2, 'untouched' => 1, 'to_map' => 0, 'would_remove' => 2,
                'records_made' => 0, 'records_changed' => 0, 'fields' => []],
        ], $result['dry_run']['loads']);
        self::assertSame([1 => 'Abel', 2 => 'Bede', 3 => 'Cole', 4 => 'Dunn'], $this->parties());
        foreach ([null, '3'] as $said) {
            [$code, $result] = $run(['--delta' => true, '--confirm-remove' => $said]);
            self::assertSame(2, $code);
            self::assertStringContainsString('--confirm-remove=4', $result['errors'][0]['message']);
        }
        self::assertSame(1, $this->round->passes()->count());
        [$code, $result] = $run(['--delta' => true, '--confirm-remove' => '4']);
        self::assertSame([0, true], [$code, $result['proofs_hold']]);
        self::assertEquals([
            'load' => 'Parties', 'added' => 1, 'changed' => 1, 'gone' => 2, 'back' => 0, 'untouched' => 1, 'as_before' => 0, 'made' => 1,
            'removed' => 2,
            'outcomes' => ['loaded' => 2, 'review' => 0],
        ], $result['delta'][0]);
        self::assertSame([2 => 'Bede', 4 => 'Dunn two', 5 => 'Eads'], $this->parties());
        self::assertSame(0, $run(['--delta' => true, '--dry-run' => true])[0]);
        self::assertSame(2, $run(['--full' => true])[0]);
        $this->holds();
    }

    public function test_the_screens_offer_it_and_show_what_it_did(): void
    {
        $this->begin(['gone' => 'remove']);
        $at = "/m/{$this->migration->id}";
        $this->get("$at/runs")->assertOk()->assertDontSee('Run a delta');
        $this->deliver(['4' => 'Dunn two', '2' => 'Bede', '1' => str_repeat('x', 50)], self::BOATS);
        $this->get("$at/runs")->assertReads('Run a delta')->assertReads('remove records of rows delivered no more');
        $this->post("$at/runs/delta")->assertSessionHas('refused');
        // Those that went before go too where the takes stay.
        $this->post("$at/runs/delta", ['keep_takes' => 1])->assertSessionHas('refused');
        $this->post("$at/runs/delta", ['removes' => 1])->assertSessionMissing('refused');
        $pass = $this->round->passes()->latest('id')->firstOrFail();
        self::assertSame([PassKind::Delta, 'finished'], [$pass->kind, $pass->state->value]);
        $this->get("$at/runs")->assertReads('a delta: what differs')->assertReads('As before')->assertDontSee('Run a delta');
        $this->get("$at/reconciliation")->assertReads('With older values')->assertReads('Gone, no record');
        $load = $this->load0('Parties')->id;
        $this->get("$at/rows?load=$load&outcome=withdrawn")->assertReads('no longer delivered');
        // What it was is shown as it was delivered the last time.
        $this->get("$at/rows/$load/3")->assertOk()->assertSee('Cole');
        $this->get("$at/rows/$load/1")->assertOk()->assertReads('rejected');
        $this->post("$at/mapping/loads/$load", ['key' => ['no'], 'key_normalisation' => 'trim', 'policy' => 'create', 'gone' => 'keep']);
        self::assertSame('keep', $this->load0('Parties')->gone->value);
        $this->holds();
    }

    /** Columns may come, go and change places: only what records say counts. */
    public function test_columns_in_another_order_change_nothing(): void
    {
        $this->begin();
        $lines = fn (array $rows) => implode('', array_map(fn (array $r) => implode(',', $r)."\n", $rows));
        file_put_contents("$this->folder/party.csv", $lines([
            ['name', 'no', 'since'], ['Abel', '1', ''], ['Bede', '2', 'x'], ['Cole', '3', ''], ['Dunn', '4', ''],
        ]));
        $this->freeze();
        $pass = $this->delta();
        self::assertSame(['same' => 4], $pass->passLoads()->orderBy('id')->firstOrFail()->counts);
        self::assertSame(0, DB::table('values_before')->where('pass_id', $pass->id)->count());
        $this->backOut(2);
        self::assertSame(1, $this->load0('Parties')->extract->takes()->find(DB::table('round_loads')->value('take_id'))?->number);
    }

    public function test_a_dry_run_says_what_it_would_do_and_its_rows_can_be_opened(): void
    {
        $this->begin(['gone' => 'keep', 'others' => 'keep', 'fields' => ['name' => 'name', 'mail' => 'name']], ['gone' => 'remove']);
        DB::table(self::otherDatabase().'.party')->where('id', 2)->update(['name' => 'by hand']);
        $this->deliver(['1' => 'Abel two', '2' => 'Bede two', '3' => 'Cole', '5' => 'Eads'], ['7' => ['Tern', '5'], '8' => ['Skua', '99']]);
        $this->get("/m/{$this->migration->id}/runs")->assertReads('Dry run');
        $this->post("/m/{$this->migration->id}/dry-runs", ['delta' => 1])->assertSessionMissing('refused');
        $run = DryRun::query()->firstOrFail();
        (new WorkOnDryRun($run->id))->handle();
        self::assertSame(WorkState::Done, $run->refresh()->state, (string) $run->error);
        $at = "/m/{$this->migration->id}/dry-runs/$run->id";
        $this->get($at)->assertReads('1 row came, 2 are delivered no more, 1 record would be made, 3 changed, '
            .'1 removed unless something refers to them, 1 row is not touched.');
        $boats = $this->load0('Boats')->id;
        $this->get("$at?load=$boats&what=changed")->assertReads('owner: 1 becomes (new '.$this->load0('Parties')->id.'.5)')
            ->assertDontSee('Skua');
        $this->get("$at?what=changed")->assertReads('name: Abel becomes Abel two')->assertReads('mail: Bede becomes Bede two')
            ->assertDontSee('by hand');
        $this->get("$at?what=gone")->assertSee('>4<', false)->assertDontSee('Abel');
        $this->get("$at?what=added")->assertSee('>5<', false)->assertDontSee('Abel');
        $pass = $this->delta();
        self::assertSame([null, []], [$pass->compared['because'], $pass->compared['kinds']]);
        // The one who failed keeps its record, and is in the way of nobody.
        self::assertSame(['Tern' => 5, 'Skua' => 2], $this->boats());
    }

    public function test_what_others_changed_is_told_when_it_is_written_over(): void
    {
        $this->begin();
        $party = DB::table(self::otherDatabase().'.party');
        (clone $party)->where('id', 1)->update(['name' => 'Abel by hand']);
        // A field without a rule is nobody's affair, and a record that does not change neither.
        (clone $party)->where('id', 2)->update(['mail' => 'bede@post.example']);
        (clone $party)->where('id', 4)->update(['name' => 'Dunn by hand']);
        $this->deliver(array_replace(self::PARTIES, ['1' => 'Abel two', '2' => 'Bede two', '3' => 'Cole two']), self::BOATS);
        $pass = $this->delta();
        self::assertSame([1 => 'Abel two', 2 => 'Bede two', 3 => 'Cole two', 4 => 'Dunn by hand'], $this->parties());
        self::assertSame('bede@post.example', (clone $party)->where('id', 2)->value('mail'));
        self::assertSame(1, $pass->left_records);
        $this->get("/m/{$this->migration->id}/runs")->assertReads('1 record somebody else had changed')
            ->assertReads('Written over what somebody had changed: name');
        $this->backOut(2);
        self::assertSame([1 => 'Abel by hand', 2 => 'Bede', 3 => 'Cole', 4 => 'Dunn by hand'], $this->parties());
    }

    public function test_what_others_changed_is_kept_field_by_field(): void
    {
        $this->begin(['others' => 'keep', 'fields' => ['name' => 'name', 'mail' => 'name']]);
        $party = DB::table(self::otherDatabase().'.party');
        (clone $party)->where('id', 1)->update(['name' => 'Abel by hand']);
        (clone $party)->where('id', 2)->update(['name' => 'Bede two']);
        (clone $party)->where('id', 3)->update(['name' => 'C', 'mail' => 'c']);
        $this->deliver(array_replace(self::PARTIES, ['1' => 'Abel two', '2' => 'Bede two', '3' => 'Cole two']), self::BOATS);
        $pass = $this->delta();
        self::assertSame([1 => 'Abel by hand', 2 => 'Bede two', 3 => 'C', 4 => 'Dunn'], $this->parties());
        self::assertSame(['Abel two', 'Bede two', 'c', 'Dunn'], (clone $party)->orderBy('id')->pluck('mail')->all());
        // Where somebody had entered what the row says now there is nothing to tell.
        $told = DB::table('left_records')->where('pass_id', $pass->id)->orderBy('item')->pluck('why', 'item')->all();
        self::assertSame([1 => 'Kept what somebody had changed: name', 3 => 'Kept what somebody had changed: name, mail'], $told);
        // Theirs it stays, and what is as it was sent is nobody's.
        $this->deliver(array_replace(self::PARTIES, ['1' => 'Abel three', '2' => 'Bede three', '3' => 'Cole two']), self::BOATS);
        $this->delta();
        self::assertSame([1 => 'Abel by hand', 2 => 'Bede three', 3 => 'C', 4 => 'Dunn'], $this->parties());
        $this->backOut(3);
        $this->backOut(2);
        self::assertSame([1 => 'Abel by hand', 2 => 'Bede two', 3 => 'C', 4 => 'Dunn'], $this->parties());
        self::assertSame(['Abel', 'Bede', 'c', 'Dunn'], (clone $party)->orderBy('id')->pluck('mail')->all());
    }

    public function test_what_others_changed_waits_until_somebody_decides(): void
    {
        $this->begin(['others' => 'review']);
        $party = DB::table(self::otherDatabase().'.party');
        (clone $party)->whereIn('id', [1, 4])->update(['name' => 'by hand']);
        $this->deliver(array_replace(self::PARTIES, ['1' => 'Abel two', '2' => 'Bede two']), self::BOATS);
        $pass = $this->delta();
        self::assertSame([1 => 'by hand', 2 => 'Bede two', 3 => 'Cole', 4 => 'by hand'], $this->parties());
        self::assertSame(1, $pass->passLoads()->orderBy('id')->firstOrFail()->counts['rejected'] ?? 0);
        self::assertSame(1, Proofs::of($this->round)->loads()[$this->load0('Parties')->id]->older());
        $this->get("/m/{$this->migration->id}/rejects")->assertReads('Somebody changed this in the target')->assertReads('by hand');
        $this->get("/m/{$this->migration->id}/rows/party?older=1")->assertReads('stands with older values')->assertReads('Somebody changed')
            ->assertDontSee('Bede two');
        // It goes on standing: children find it, another delta asks again.
        $this->deliver(array_replace(self::PARTIES, ['1' => 'Abel three']), ['6' => ['Gull', '1']] + self::BOATS);
        $this->delta();
        self::assertSame(['by hand', 1], [$this->parties()[1], $this->boats()['Gull']]);
        // A person decides: the load says so, and the rows it left are asked for again.
        $this->load0('Parties')->update(['others' => 'keep']);
        $this->pass(PassKind::Retry);
        self::assertSame('by hand', $this->parties()[1]);
        self::assertSame(0, Proofs::of($this->round)->loads()[$this->load0('Parties')->id]->older());
        $this->load0('Parties')->update(['others' => 'overwrite']);
        $this->deliver(array_replace(self::PARTIES, ['1' => 'Abel four']), ['6' => ['Gull', '1']] + self::BOATS);
        $pass = $this->delta();
        self::assertSame(['Abel four', 'Bede', 'Cole', 'by hand'], array_values($this->parties()));
        $told = DB::table('left_records')->where('pass_id', $pass->id)->value('why');
        self::assertSame('Written over what somebody had changed: name', $told);
    }

    /** @return list<array<string, mixed>> what the ledger says of rows and their references */
    private function ledgerLines(): array
    {
        return [
            ...array_map(get_object_vars(...), DB::select('SELECT load_id, item, legacy_key, stands, outcome, target_key FROM outcomes
                ORDER BY load_id, item')),
            ...array_map(get_object_vars(...), DB::select('SELECT load_id, legacy_key FROM waivers ORDER BY id')),
        ];
    }

    public function test_rows_get_new_keys_where_the_key_is_stated_another_way(): void
    {
        $this->begin(['gone' => 'keep'], [], self::PARTIES + ['5' => str_repeat('x', 50)]);
        $this->deliver(array_diff_key(self::PARTIES, ['3' => '']) + ['5' => str_repeat('x', 50)], self::BOATS);
        $this->delta();
        $parties = $this->load0('Parties');
        $this->app->make(Repairs::class)->waiveRow($this->round, $parties, 5, 'too long');
        [$before, $target] = [$this->ledgerLines(), [$this->parties(), $this->boats()]];
        $parties->update(['key_columns' => ['name'], 'key_normalisation' => 'capitals']);
        $this->deliver(
            array_diff_key(self::PARTIES, ['3' => '']) + ['5' => str_repeat('x', 50), '6' => 'Finn'],
            ['7' => ['Tern', 'abel'], '8' => ['Skua', 'bede'], '9' => ['Auk', 'BEDE'], '10' => ['Rail', 'cole']],
        );
        $pass = $this->delta();
        self::assertSame([1 => 'Abel', 2 => 'Bede', 3 => 'Cole', 4 => 'Dunn', 5 => 'Finn'], $this->parties());
        self::assertSame(['Tern' => 1, 'Skua' => 2, 'Auk' => 2, 'Rail' => 3], $this->boats());
        // Nothing was sent for rows that say the same.
        self::assertSame(0, DB::table('values_before')->where('pass_id', $pass->id)->count());
        $keys = DB::table('outcomes')->where('load_id', $parties->id)->orderBy('item')->pluck('legacy_key', 'item')->all();
        self::assertSame(['ABEL', 'BEDE', 'COLE', 'DUNN', 'FINN'], array_values(array_filter($keys, fn ($k) => strlen($k) < 9)));
        // Delivered no more it has its key from the take that had it; what was decided follows too.
        self::assertSame(['COLE', str_repeat('X', 50)], [$keys[3], DB::table('waivers')->value('legacy_key')]);
        self::assertSame('waived', $this->outcomes('Parties')[str_repeat('X', 50)]);
        $this->backOut(3);
        self::assertSame([$before, $target], [$this->ledgerLines(), [$this->parties(), $this->boats()]]);
        // Once more, and once more without anything to do.
        $this->delta();
        $lines = $this->ledgerLines();
        $this->delta(true);
        self::assertSame($lines, $this->ledgerLines());
    }

    public function test_a_second_round_is_matched_against_the_first(): void
    {
        $this->begin();
        $rounds = $this->app->make(Rounds::class);
        $first = $this->round;
        DB::table(self::otherDatabase().'.boat')->where('name', 'Tern')->delete();
        $this->deliver(array_replace(self::PARTIES, ['1' => 'Abel two']) + ['5' => 'Eads'], self::BOATS + ['10' => ['Rail', '5']]);
        $this->actingAs($this->user(Role::Lead));
        $at = "/m/{$this->migration->id}/runs";
        $target = $this->migration->targets()->firstOrFail();
        $asked = ['name' => 'rehearsal-2', 'kind' => 'rehearsal', 'target' => $target->id];
        $this->from($at)->post("$at/rounds", $asked + ['against' => 'x'])->assertSessionHasErrors('against');
        $this->from($at)->post("$at/rounds", $asked + ['against' => ''])->assertSessionHas('inUse');
        $this->get($at)->assertReads('made of their legacy keys by')->assertSee('rehearsal-1');
        $run = DryRuns::ofFirst($this->migration, $target, [], [], $first);
        (new WorkOnDryRun($run->id))->handle();
        config(['queue.default' => 'null']);
        $this->post("$at/rounds", $asked + ['against' => $first->id])->assertSessionMissing('refused');
        $this->round = $this->migration->rounds()->where('name', 'rehearsal-2')->firstOrFail();
        $pass = $this->round->passes()->firstOrFail();
        PassRunner::of($pass, 0)->work();
        self::assertSame(['finished', null], [$pass->refresh()->state->value, $pass->error]);
        // Taken as they are; what is not there, or came since, is made.
        self::assertSame([1 => 'Abel', 2 => 'Bede', 3 => 'Cole', 4 => 'Dunn', 5 => 'Eads'], $this->parties());
        self::assertSame(['Skua' => 2, 'Auk' => 2, 'Tern' => 1, 'Rail' => 5], $this->boats());
        self::assertSame(['1' => 'unchanged', '2' => 'unchanged', '3' => 'unchanged', '4' => 'unchanged', '5' => 'loaded'],
            $this->outcomes('Parties'));
        self::assertSame([null, []], [$pass->compared['because'], $pass->compared['kinds']]);
        $this->get($at)->assertReads('Its rows are the records rehearsal-1 made of their legacy keys');
        self::assertTrue(Proofs::of($this->round)->entities()['party']->holds());
        // Nobody takes the first back while the second stands on its records.
        $back = $rounds->backOut($first, 1);
        PassRunner::of($back, 0)->work();
        self::assertStringContainsString('Round rehearsal-2 stands on', (string) $back->refresh()->error);
        $this->expectExceptionMessage('Nothing of round rehearsal-3 stands');
        $rounds->begin($this->migration, $target, 'rehearsal-4', earlier: $rounds->begin($this->migration, $target, 'rehearsal-3'));
    }

    public function test_a_key_may_be_of_a_column_that_came_with_the_next_delivery(): void
    {
        $this->begin(['gone' => 'keep']);
        // What identifies its rows is stated: their key does not from now on, as the take before has not got it.
        $this->load0('Parties')->extract->update(['row_key' => ['no']]);
        $this->load0('Parties')->update(['key_columns' => ['code']]);
        $rows = [['no', 'name', 'code'], ['1', 'Abel', 'A'], ['2', 'Bede', 'B'], ['4', 'Dunn', 'D'], ['5', 'Eads', 'E']];
        file_put_contents("$this->folder/party.csv", implode('', array_map(fn (array $r) => implode(',', $r)."\n", $rows)));
        file_put_contents("$this->folder/boat.csv", "no,name,owner\n7,Tern,A\n8,Skua,B\n9,Auk,B\n");
        $this->freeze();
        $pass = $this->delta();
        self::assertSame([1 => 'Abel', 2 => 'Bede', 3 => 'Cole', 4 => 'Dunn', 5 => 'Eads'], $this->parties());
        self::assertSame(0, DB::table('values_before')->where('pass_id', $pass->id)->count());
        // One that no take has a new key of keeps the one it had.
        self::assertSame(['A', 'B', '3', 'D', 'E'], array_map(strval(...), array_keys($this->outcomes('Parties'))));
        $this->backOut(2);
        self::assertSame([1, 2, 3, 4], array_keys($this->outcomes('Parties')));
        // A column no take has: the load says so, as in any pass.
        $this->load0('Parties')->update(['key_columns' => ['nowhere']]);
        $pass = $this->app->make(Rounds::class)->pass($this->round, PassKind::Delta, delta: new Delta);
        PassRunner::of($pass, 0)->work();
        self::assertSame('failed', $pass->refresh()->state->value, (string) $pass->error);
        self::assertStringContainsString('nowhere', (string) $pass->passLoads()->orderBy('id')->firstOrFail()->error);
    }

    public function test_two_rows_that_stand_do_not_get_one_key(): void
    {
        $this->begin([], [], ['1' => 'Abel', '2' => 'Bede', '3' => 'abel']);
        $before = $this->ledgerLines();
        $this->load0('Parties')->update(['key_columns' => ['name'], 'key_normalisation' => 'capitals']);
        foreach ([PassKind::Delta, PassKind::Retry] as $kind) {
            $pass = $this->app->make(Rounds::class)->pass($this->round, $kind, delta: $kind === PassKind::Delta ? new Delta : null);
            PassRunner::of($pass, 0)->work();
            self::assertSame('finished', $pass->refresh()->state->value, (string) $pass->error);
            self::assertStringContainsString('would have the legacy key ABEL: row 1 of Parties', (string) $pass->error);
            self::assertSame($before, $this->ledgerLines());
        }
        $this->load0('Parties')->update(['key_columns' => ['no'], 'key_normalisation' => 'trim']);
        $this->delta();
        // Keys that change places.
        $this->deliver(['2' => 'Abel', '1' => 'Bede', '3' => 'abel'], self::BOATS);
        $this->holds();
    }

    public function test_what_cannot_be_followed_is_refused_in_words(): void
    {
        $this->begin();
        $refused = function (string $why): void {
            try {
                $this->app->make(Rounds::class)->pass($this->round, PassKind::Delta, delta: new Delta);
                self::fail('It was begun.');
            } catch (\DomainException $e) {
                self::assertStringContainsString($why, $e->getMessage());
            }
            self::assertSame(1, $this->round->passes()->count());
        };
        // As an older version froze it.
        $this->deliver(['4' => 'Dunn'], self::BOATS);
        $this->load0('Parties')->extract->take?->update(['last_row' => null]);
        $refused('Take 2 of party was frozen by a version');
        // Read again it is known which row is which.
        $this->load0('Parties')->extract->take?->update(['last_row' => 4]);
        $this->delta();
        self::assertSame(['1' => 'review', '2' => 'review', '3' => 'review', '4' => 'loaded'], $this->outcomes('Parties'));
    }

    /** A pass that is ended early leaves to the next what it did not come to. */
    public function test_what_an_ended_delta_found_is_sent_by_the_next(): void
    {
        $this->begin(['gone' => 'remove'], ['gone' => 'remove']);
        $this->deliver(['2' => 'Bede two', '4' => 'Dunn two', '5' => 'Eads'], ['8' => ['Skua two', '2'], '10' => ['Rail', '5']]);
        $pass = $this->app->make(Rounds::class)->pass($this->round, PassKind::Delta, delta: new Delta);
        DB::unprepared("CREATE TRIGGER broken BEFORE INSERT ON values_before FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'x'");
        PassRunner::of($pass, 0)->work();
        DB::unprepared('DROP TRIGGER broken');
        self::assertSame('stopped', $pass->refresh()->state->value);
        PassRunner::of($pass, 0)->end();
        self::assertSame('finished', $pass->refresh()->state->value);
        $at = "/m/{$this->migration->id}/runs";
        $this->get($at)->assertReads('found by a delta that was ended before it sent')->assertReads('Run a delta');
        // What it was to remove is counted again before the next one.
        $parties = $this->load0('Parties');
        self::assertSame(2, DeltaBook::wouldRemove($this->round->laneId(), $parties->id, (int) $parties->extract->take_id));
        $this->delta();
        self::assertSame([2 => 'Bede two', 4 => 'Dunn two', 5 => 'Eads'], $this->parties());
        self::assertSame(['Skua two' => 2, 'Rail' => 5], $this->boats());
        $this->get($at)->assertDontSee('was ended before it sent');
    }
}
