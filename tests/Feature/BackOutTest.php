<?php

namespace Tests\Feature;

use App\Ledger\BackOutBook;
use App\Loading\PassRunner;
use App\Loading\Rounds;
use App\Loading\WorkOutDue;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Pass;
use App\Models\PassKind;
use App\Models\PassState;
use App\Models\Role;
use App\Models\Round;
use App\Plans\Headless;
use App\Reconciling\Report;
use Illuminate\Support\Facades\DB;
use Symfony\Component\Process\Process;
use Symfony\Component\Yaml\Yaml;
use Tests\TestCase;

/** What passes wrote is taken back, and nothing else. */
final class BackOutTest extends TestCase
{
    private Migration $migration;

    private Round $round;

    private function loaded(): void
    {
        [$this->migration, $this->round] = $this->loadedDemo(self::smallDemo());
    }

    private function rounds(): Rounds
    {
        return $this->app->make(Rounds::class);
    }

    private function backOut(int $number): Pass
    {
        $pass = $this->rounds()->backOut($this->round, $number);
        PassRunner::of($pass, 0)->work();
        self::assertSame([PassState::Finished, null], [$pass->refresh()->state, $pass->error]);

        return $pass;
    }

    private function again(): Pass
    {
        $pass = $this->rounds()->pass($this->round, PassKind::Retry);
        PassRunner::of($pass, 0)->work();
        self::assertSame(PassState::Finished, $pass->refresh()->state, (string) $pass->error);

        return $pass;
    }

    /** @return array<string, list<list<string|null>>> table → records, without our own tables */
    private function dump(): array
    {
        $dump = [];
        foreach ($this->targetRows('SHOW FULL TABLES WHERE Table_type = \'BASE TABLE\'') as [$table]) {
            $isOurs = str_starts_with((string) $table, 'baggage_receipts');
            $dump[$table] = $isOurs ? [] : $this->targetRows("SELECT * FROM `$table` ORDER BY 1");
        }

        return $dump;
    }

    /** @return array<string, list<mixed>> what the ledger says, but for numbers of passes */
    private function ledger(): array
    {
        $lane = $this->round->laneId();
        $all = fn (string $table, string $columns, string $order) => DB::select(
            "SELECT $columns FROM $table WHERE lane_id = $lane ORDER BY $order",
        );

        return [
            'outcomes' => $all('outcomes', 'load_id, item, legacy_key, stands, outcome, target_key, HEX(sent_hash) AS h', 'load_id, item'),
            'causes' => $all('row_causes', 'load_id, item, cause_id, root_cause_id', 'load_id, item'),
            'links' => $all('links', 'load_id, item, field, parent_key, target_key, state', 'load_id, item, field'),
            'matches' => $all('match_entries', 'entity_id, match_key, target_key, load_id, item', 'entity_id, match_key'),
            'tallies' => array_values(array_filter(
                $all('tallies', 'load_id, outcome, n', 'load_id, outcome'),
                fn ($t) => (int) $t->n !== 0,
            )),
            'of causes' => array_values(array_filter(
                $all('cause_tallies', 'cause_id, outcome, n', 'cause_id, outcome'),
                fn ($t) => (int) $t->n !== 0,
            )),
            'made' => $all('record_counters', 'entity_id, made', 'entity_id'),
        ];
    }

    public function test_a_first_pass_is_taken_back_whole_and_made_again(): void
    {
        $this->migration = $this->demoMigration(self::smallDemo());
        $before = $this->dump();
        $this->round = $this->load($this->migration);
        $loaded = $this->ledger();
        $pass = $this->backOut(1);
        $after = $this->dump();
        self::assertSame([], $after['baggage_marks']);
        unset($after['baggage_marks'], $after['baggage_receipts']);
        self::assertEquals($before, $after);
        $report = (new Report)->of($this->round->refresh());
        self::assertTrue($report['proofs_hold']);
        foreach ($report['loads'] as $of) {
            self::assertSame(['pending' => $of['feed_rows']], array_filter($of['outcomes']), $of['load']);
        }
        self::assertSame([0], DB::table('record_counters')->distinct()->pluck('made')->map(intval(...))->all());
        self::assertSame($pass->id, (int) $this->round->passes()->where('number', 1)->value('backed_out_by'));
        self::assertSame(0, DB::table('values_before')->count());
        // And once more: all rows wait for whoever asks.
        $this->again();
        $same = fn (array $ledger) => array_map(fn ($o) => [$o->load_id, $o->item, $o->outcome], $ledger['outcomes']);
        self::assertSame($same($loaded), $same($this->ledger()));
        self::assertTrue((new Report)->of($this->round->refresh())['proofs_hold']);
    }

    public function test_a_retry_is_taken_back_and_the_pass_before_it_stands(): void
    {
        $this->loaded();
        [$target, $ledger] = [$this->dump(), $this->ledger()];
        $this->repairs();
        $this->again();
        self::assertNotEquals($target, $this->dump());
        $this->backOut(2);
        self::assertEquals($target, $this->dump());
        self::assertEquals($ledger, $this->ledger());
        self::assertTrue((new Report)->of($this->round->refresh())['proofs_hold']);
        // What was decided stands, and is due again.
        $this->again();
        $done = $this->ledger();
        $this->backOut(4);
        $this->again();
        self::assertEquals(array_column($done['outcomes'], 'outcome'), array_column($this->ledger()['outcomes'], 'outcome'));
        // The first pass with all that came after it.
        $this->backOut(1);
        self::assertSame(0, (int) DB::table('record_counters')->sum(DB::raw('ABS(made)')));
        try {
            $this->rounds()->backOut($this->round, 2);
            self::fail('twice');
        } catch (\DomainException $e) {
            self::assertStringContainsString('no pass 2', $e->getMessage());
        }
    }

    /** Parties with a parent of their own, names that change them, and boats of theirs, in a database beside. */
    private function parties(): void
    {
        $folder = self::work('back-out');
        @mkdir($folder, 0777, true);
        file_put_contents("$folder/party.csv", "no,name,bill\n1,Ann,2\n2,Bo,\n3,Cy,1\n4,,\n");
        file_put_contents("$folder/boat.csv", "no,name,owner\n1,Tern,1\n2,Gull,3\n3,Lark,4\n");
        file_put_contents("$folder/names.csv", "no,name\n2,Bob\n2,Bobby\n3,Cyd\n");
        $more = ', mail VARCHAR(40) NULL, bill INT NULL, FOREIGN KEY (bill) REFERENCES party (id)';
        file_put_contents("$folder/plan.yaml", Yaml::dump([
            'baggage' => 1,
            'migration' => 'Parties',
            'target' => self::partiesAndBoats($more),
            'sources' => [['code' => 'S', 'name' => 'S', 'extracts' => [
                ['name' => 'party', 'file' => 'party.csv'],
                ['name' => 'boat', 'file' => 'boat.csv'],
                ['name' => 'names', 'file' => 'names.csv'],
            ]]],
            'loads' => [
                ['name' => 'Parties', 'entity' => 'party', 'from' => 'S/party', 'key' => ['no'],
                    'fields' => ['name' => 'name', 'bill' => 'parent(bill)']],
                ['name' => 'Names', 'entity' => 'party', 'from' => 'S/names', 'key' => ['no'], 'policy' => 'update',
                    'fields' => ['name' => 'name']],
                ['name' => 'Boats', 'entity' => 'boat', 'from' => 'S/boat', 'key' => ['no'],
                    'fields' => ['name' => 'name', 'owner' => 'parent(owner)']],
            ],
        ], 8));
        $headless = $this->app->make(Headless::class);
        $this->migration = $headless->import("$folder/plan.yaml");
        $headless->freeze($this->migration, "$folder/plan.yaml", fn () => null);
        $this->round = $this->load($this->migration);
    }

    /** @return list<list<string|null>> */
    private function other(string $sql): array
    {
        return $this->targetRows(str_replace(' :', ' '.self::otherDatabase().'.', $sql));
    }

    public function test_what_others_changed_since_is_left_and_listed(): void
    {
        $this->parties();
        self::assertSame(
            [['1', 'Ann', '2'], ['2', 'Bob', null], ['3', 'Cyd', '1']],
            $this->other('SELECT id, name, bill FROM :party ORDER BY id'),
        );
        $pdo = $this->target();
        $database = self::otherDatabase();
        // One changed, one removed, one that a record of theirs refers to.
        $pdo->exec("UPDATE $database.boat SET name = 'Ours now' WHERE name = 'Gull'");
        $pdo->exec("DELETE FROM $database.boat WHERE name = 'Tern'");
        $pdo->exec("INSERT INTO $database.boat (name, owner) VALUES ('Theirs', 2)");
        $pass = $this->backOut(1);
        // The changed boat stays, and so its owner and whom he bills; the party that others refer to; nothing else.
        self::assertSame([['Ours now', '3'], ['Theirs', '2']], $this->other('SELECT name, owner FROM :boat ORDER BY id'));
        self::assertSame(['2', '3'], array_column($this->other('SELECT id FROM :party ORDER BY id'), 0));
        $left = collect(BackOutBook::leftBy($pass->id, 10))->map(fn ($l) => [$l->item, $l->target_key, $l->why])->all();
        self::assertSame(3, $pass->refresh()->left_records);
        self::assertStringContainsString('Somebody changed it since: name', json_encode($left, JSON_THROW_ON_ERROR));
        // What is left stands for its rows; the proof says who removed what.
        $report = (new Report)->of($this->round->refresh());
        self::assertTrue($report['accounted']);
        $boats = collect($report['loads'])->firstWhere('load', 'Boats')['outcomes'];
        self::assertSame([1, 2], [$boats['loaded'], $boats['pending']]);
        $this->actingAs($this->user(Role::Lead));
        $this->get("/m/{$this->migration->id}/runs")->assertReads('3 records left as they are, with their rows')
            ->assertReads('takes back pass 1')->assertReads('Taken back by pass 2.');
    }

    public function test_a_field_others_changed_in_a_changed_record_is_left_alone(): void
    {
        $this->parties();
        $database = self::otherDatabase();
        $this->target()->exec("UPDATE $database.party SET mail = 'cy@example.test' WHERE id = 3");
        $report = (new Report)->of($this->round);
        self::assertTrue($report['proofs_hold']);
        $boats = Load::query()->where('name', 'Boats')->value('id');
        self::assertSame(2, DB::table('outcomes')->where('load_id', $boats)->where('outcome', 'loaded')->count());
        // Nobody's rules fill it: the record goes all the same.
        self::assertSame(0, $this->backOut(1)->refresh()->left_records);
        self::assertSame([[], []], [$this->other('SELECT * FROM :party'), $this->other('SELECT * FROM :boat')]);
    }

    public function test_another_round_that_stands_on_its_records_is_named(): void
    {
        $this->loaded();
        $second = $this->load($this->migration, 'rehearsal-2');
        $stands = DB::table('outcomes')->where('lane_id', $second->laneId())
            ->whereIn('outcome', ['merged', 'updated', 'unchanged'])->count();
        self::assertGreaterThan(0, $stands);
        $before = $this->dump();
        $pass = $this->rounds()->backOut($this->round, 1);
        PassRunner::of($pass, 0)->work();
        self::assertSame(PassState::Finished, $pass->refresh()->state);
        self::assertStringContainsString('Round rehearsal-2 stands on ', (string) $pass->error);
        self::assertEquals($before, $this->dump());
        self::assertNull($this->round->passes()->where('number', 1)->value('backed_out_by'));
        // The newer one goes first, then the older may.
        [$first, $this->round] = [$this->round, $second];
        $this->backOut(1);
        $this->round = $first;
        $this->backOut(1);
        self::assertSame(0, (int) DB::table('record_counters')->sum(DB::raw('ABS(made)')));
    }

    public function test_a_stop_and_a_target_that_goes_away_are_gone_on_from(): void
    {
        $this->parties();
        $pass = $this->rounds()->backOut($this->round, 1);
        DB::unprepared('CREATE TRIGGER broken BEFORE INSERT ON outcome_log FOR EACH ROW '
            ."SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'the disk is full'");
        PassRunner::of($pass, 0)->work();
        DB::unprepared('DROP TRIGGER broken');
        self::assertSame(PassState::Stopped, $pass->refresh()->state);
        // The target has it, the ledger has not: its receipt says so.
        $this->rounds()->resume($pass);
        PassRunner::of($pass->refresh(), 0)->work();
        self::assertSame([PassState::Finished, null, 0], [$pass->refresh()->state, $pass->error, $pass->left_records]);
        self::assertSame([[], []], [$this->other('SELECT * FROM :party'), $this->other('SELECT * FROM :boat')]);
        self::assertSame(0, (int) DB::table('record_counters')->sum(DB::raw('ABS(made)')));
    }

    public function test_by_command_line(): void
    {
        $this->parties();
        $plan = self::work('back-out').'/plan.yaml';
        $run = fn (string ...$options) => new Process(
            [PHP_BINARY, 'artisan', 'baggage:back-out', $plan, '--json=-', ...$options],
            base_path(),
        );
        $dry = $run('--dry-run');
        self::assertSame(0, $dry->run(), $dry->getErrorOutput());
        $said = json_decode($dry->getOutput(), true, 16, JSON_THROW_ON_ERROR)['dry_run'];
        self::assertSame([1], $said['passes']);
        self::assertSame(['load' => 'Parties', 'rows' => 4, 'remove' => 3, 'change_back' => 0], $said['loads'][0]);
        self::assertSame(['load' => 'Names', 'rows' => 3, 'remove' => 0, 'change_back' => 2], $said['loads'][1]);
        self::assertCount(3, $this->other('SELECT * FROM :party'));
        // One whose process was killed is taken over.
        $this->rounds()->backOut($this->round, 1)->update(['state' => 'running']);
        $done = $run();
        self::assertSame(0, $done->run(), $done->getErrorOutput());
        $result = json_decode($done->getOutput(), true, 64, JSON_THROW_ON_ERROR);
        $said = $result['back_out'];
        self::assertSame([2, [1], 0, true], [$said['pass'], $said['passes'], $said['left_records'], $said['finished']]);
        self::assertEquals(['load' => 'Parties', 'rows' => 4, 'left' => 0, 'removed' => 3, 'restored' => 0], $said['loads'][0]);
        $again = $run();
        self::assertSame(2, $again->run());
        self::assertStringContainsString('no pass 1 of rehearsal-1 that could be backed out', $again->getErrorOutput());
        self::assertSame(2, $run('--pass=x')->run());
    }

    /** Whatever can be repaired in the demo by one code and one corrected cell, so that held rows go too. */
    private function repairs(): void
    {
        $n = 0;
        foreach (DB::table('causes')->where('lane_id', $this->round->laneId())->where('code', 'no_new_value')->get() as $cause) {
            $load = Load::query()->findOrFail($cause->load_id);
            $crosswalk = $this->migration->codeCrosswalks()->whereHas('entries')->get()
                ->first(fn ($c) => $load->rules->contains(fn ($r) => str_contains((string) $r->expression, "'$c->name'")));
            $new = $crosswalk?->entries()->whereNotNull('new_value')->value('new_value');
            if ($new !== null) {
                $crosswalk->entries()->updateOrCreate(
                    ['old_value' => (string) $cause->value],
                    ['new_value' => $new, 'decision' => 'value'],
                );
                $n++;
            }
        }
        self::assertGreaterThan(0, $n);
        (new WorkOutDue($this->migration->id))->handle();
    }
}
