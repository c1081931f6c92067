<?php

namespace Tests\Feature;

use App\Decisions\CorrectionBook;
use App\Deltas\Delta;
use App\DryRuns\DryRuns;
use App\DryRuns\WorkOnDryRun;
use App\Ledger\DryRows;
use App\Ledger\DueBook;
use App\Loading\PassRunner;
use App\Loading\Rounds;
use App\Loading\WorkOutDue;
use App\Models\ControlTotal;
use App\Models\Migration;
use App\Models\PassKind;
use App\Models\Reckoning;
use App\Models\Role;
use App\Models\Round;
use App\Models\RoundEnd;
use App\Models\Work;
use App\Models\WorkKind;
use App\Plans\Headless;
use App\Plans\PlanExporter;
use App\Reckoning\GroupRows;
use App\Reckoning\Reckonings;
use App\Reckoning\TotalLine;
use App\Reckoning\WritingAgain;
use App\Reconciling\Proofs;
use App\Reconciling\RoundEnding;
use App\Rejects\Repairs;
use App\Rejects\RowsFile;
use App\View\Amounts;
use Baggage\Core\Plan\PlanError;
use Baggage\Core\Reconciling\Figures;
use Baggage\Core\Reconciling\Part;
use Baggage\Core\Reconciling\TotalKind;
use Brick\Math\BigDecimal;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\TestWith;
use Symfony\Component\Yaml\Yaml;
use Tests\TestCase;

/** Control totals, the comparison of records, and what somebody did to them: all of it found, and nothing else. */
final class ReckoningTest extends TestCase
{
    private const BILLS = [
        ['no', 'customer', 'issued', 'amount', 'note'],
        ['1', 'Abel', '03/04/1998', '12.50', 'first'],
        ['2', 'Bede', '04/05/1998', '7.25', 'second'],
        ['3', 'Cole', '05/06/1999', '100.00', 'third'],
        ['4', 'Dunn', '06/07/1999', 'none', 'no number'],
        ['5', 'Emma', '31/02/1999', '33.00', 'no day'],
        ['6', 'Finn', '01/01/2000', '-5.00', 'given back'],
        ['7', 'Test', '01/01/2000', '9.99', 'of nobody'],
    ];

    private const LINES = [
        ['no', 'bill', 'amount'],
        ['a', '1', '10.00'], ['b', '1', '2.50'], ['c', '2', '7.25'], ['d', '3', '60.00'], ['e', '3', '40.00'], ['f', '5', '33.00'],
        ['g', '6', '-5.00'],
    ];

    private const PROOFS = [
        ['name' => 'Billed', 'load' => 'Bills', 'field' => 'amount', 'legacy' => 'decimal(amount)',
            'by' => ['field' => 'issued', 'of' => 'year', 'legacy' => 'right(issued, 4)']],
        ['name' => 'Lines', 'entity' => 'line', 'field' => 'amount', 'legacy' => 'decimal(amount)',
            'by' => ['field' => 'bill', 'legacy' => 'parent(bill)'], 'against' => ['field' => 'amount', 'legacy' => 'decimal(amount)']],
        ['name' => 'Customers', 'entity' => 'bill', 'kind' => 'distinct', 'field' => 'customer', 'legacy' => 'trim(customer)'],
        ['name' => 'Newest', 'entity' => 'bill', 'kind' => 'largest', 'field' => 'issued', 'legacy' => "date(issued, 'd/m/Y')"],
        ['name' => 'Names', 'entity' => 'bill', 'kind' => 'hash', 'field' => 'customer', 'legacy' => 'customer'],
        ['name' => 'How many', 'entity' => 'bill', 'kind' => 'count', 'field' => 'amount', 'legacy' => 'decimal(amount)'],
    ];

    private Migration $migration;

    private string $folder;

    private Round $round;

    /**
     * @param  array<string, string>  $fields  other rules of bills
     * @param  list<list<string>>  $bills
     */
    private function begin(array $fields = [], array $bills = self::BILLS, array $bill = []): void
    {
        $this->folder = self::work('reckoning');
        @mkdir($this->folder, 0777, true);
        $other = self::emptyOther();
        DB::unprepared("CREATE TABLE $other.bill (id INT AUTO_INCREMENT PRIMARY KEY, customer VARCHAR(40) NOT NULL, issued DATE NOT NULL,
            amount DECIMAL(12,2) NULL, note VARCHAR(60) NULL);
            CREATE TABLE $other.line (id INT AUTO_INCREMENT PRIMARY KEY, bill INT NULL, amount DECIMAL(12,2) NOT NULL,
            FOREIGN KEY (bill) REFERENCES bill (id) ON DELETE SET NULL)");
        $target = self::targetOfPlan();
        $target['connections'][0]['database'] = $other;
        file_put_contents("$this->folder/plan.yaml", Yaml::dump([
            'baggage' => 1, 'migration' => 'Reckoning', 'target' => $target,
            'sources' => [['code' => 'S', 'name' => 'S', 'extracts' => [
                ['name' => 'bill', 'file' => 'bill.csv', 'row_key' => ['no']], ['name' => 'line', 'file' => 'line.csv'],
            ]]],
            'match_rules' => [['entity' => 'bill', 'name' => 'same note', 'on' => ['note' => 'letters']]],
            'loads' => [
                $bill + ['name' => 'Bills', 'entity' => 'bill', 'from' => 'S/bill', 'key' => ['no'], 'scope' => "customer != 'Test'",
                    'scope_reason' => 'of nobody', 'gone' => 'keep', 'fields' => $fields + [
                        'customer' => 'trim(customer)', 'issued' => "date(issued, 'd/m/Y')", 'note' => 'note',
                        'amount' => "decimal(nothing_if(amount, 'none'))",
                    ]],
                ['name' => 'Lines', 'entity' => 'line', 'from' => 'S/line', 'key' => ['no'],
                    'fields' => ['bill' => 'parent(bill)', 'amount' => 'decimal(amount)']],
            ],
            'proofs' => self::PROOFS,
        ], 8));
        $this->deliver($bills);
        $this->migration = $this->app->make(Headless::class)->import("$this->folder/plan.yaml");
        $this->freeze();
        $this->actingAs($this->user(Role::Lead));
        $this->round = $this->app->make(Rounds::class)->begin($this->migration, $this->migration->targets()->firstOrFail(), 'rehearsal-1');
        $this->pass(PassKind::First);
    }

    /** @param  list<list<string>>  $bills */
    private function deliver(array $bills): void
    {
        $text = fn (array $rows) => implode('', array_map(fn (array $r) => implode(',', $r)."\n", $rows));
        file_put_contents("$this->folder/bill.csv", $text($bills));
        file_put_contents("$this->folder/line.csv", $text(self::LINES));
    }

    private function freeze(): void
    {
        $this->app->make(Headless::class)->freeze($this->migration, "$this->folder/plan.yaml", fn () => null);
    }

    private function pass(PassKind $kind, ?Delta $delta = null): void
    {
        $pass = $this->app->make(Rounds::class)->pass($this->round, $kind, delta: $delta);
        PassRunner::of($pass, 0)->work();
        self::assertSame(['finished', null], [$pass->refresh()->state->value, $pass->error]);
        $this->round->refresh();
    }

    /** @return array<string, array{Figures, array<string, mixed>}> name → figures, and what else is kept of it */
    private function totals(): array
    {
        [$totals] = Reckonings::now($this->round, true, null);
        $found = [];
        foreach ($totals->figures['totals'] as $of) {
            self::assertNull($of['error']);
            $figures = Figures::fromArray($of['figures']);
            self::assertTrue($figures->isConserved(), $of['total']['name']);
            $found[$of['total']['name']] = [$figures, $of];
        }
        foreach (DB::table('total_groups')->where('reckoning_id', $totals->id)->get() as $group) {
            self::assertTrue(Figures::fromArray(json_decode($group->figures, true))->isConserved(), $group->name);
        }

        return $found;
    }

    /**
     * @param  array<string, mixed>  $how
     * @return list<string> load, row, field, what is different and when that happened, of each
     */
    private function differences(array $how = []): array
    {
        [, $comparison] = Reckonings::now($this->round, false, $how);

        return DB::table('differing_rows as d')->join('loads as l', 'l.id', '=', 'd.load_id')->where('reckoning_id', $comparison->id)
            ->orderBy('d.load_id')->orderBy('item')->orderBy('d.name')->get(['l.name as load', 'd.*'])
            ->map(fn ($d) => "$d->load $d->item $d->name: $d->class, $d->happened")->all();
    }

    /** @return array<string, string> table → checksum */
    private function checksums(): array
    {
        $other = self::otherDatabase();

        return array_column(DB::select("CHECKSUM TABLE $other.bill, $other.line"), 'Checksum', 'Table');
    }

    private function sql(string $sql): void
    {
        DB::unprepared(str_replace(' @', ' '.self::otherDatabase().'.', $sql));
    }

    public function test_a_total_is_split_into_what_became_of_its_rows(): void
    {
        $this->begin();
        $totals = $this->totals();
        [$billed] = $totals['Billed'];
        // 12.50 + 7.25 + 100 + 33 - 5 + 9.99, of which 33 is rejected for a day that is none and 9.99 is nobody's.
        self::assertSame(
            ['157.74', '114.75', '33', '9.99', '114.75', '0'],
            array_map(fn (string $slot) => $billed->sum($slot), ['raw', 'as is', 'rejected', 'excluded', 'target', 'corrected']),
        );
        self::assertSame([1, 1], [$billed->rows('as is none'), $billed->rows('raw none')]);
        self::assertSame(['0', 0], [$billed->difference(TotalKind::Sum), $billed->differ]);
        [$lines, $of] = $totals['Lines'];
        self::assertSame(['147.75', '114.75', '33', 0, 0], [
            $lines->sum('raw'), $lines->sum('target'), $lines->sum('held'), $of['groups_differ'], $of['groups_do_not_foot'],
        ]);
        self::assertSame(['5', '5'], array_values($totals['Customers'][0]->extremes));
        self::assertSame(['legacy' => '2000-01-01', 'target' => '2000-01-01'], $totals['Newest'][0]->extremes);
        self::assertSame(['4', '4'], [$totals['How many'][0]->sum('target'), $totals['How many'][0]->sum('as is')]);
        $crc = DB::scalar('SELECT SUM(CRC32(customer)) FROM '.self::otherDatabase().'.bill');
        self::assertSame((string) $crc, $totals['Names'][0]->sum('target'));
        self::assertSame($totals['Names'][0]->expected(), $totals['Names'][0]->sum('target'));
        self::assertSame([], $this->differences());
    }

    public function test_what_somebody_did_to_the_target_is_found_and_nothing_else(): void
    {
        $this->begin();
        $this->sql("UPDATE @bill SET amount = CASE id WHEN 1 THEN 7.25 ELSE 12.50 END WHERE id IN (1, 2);
            UPDATE @bill SET customer = 'Co' WHERE id = 3; UPDATE @bill SET issued = issued + INTERVAL 1 DAY WHERE id = 4;
            DELETE FROM @line WHERE amount = 40; UPDATE @line SET bill = NULL WHERE amount = 7.25");
        $totals = $this->totals();
        $sum = TotalKind::Sum;
        // Exchanged amounts leave the total even, and the rows say it.
        self::assertSame(['0', 2], [$totals['Billed'][0]->difference($sum), $totals['Billed'][0]->differ]);
        self::assertSame(['-40', 2, 2], [
            $totals['Lines'][0]->difference($sum), $totals['Lines'][1]['groups_differ'] - 1, $totals['Lines'][0]->differ,
        ]);
        $first = DB::table('differing_rows')->where('total', $totals['Lines'][1]['number'])->orderByDesc('weight')->first();
        self::assertSame([5, '40.00', null], [$first->item, $first->legacy, $first->target]);
        self::assertSame([
            'Bills 1 amount: another number, since', 'Bills 2 amount: another number, since',
            'Bills 3 customer: cut to 2 characters, since',
            'Bills 4 issued: a day later, since', 'Lines 3 bill: left empty, since', 'Lines 5 : record gone, since',
        ], $this->differences());
        // A sample of all is all; of some it is the same for the same seed.
        self::assertCount(6, $this->differences(['sample' => 1_000, 'seed' => 1]));
        self::assertSame($this->differences(['sample' => 4, 'seed' => 3]), $this->differences(['sample' => 4, 'seed' => 3]));
        $kept = Reckoning::query()->orderBy('kind')->get()->map(fn (Reckoning $r) => $r->kind->value)->all();
        self::assertSame(['comparison', 'totals'], $kept);
    }

    public function test_a_cent_lost_by_a_rule_shows_in_the_total_and_what_the_target_writes_otherwise_in_the_comparison(): void
    {
        $this->begin(['amount' => "no == '2' ? '7.24' : decimal(nothing_if(amount, 'none'))"]);
        $totals = $this->totals();
        self::assertSame('-0.01', $totals['Billed'][0]->difference(TotalKind::Sum));
        $row = DB::table('differing_rows')->where('total', $totals['Billed'][1]['number'])->get()->all();
        self::assertSame([[2, '1998', '7.25', '7.24']], array_map(fn ($r) => [$r->item, $r->name, $r->legacy, $r->target], $row));
        self::assertSame([], $this->differences());
    }

    public function test_records_a_round_found_as_they_should_be_are_compared_too(): void
    {
        $this->begin(bill: ['policy' => 'create_or_update', 'match' => ['same note']]);
        $this->round = $this->app->make(Rounds::class)->begin($this->migration, $this->migration->targets()->firstOrFail(), 'rehearsal-2');
        $this->pass(PassKind::First);
        self::assertSame(5, DB::table('outcomes')->where('lane_id', $this->round->laneId())->where('outcome', 'unchanged')->count());
        self::assertSame([], $this->differences());
        $this->sql("UPDATE @bill SET customer = 'Someone', issued = issued + INTERVAL 1 DAY WHERE note = 'second'");
        $this->sql("DELETE FROM @bill WHERE note = 'given back'");
        self::assertSame(
            ['Bills 2 customer: another text, since', 'Bills 2 issued: a day later, since', 'Bills 6 : record gone, since'],
            array_values(array_filter($this->differences(), fn (string $d) => str_starts_with($d, 'Bills'))),
        );
        self::assertSame($this->differences(), $this->differences(['sample' => 100, 'seed' => 1]));
        // One that is written again is so with all its fields; one that is gone is made anew.
        [$at, $given] = $this->again('Bills', 'issued', 'a day later');
        $this->post($at, $given)->assertSessionHas('told');
        [$at, $given] = $this->again('Bills', '', 'record gone');
        $this->get(substr($at, 0, -5).'?class=record+gone&happened=since&field=')->assertReads('Each is made anew');
        $this->post($at, $given)->assertSessionHas('told', '1 record will be written again when the rows that are due are loaded.');
        $this->pass(PassKind::Retry);
        self::assertSame([], array_filter($this->differences(), fn (string $d) => str_starts_with($d, 'Bills')));
        self::assertSame(1, DB::table(self::otherDatabase().'.bill')->where('note', 'given back')->count());
    }

    public function test_a_parent_that_is_about_to_go_was_there_when_its_children_were_sent(): void
    {
        $this->begin();
        // As a pass leaves it that was ended before its removals.
        DB::table('outcomes')->where('load_id', $this->migration->loads()->where('name', 'Bills')->value('id'))->where('item', 1)
            ->update(['outcome' => 'withdrawn']);
        self::assertSame([], $this->differences());
        $loads = Reckoning::query()->where('kind', 'comparison')->firstOrFail()->figures['loads'];
        self::assertSame([0, 0], array_column($loads, 'unknown'));
    }

    public function test_what_a_trigger_wrote_is_told_from_what_somebody_changed(): void
    {
        $other = self::otherDatabase();
        $this->begin();
        DB::unprepared("CREATE TRIGGER $other.shortens BEFORE INSERT ON $other.bill FOR EACH ROW SET NEW.note = LEFT(NEW.note, 4)");
        $second = $this->app->make(Rounds::class)->begin($this->migration, $this->migration->targets()->firstOrFail(), 'rehearsal-2');
        $this->round = $second;
        $this->pass(PassKind::First);
        DB::table("$other.bill")->where('id', '>', 5)->where('customer', 'Abel')->update(['note' => 'firs', 'customer' => 'Abe']);
        DB::table("$other.bill")->where('id', '>', 5)->where('customer', 'Bede')->update(['note' => 'sec']);
        self::assertSame([
            'Bills 1 customer: cut to 3 characters, since', 'Bills 1 note: cut to 4 characters, written',
            'Bills 2 note: cut to 3 characters, since', 'Bills 3 note: cut to 4 characters, written',
            'Bills 4 note: cut to 4 characters, written',
            'Bills 6 note: cut to 4 characters, written',
        ], $this->differences());
    }

    public function test_older_values_gone_rows_and_corrections_each_have_their_part(): void
    {
        $this->begin();
        $bills = self::BILLS;
        // The second fails now and keeps its record, the third is delivered no more, the sixth says something else.
        $bills[2][2] = 'when';
        $bills[2][3] = '8.00';
        unset($bills[3]);
        $bills[6][3] = '-6.00';
        $this->deliver(array_values($bills));
        $this->freeze();
        $this->pass(PassKind::Delta, new Delta(false));
        [$billed] = $this->totals()['Billed'];
        self::assertSame(
            ['57.49', '6.5', '8', '33', '9.99', '7.25', '100', '113.75'],
            array_map(fn (string $s) => $billed->sum($s), ['raw', 'as is', 'older', 'rejected', 'excluded', 'then', 'gone', 'target']),
        );
        self::assertSame('113.75', $billed->expected());
        self::assertSame([], $this->differences());
        // What is corrected and not sent yet is a difference, and the correction a part.
        $load = $this->migration->loads()->where('name', 'Bills')->firstOrFail();
        $this->app->make(CorrectionBook::class)->cells($load->extract->take, [1], 'amount', '12.75', 'a slip');
        [$billed] = $this->totals()['Billed'];
        self::assertSame(['57.49', '0.25', '6.75', '-0.25', 1], [
            $billed->sum('raw'), $billed->sum('corrected'), $billed->sum('as is'), $billed->difference(TotalKind::Sum), $billed->differ,
        ]);
        self::assertSame([], $this->differences());
    }

    public function test_the_demo_agrees_with_its_target_and_shows_what_was_planted_and_nothing_else(): void
    {
        $this->migration = $this->demoMigration(self::smallDemo(), all: true);
        $cent = $this->migration->loads()->where('name', 'Payments')->firstOrFail();
        $no = DB::table('staged_rows')->where('take_id', $cent->extract->take_id)->where('row_no', 3)->value('cells');
        $no = json_decode($no, true)[0];
        // A rule that loses a cent of one payment.
        $cent->rules()->where('field', 'amount')->update(['expression' => "decimal(amount, ',') - (pay_no == '$no' ? 0.01 : 0)"]);
        $this->round = $this->load($this->migration);
        self::assertSame([], $this->differences());
        // What the target's own exact decimals come to, over all it has.
        $own = $this->targetRows('SELECT SUM(total) FROM invoice UNION ALL SELECT SUM(amount) FROM invoice_line
            UNION ALL SELECT SUM(amount) FROM payment UNION ALL SELECT SUM(kwh) FROM meter_reading');
        $counted = array_map(fn (string $t) => $this->totals()[$t][0], ['Invoiced', 'Lines of invoices', 'Paid', 'Power read']);
        foreach ($counted as $i => $figures) {
            self::assertSame(0, bccomp((string) $own[$i][0], $figures->sum(Figures::TARGET), 2));
        }
        $this->target()->exec("UPDATE invoice a JOIN invoice b ON b.id = 21 SET a.total = b.total, b.total = a.total WHERE a.id = 20;
            UPDATE party SET name = LEFT(name, 5) WHERE id = 40; UPDATE payment SET paid_on = paid_on + INTERVAL 1 DAY WHERE id = 50;
            DELETE FROM note WHERE id = 5; DELETE FROM invoice_line WHERE id = 100;
            UPDATE vessel SET name = 'By hand' ORDER BY id LIMIT 1");
        self::assertSame([
            'Invoice lines : record gone, since', 'Invoices total: another number, since', 'Invoices total: another number, since',
            'Notes : record gone, since', 'Parties of Berthbook name: cut to 5 characters, since',
            'Payments paid_on: a day later, since', 'Vessels name: another text, since',
        ], collect($this->differences())->map(fn (string $d) => (string) preg_replace('/ \d+ /', ' ', $d, 1))->sort()->values()->all());
        $off = array_filter($this->totals(), fn (array $of) => ! $of[0]->holds(
            TotalKind::from($of[1]['total']['kind'] ?? 'sum'),
            (string) ($of[1]['total']['tolerance'] ?? '0'),
        ) || $of[1]['groups_do_not_foot'] > 0);
        // Of the swap the children of both invoices tell; the cent is the rule's, so nobody changed it since.
        self::assertSame(['Lines of invoices', 'Quantities invoiced', 'Paid'], array_keys($off));
        self::assertSame('-0.01', $off['Paid'][0]->difference(TotalKind::Sum));
        self::assertSame(3, $off['Lines of invoices'][1]['groups_do_not_foot']);
    }

    public function test_totals_are_stated_suggested_tried_and_opened_on_screens(): void
    {
        $this->begin();
        $m = "/m/{$this->migration->id}";
        $this->get("$m/totals")->assertOk()->assertReads('Nothing was counted in this round yet.');
        $this->from("$m/totals")->post("$m/reconciliation/reckon", ['what' => 'totals'])->assertRedirect("$m/totals");
        $this->get("$m/totals")->assertReads('6 totals: every one of them holds.')->assertReads('114.75');
        $number = ControlTotal::query()->where('name', 'Billed')->value('id');
        $this->get("$m/totals/of/$number")->assertOk()->assertReads('157.74')->assertReads('3 groups')->assertReads('1998');
        $this->get("$m/totals/of/$number?group=1999")->assertOk()->assertReads('Billed: 1999');
        $this->get("$m/totals/of/9999")->assertNotFound();
        $this->get("$m/totals/of/$number?begins=199")->assertReads('1998')->assertReads('1999')->assertDontSee('<code>2000</code>', false);
        $this->get("$m/totals/of/$number?begins=_99")->assertReads('No group begins so.');
        ControlTotal::query()->where('name', 'Newest')->delete();
        $this->get("$m/totals-stated/bill")->assertReads('decimal(amount)')
            ->assertReads('1 mapped amount, quantity or date without a total')->assertReads('so it counts by itself');
        $form = [
            'name' => 'Notes', 'entity' => 'bill', 'load' => 'Bills', 'kind' => 'count', 'field' => 'note', 'legacy' => ['Bills' => 'note'],
            'tolerance' => '0',
        ];
        $this->post("$m/total/try", ['legacy' => ['Bills' => 'note(']] + $form)->assertOk()->assertReads('On the rows of Bills');
        $this->post("$m/total/try", $form)->assertReads('first');
        $this->post("$m/total", ['name' => ''] + $form)->assertSessionHas('refused');
        $this->post("$m/total", ['tolerance' => '1'] + $form)->assertSessionHas('refused');
        $this->post("$m/total", $form)->assertRedirect("$m/totals-stated/bill");
        $kept = ControlTotal::query()->where('name', 'Notes')->firstOrFail();
        $this->get("$m/total/$kept->id")->assertOk()->assertReads('note');
        $this->put("$m/total/$kept->id", ['version' => 1, 'name' => 'All notes'] + $form)->assertRedirect();
        // Two tabs: the second was looking at what is there no more.
        $this->put("$m/total/$kept->id", ['version' => 1, 'name' => 'Other notes'] + $form)->assertSessionHas('refused');
        self::assertSame('All notes', $kept->refresh()->name);
        $this->delete("$m/total/$kept->id")->assertRedirect();
        self::assertSame(5, ControlTotal::query()->count());
    }

    public function test_children_beside_their_parent_are_said_to_be_off_by_what_they_are_off(): void
    {
        $said = function (string $tolerance, string $children, string $parent, string $childrenThere, string $parentThere): string {
            $figures = new Figures;
            $figures->add(Part::AsIs->value, $children);
            $figures->add(Figures::PARENT, $parent);
            $figures->add(Figures::TARGET, $childrenThere);
            $figures->add(Figures::PARENT_TARGET, $parentThere);

            return (new Amounts)->foots($figures->foots($tolerance), null, $figures);
        };
        self::assertSame('adds up', $said('0', '100', '100', '100.00', '100'));
        self::assertSame('off as the legacy data', $said('0', '86', '100', '86', '100'));
        self::assertSame('off within its tolerance', $said('0.05', '100', '100', '99.96', '100'));
        self::assertSame('off within its tolerance', $said('1', '86', '100', '86.5', '100'));
        self::assertSame('does not add up', $said('0.03', '100', '100', '99.96', '100'));
    }

    public function test_every_part_of_a_group_opens_its_rows(): void
    {
        $this->begin();
        $m = "/m/{$this->migration->id}";
        $this->post("$m/reconciliation/reckon", ['what' => 'totals']);
        $totals = Reckoning::query()->firstOrFail();
        $groups = DB::table('total_groups')->get();
        self::assertGreaterThan(8, $groups->count());
        foreach ($groups as $group) {
            $line = collect(TotalLine::of($totals))->firstWhere('number', $group->total);
            self::assertNotNull($line);
            $this->post("$m/totals/of/$group->total/rows", ['group' => $group->name])->assertSessionMissing('refused');
            $listed = (new GroupRows($totals, $line, $group->name))->listed(null, 0, 1000);
            $figures = Figures::fromArray(json_decode($group->figures, true));
            foreach (Part::cases() as $part) {
                $of = array_filter($listed, fn (\stdClass $r) => $r->part === $part->value);
                self::assertCount($figures->rows($part->value), $of, "$group->name: $part->value");
                if ($line->adds()) {
                    $sum = array_reduce($of, fn (BigDecimal $s, \stdClass $r) => $s->plus($r->legacy ?? 0), BigDecimal::zero());
                    self::assertTrue($sum->isEqualTo($figures->sum($part->value)), "$group->name: $part->value");
                }
            }
        }
    }

    public function test_rows_of_a_group_are_listed_whole_and_as_they_were_counted(): void
    {
        $this->begin();
        $m = "/m/{$this->migration->id}";
        $this->post("$m/reconciliation/reckon", ['what' => 'totals']);
        $number = ControlTotal::query()->where('name', 'Billed')->value('id');
        $this->post("$m/totals/of/$number/rows", ['group' => '1998']);
        $this->get("$m/totals/of/$number?group=1998&part=as+is")->assertReads('Its rows: stand as they are')->assertReads('Bills, row 2');
        $this->post("$m/totals/of/$number/rows", ['group' => 'of nobody'])->assertSessionHas('refused');
        // A worker that was killed on the way leaves some, which are shown to nobody and go with the next attempt.
        DB::table('group_rows')->where('total', $number)->where('name', '1998')->limit(1)->update(['part' => '~as is']);
        DB::table('group_rows')->where('total', $number)->where('name', '1998')->where('part', 'as is')->delete();
        $this->get("$m/totals/of/$number?group=1998")->assertReads('Its rows are not listed yet');
        $this->post("$m/totals/of/$number/rows", ['group' => '1998']);
        $this->get("$m/totals/of/$number?group=1998&part=as+is")->assertReads('Bills, row 1')->assertReads('Bills, row 2');
        self::assertSame(2, DB::table('group_rows')->where('total', $number)->where('name', '1998')->count());
        // What was counted is of before somebody left a row behind, and of before a pass that ran since.
        $told = fn () => (string) Work::query()->orderByDesc('id')->value('told');
        $bills = $this->migration->loads()->where('name', 'Bills')->firstOrFail();
        $cause = DB::table('cause_tallies as t')->join('causes as c', 'c.id', '=', 't.cause_id')
            ->where(['c.load_id' => $bills->id, 't.outcome' => 'rejected'])->where('t.n', '>', 0)->value('c.id');
        app(Repairs::class)->waive($this->round, $bills, (int) $cause, 'for good');
        $this->post("$m/totals/of/$number/rows", ['group' => '1998']);
        self::assertSame('2 rows listed.', $told());
        $this->post("$m/totals/of/$number/rows", ['group' => '1999']);
        self::assertStringContainsString('became something else', $told());
        PassRunner::of($this->app->make(Rounds::class)->pass($this->round, PassKind::Retry), 0)->work();
        $this->post("$m/totals/of/$number/rows", ['group' => '1998']);
        self::assertStringContainsString('A pass ran since', $told());
    }

    /** @return array{string, array<string, mixed>} where records that differ in one way are asked to be written again, and what for */
    private function again(string $load, string $field, string $class): array
    {
        $id = $this->migration->loads()->where('name', $load)->value('id');

        return ["/m/{$this->migration->id}/compared/$id/again", [
            'reckoning' => Reckoning::query()->where('kind', 'comparison')->max('id'), 'field' => $field, 'class' => $class,
        ]];
    }

    #[TestWith(['overwrite'])]
    #[TestWith(['keep'])]
    #[TestWith(['review'])]
    public function test_records_somebody_changed_are_written_again_whatever_the_load_does_about_them_else(string $others): void
    {
        $this->begin(bill: ['others' => $others]);
        $was = $this->checksums();
        $this->sql("UPDATE @bill SET amount = amount + 1; UPDATE @bill SET customer = 'Co', note = 'mine' WHERE id = 3;
            UPDATE @line SET bill = NULL WHERE amount = 7.25; UPDATE @line SET amount = 1 WHERE amount = 60");
        $meddled = $this->checksums();
        $found = $this->differences();
        self::assertCount(8, $found);
        [$at, $given] = $this->again('Bills', 'amount', 'another number');
        $this->post($at, $given)->assertSessionHas('told', '4 records will be written again when the rows that are due are loaded.');
        [$at, $given] = $this->again('Lines', 'bill', 'left empty');
        $this->post($at, $given + ['row' => 3])->assertSessionHas('told');
        [$at, $given] = $this->again('Lines', 'amount', 'another number');
        $this->post($at, $given)->assertSessionHas('told');
        $this->post($at, $given + ['row' => 4, 'leave' => 1])->assertSessionHas('told', '1 record stays as it is.');
        $this->get("/m/{$this->migration->id}/rejects")->assertReads('5 rows are due: their records are to be written again.');
        // What is due is worked out anew, and a pass that is not about it passes them by.
        WorkOutDue::dispatch($this->migration->id);
        $this->pass(PassKind::Delta, new Delta);
        self::assertSame($meddled, $this->checksums());
        $this->pass(PassKind::Retry);
        self::assertSame(['Lines 4 amount: another number, since'], $this->differences());
        $this->sql('UPDATE @line SET amount = 60 WHERE id = 4');
        self::assertSame($was, $this->checksums());
        WorkOutDue::dispatch($this->migration->id);
        self::assertSame([], (new DueBook($this->round->laneId()))->counts());
        $this->sql('UPDATE @line SET amount = 1 WHERE id = 4');
        PassRunner::of($this->app->make(Rounds::class)->backOut($this->round, 3), 0)->work();
        self::assertSame($meddled, $this->checksums());
        self::assertSame($found, $this->differences());
    }

    public function test_what_is_written_again_is_tried_first_marked_by_a_worker_and_refused_where_it_says_nothing_any_more(): void
    {
        $this->begin(bill: ['others' => 'keep']);
        $this->sql("UPDATE @bill SET customer = 'Co', note = 'mine' WHERE id IN (1, 3)");
        $this->differences();
        [$at, $given] = $this->again('Bills', 'customer', 'cut to 2 characters');
        $load = $this->migration->loads()->where('name', 'Bills')->firstOrFail();
        $of = ['round' => $this->round->id, 'load' => $load->id, 'row' => null];
        $work = Work::ask($this->migration, WorkKind::WriteAgain, 'x', $of + $given, 1);
        WritingAgain::dispatch($work->id);
        self::assertSame('1 record will be written again when the rows that are due are loaded.', $work->refresh()->told);
        $page = "/m/{$this->migration->id}/compared/$load->id?".http_build_query(['happened' => 'since'] + $given);
        $this->get($page)->assertReads('It will be')->assertReads('written again Leave it');
        // The dry run says it beforehand, and leaves what waits to be written.
        $run = DryRuns::ofRetry($this->round, []);
        (new WorkOnDryRun($run->id))->handle();
        $rows = array_map(fn ($r) => [(int) $r->row_no, $r->outcome], (new DryRows($run->id))->page(null, null, null, 10));
        self::assertSame([[3, 'loaded']], $rows);
        self::assertSame([3], (new DueBook($this->round->laneId()))->writtenAgain($load->id, [1, 2, 3]));
        $said = $this->refusedBy($at, ['reckoning' => 0] + $given);
        self::assertStringContainsString('compared again meanwhile', $said);
        self::assertStringContainsString('None of these rows', $this->refusedBy($at, ['class' => 'rounded'] + $given));
        self::assertStringContainsString('None of these rows', $this->refusedBy($at, ['row' => 2] + $given));
        $pass = $this->app->make(Rounds::class)->pass($this->round, PassKind::Retry);
        self::assertStringContainsString('pass is', $this->refusedBy($at, $given));
        PassRunner::of($pass, 0)->work();
        $this->post($at, ['reckoning' => 'x', 'row' => -1] + $given)->assertSessionHasErrors(['reckoning', 'row']);
    }

    public function test_a_load_that_makes_no_records_makes_none_anew(): void
    {
        $this->begin();
        $this->sql('DELETE FROM @line WHERE amount = 40');
        $this->differences();
        $this->migration->loads()->where('name', 'Lines')->update(['policy' => 'update']);
        [$at, $given] = $this->again('Lines', '', 'record gone');
        self::assertStringContainsString('Lines makes no records', $this->refusedBy($at, $given));
    }

    /** @param  array<string, mixed>  $given */
    private function refusedBy(string $at, array $given): string
    {
        $this->post($at, $given);

        return (string) session('refused');
    }

    public function test_differences_are_compared_opened_and_fetched_on_screens(): void
    {
        $this->begin();
        $m = "/m/{$this->migration->id}";
        $number = ControlTotal::query()->where('name', 'Billed')->value('id');
        $this->post("$m/reconciliation/reckon", ['what' => 'totals']);
        $this->sql('UPDATE @bill SET amount = 0 WHERE id = 1');
        $this->post("$m/reconciliation/reckon", ['what' => 'comparison', 'how' => 'sample', 'size' => 500, 'seed' => 3]);
        $this->get("$m/comparison")->assertReads('drawn at random by seed 3: 1 value says something else.')->assertReads('another number');
        $load = $this->migration->loads()->where('name', 'Bills')->value('id');
        $this->get("$m/compared/$load?field=amount&class=another+number&happened=since")->assertReads('12.50')->assertReads('0.00');
        $behind = ['reckoning' => Reckoning::query()->max('id'), 'load' => $load, 'field' => 'amount', 'class' => 'another number'];
        $this->post("$m/reconciliation/differences", ['what' => 'compared', 'happened' => 'since'] + $behind)->assertRedirect();
        $behind = ['what' => 'groups', 'reckoning' => Reckoning::query()->min('id'), 'total' => $number];
        $this->post("$m/reconciliation/differences", $behind)->assertRedirect();
        $files = Work::query()->whereNotNull('file')->get()->map(fn (Work $w) => (string) file_get_contents((string) RowsFile::path($w)));
        self::assertStringContainsString('Bills,1,amount,another number,since,12.50,0.00', $files[0]);
        self::assertStringContainsString('1998,19.75,19.75,0,0,19.75,19.75', $files[1]);
        $this->get("$m/rows/$load/1/family")->assertOk()->assertReads('another number')->assertReads('2 records of Line by bill');
        $this->post("$m/reconciliation/reckon", ['what' => 'everything'])->assertSessionHasErrors('what');
    }

    public function test_it_is_counted_between_passes_can_be_stopped_and_leaves_what_was_counted_before(): void
    {
        $this->begin();
        [$before] = Reckonings::now($this->round, true, null);
        try {
            Reckonings::now($this->round, true, [], fn () => throw new \DomainException('Stopped.'));
            self::fail('It went on.');
        } catch (\DomainException $e) {
            self::assertSame('Stopped.', $e->getMessage());
        }
        self::assertSame([$before->id], Reckoning::query()->pluck('id')->all());
        $m = "/m/{$this->migration->id}";
        $work = Work::ask($this->migration, WorkKind::Reckon, 'Counting', ['round' => $this->round->id], 0);
        $this->post("$m/reconciliation/reckon", ['what' => 'totals'])->assertSessionHas('refused');
        $this->post("$m/works/$work->id/stop")->assertSessionMissing('refused');
        self::assertTrue($work->isToStop());
        $work->delete();
        self::assertSame(0, DB::table('total_groups')->where('reckoning_id', '<>', $before->id)->count());
        // A target that cannot be read says nothing of its records, least of all that they are gone.
        $this->sql('RENAME TABLE @line TO @line_away');
        $this->post("$m/reconciliation/reckon", ['what' => 'comparison', 'how' => 'all']);
        self::assertSame('The target has no table line.', Work::query()->orderByDesc('id')->value('told'));
        self::assertSame([$before->id], Reckoning::query()->pluck('id')->all());
        $this->sql('RENAME TABLE @line_away TO @line');
        $pass = $this->app->make(Rounds::class)->pass($this->round, PassKind::Retry);
        try {
            Reckonings::now($this->round->refresh(), true, null);
            self::fail('A pass waits.');
        } catch (\DomainException $e) {
            self::assertStringContainsString('between passes', $e->getMessage());
        }
        PassRunner::of($pass, 0)->work();
        $second = $this->app->make(Rounds::class)->begin($this->migration, $this->migration->targets()->firstOrFail(), 'rehearsal-2');
        $this->app->make(Rounds::class)->pass($second, PassKind::First);
        $this->expectExceptionMessage('A later round writes into the same target');
        Reckonings::now($this->round->refresh(), true, null);
    }

    public function test_an_ended_round_says_what_was_counted_before_it_ended(): void
    {
        $this->begin();
        Reckonings::now($this->round, true, null);
        RoundEnding::end($this->round, RoundEnd::Closed, 'enough');
        $this->sql('UPDATE @bill SET amount = 0');
        $plan = ['plan' => "$this->folder/plan.yaml", '--json' => "$this->folder/r.json"];
        Artisan::call('baggage:reconcile', $plan);
        $said = json_decode((string) file_get_contents("$this->folder/r.json"), true);
        self::assertSame([true, '114.75', false], [
            $said['totals'][0]['holds'], $said['totals'][0]['target'], isset($said['comparison']),
        ]);
        self::assertSame(2, Artisan::call('baggage:reconcile', $plan + ['--compare' => 'all']));
        $this->get("/m/{$this->migration->id}/totals")->assertReads('every one of them holds');
    }

    public function test_headless_it_says_what_does_not_agree_and_ends_with_one(): void
    {
        $bills = array_filter(self::BILLS, fn (array $b) => ! in_array($b[0], ['4', '5'], true));
        $lines = self::LINES;
        $this->begin([], array_values($bills));
        $plan = ['plan' => "$this->folder/plan.yaml", '--json' => "$this->folder/r.json"];
        // A line of the bill that is not there is an orphan: 1 for that alone.
        self::assertSame(1, Artisan::call('baggage:reconcile', $plan + ['--compare' => 'all']));
        $said = json_decode((string) file_get_contents("$this->folder/r.json"), true);
        self::assertSame([true, true, null], [$said['comparison']['equal'], $said['totals'][0]['holds'], $said['totals'][0]['error']]);
        self::assertSame(['33', '33'], [$said['totals'][1]['parts']['rejected'], (string) end($lines)[0] === 'g' ? '33' : '']);
        $this->sql('UPDATE @bill SET amount = amount + 0.01 WHERE id = 1');
        self::assertSame(1, Artisan::call('baggage:reconcile', $plan + ['--compare' => 'sample:3', '--seed' => '9']));
        $said = json_decode((string) file_get_contents("$this->folder/r.json"), true);
        self::assertSame([false, '0.01', 1, 9], [
            $said['totals'][0]['holds'], $said['totals'][0]['difference'], $said['totals'][0]['rows_differ'], $said['comparison']['seed'],
        ]);
        self::assertSame(['1998', '0.01'], [$said['totals'][0]['groups'][0]['group'], $said['totals'][0]['groups'][0]['difference']]);
        foreach (['some', 'sample:0', 'sample:-1', 'sample:'] as $how) {
            self::assertSame(2, Artisan::call('baggage:reconcile', $plan + ['--compare' => $how]), $how);
        }
    }

    public function test_wrong_totals_of_a_plan_are_told_with_their_place(): void
    {
        $this->begin();
        $plan = Yaml::parseFile("$this->folder/plan.yaml");
        $wrong = [
            ['name' => 'a', 'load' => 'Bills', 'entity' => 'bill', 'field' => 'amount', 'legacy' => 'x'],
            ['name' => 'b', 'entity' => 'bill', 'field' => 'nothing', 'legacy' => 'amount'],
            ['name' => 'c', 'load' => 'Bills', 'field' => 'amount', 'legacy' => 'amountt'],
            ['name' => 'd', 'load' => 'Bills', 'field' => 'amount', 'legacy' => 'amount', 'tolerance' => 1],
            ['name' => 'e', 'load' => 'None', 'field' => 'amount', 'legacy' => 'amount'],
            ['name' => 'f', 'load' => 'Bills', 'field' => 'amount', 'legacy' => 'amount', 'kind' => 'average'],
            ['name' => 'g', 'load' => 'Bills', 'field' => 'amount', 'legacy' => 'amount', 'by' => ['field' => 'issued', 'legacy' => 'no'],
                'against' => ['field' => 'amount', 'legacy' => 'amount']],
            ['name' => 'h', 'entity' => 'bill', 'field' => 'amount', 'legacy' => ['Lines' => 'amount']],
        ];
        foreach ($wrong as $i => $proof) {
            file_put_contents("$this->folder/wrong.yaml", Yaml::dump(['proofs' => [$proof]] + $plan, 8));
            try {
                $this->app->make(Headless::class)->import("$this->folder/wrong.yaml");
                self::fail("$proof[name] was taken");
            } catch (PlanError $e) {
                self::assertStringContainsString('proofs.0', $e->getMessage(), $proof['name']);
            }
        }
        self::assertSame(6, ControlTotal::query()->count());
        $exported = (new PlanExporter)->export($this->migration);
        self::assertSame(array_column(self::PROOFS, 'name'), array_column($exported['proofs'], 'name'));
        self::assertEquals(self::PROOFS[1], $exported['proofs'][1]);
    }

    public function test_what_the_client_states_of_rows_is_held_against_what_was_read(): void
    {
        $this->begin();
        $m = "/m/{$this->migration->id}";
        $bills = $this->migration->extracts()->where('extracts.name', 'bill')->firstOrFail();
        self::assertTrue(Proofs::of($this->round)->entities()['bill']->holds());
        $this->post("$m/sources/takes/$bills->take_id/stated", ['rows' => '9'])->assertSessionHas('told');
        $proof = Proofs::of($this->round->refresh())->entities()['bill'];
        self::assertSame([9, 2, false], [$proof->statedRows, $proof->notDelivered(), $proof->holds()]);
        $this->get("$m/sources/extracts/$bills->id?show=takes")->assertReads('The client states 9 rows');
        $this->post("$m/sources/takes/$bills->take_id/stated", ['rows' => 'many'])->assertSessionHasErrors('rows');
        $this->post("$m/sources/takes/$bills->take_id/stated", ['rows' => ''])->assertSessionHas('told');
        // A covering sheet that came with the delivery says it of every file it names.
        $take = $this->frozen($this->migration, 'cover', "File,Rows\nBILL.CSV,7\ndata/line.csv,1.234\nothers,x\n");
        $this->post("$m/sources/extracts/$take->extract_id/covering", ['name' => 'File', 'rows' => 'Rows'])
            ->assertSessionHas('told', 'It says of 2 extracts how many rows there are: bill, line.');
        $proofs = Proofs::of($this->round->refresh())->entities();
        self::assertSame([7, true, 1234, false], [
            $proofs['bill']->statedRows, $proofs['bill']->holds(), $proofs['line']->statedRows, $proofs['line']->holds(),
        ]);
        // What it said of a take it does not say of the next.
        $this->deliver([...self::BILLS, ['8', 'Gwen', '01/02/2001', '1.00', 'new']]);
        $this->freeze();
        self::assertNull($bills->refresh()->take->stated_rows);
        self::assertSame(7, Proofs::of($this->round->refresh())->entities()['bill']->statedRows);
    }
}
