<?php

namespace Tests\Feature;

use App\Ledger\CauseReader;
use App\Ledger\DueBook;
use App\Loading\PassRunner;
use App\Loading\Rounds;
use App\Mapping\RuleBook;
use App\Mapping\RuleConflict;
use App\Models\CodeCrosswalk;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Pass;
use App\Models\PassKind;
use App\Models\Role;
use App\Models\Round;
use App\Reconciling\Report;
use App\Rejects\CauseGroup;
use App\Rejects\CauseList;
use App\Rejects\Repairs;
use Illuminate\Support\Collection;
use Illuminate\Support\Facades\DB;
use Tests\TestCase;

final class RepairTest extends TestCase
{
    private Migration $migration;

    private Round $round;

    protected function setUp(): void
    {
        parent::setUp();
        [$this->migration, $this->round] = $this->loadedDemo();
    }

    private function repairs(): Repairs
    {
        return $this->app->make(Repairs::class);
    }

    private function loadNamed(string $name): Load
    {
        return Load::query()->where('name', $name)->firstOrFail();
    }

    private function again(): Pass
    {
        $pass = $this->app->make(Rounds::class)->pass($this->round, PassKind::Retry);
        PassRunner::of($pass, 0)->work();
        self::assertSame('finished', $pass->refresh()->state->value, (string) $pass->error);
        self::assertTrue((new Report)->of($this->round)['proofs_hold']);

        return $pass;
    }

    private function due(): int
    {
        return array_sum((new DueBook($this->round->laneId()))->counts());
    }

    /** @return array<string, int> */
    private function counts(string $load): array
    {
        return $this->lines()
            ->where('load_id', $this->loadNamed($load)->id)
            ->groupBy('outcome')
            ->selectRaw('outcome, COUNT(*) n')
            ->pluck('n', 'outcome')
            ->all();
    }

    public function test_a_code_entry_frees_its_rows_and_what_was_held_below_in_one_pass(): void
    {
        $list = new CauseList(new CauseReader($this->round->laneId()), new DueBook($this->round->laneId()));
        $party = $this->loadNamed('Parties of Berthbook');
        $group = collect($list->groups([$party->id]))->firstWhere('code', 'no_new_value');
        self::assertSame(6, $group->own);
        self::assertSame(
            [6, $group->held],
            [
                array_sum(array_column($list->values($group), 'own')),
                array_sum(array_column($list->values($group), 'held')),
            ],
        );
        $before = $this->lines()
            ->whereNotNull('target_key')
            ->orderBy('load_id')
            ->orderBy('row_no')
            ->get(['load_id', 'row_no', 'target_key', 'pass_id'])
            ->all();
        $countries = CodeCrosswalk::query()->where('name', 'countries')->firstOrFail();
        self::assertSame(0, $this->due());
        $this->repairs()->mapCode($this->migration, $countries, 'UKK', 'GB');
        $this->repairs()->mapCode($this->migration, $countries, 'SCO', 'GB');
        self::assertSame(6, $this->due());
        self::assertSame(29, $this->counts('Parties of Berthbook')['rejected'], 'outcomes stay until a pass');
        $held = $this->lines()->where('outcome', 'held')->count();
        $this->freedInOnePass($group, $before, $held);
    }

    private function freedInOnePass(CauseGroup $group, array $before, int $held): void
    {
        $pass = $this->again();
        self::assertSame(23, $this->counts('Parties of Berthbook')['rejected']);
        // Freed by this repair: its own rows and those held below it, except children with a second missing parent.
        $done = (int) $pass->passLoads()->sum('rows_done');
        self::assertSame(
            $held - $this->lines()->where('outcome', 'held')->count(),
            (int) $this->lines()->where('pass_id', $pass->id)->whereNotNull('target_key')->count() - 6,
        );
        self::assertLessThan(6 + 3 * $group->held, $done);
        self::assertGreaterThan(6, $done);
        // What was loaded already was not touched.
        $now = $this->lines()
            ->whereNotNull('target_key')
            ->get(['load_id', 'row_no', 'target_key', 'pass_id'])
            ->keyBy(fn ($r) => "$r->load_id~$r->row_no");
        foreach ($before as $row) {
            self::assertEquals($row, $now["$row->load_id~$row->row_no"]);
        }
        self::assertGreaterThanOrEqual(6, DB::table('outcome_log')->where('outcome', 'rejected')->count());
    }

    public function test_a_corrected_cell_and_a_corrected_value(): void
    {
        $vessels = $this->loadNamed('Vessels');
        $bad = $this->lines('o')
            ->join('causes as c', 'c.id', '=', 'o.cause_id')
            ->where('o.load_id', $vessels->id)
            ->where('c.code', 'not_a_date')
            ->where('o.outcome', 'rejected')
            ->get(['o.row_no', 'c.id', 'o.legacy_key']);
        self::assertCount(7, $bad);
        $this->repairs()->correctCell($this->round, $vessels, (int) $bad[0]->row_no, 'BUILT', '03/02/2003', 'log book');
        self::assertSame(1, $this->due());
        $this->correctedRowsGoThrough($vessels, $bad);
    }

    private function correctedRowsGoThrough(Load $vessels, Collection $bad): void
    {
        $this->again();
        self::assertSame(
            [['2003-02-03']],
            $this->targetRows(
                'SELECT built FROM vessel WHERE id = '.$this->lines()
                    ->where('load_id', $vessels->id)
                    ->where('row_no', $bad[0]->row_no)
                    ->value('target_key'),
            ),
        );
        self::assertSame(
            6,
            $this->repairs()->correctValue(
                $this->round,
                $vessels,
                (int) $bad[1]->id,
                'BUILT',
                '28/02/2003',
                'last day',
            ),
        );
        $this->again();
        self::assertSame(28, $this->counts('Vessels')['rejected']);
        // The extract itself still says what the source said.
        self::assertStringContainsString(
            '31/02/2003',
            (string) DB::table('staged_rows')
                ->where('take_id', $vessels->extract->take_id)
                ->where('row_no', $bad[0]->row_no)
                ->value('cells'),
        );
    }

    public function test_a_new_rule_and_a_waiver(): void
    {
        $agreements = $this->loadNamed('Agreements');
        $rule = $agreements->rules()->where('field', 'berth')->firstOrFail();
        $this->app
            ->make(RuleBook::class)
            ->write($agreements, 'berth', $rule->version, 'parent([harb, pad(slip, 3)])', null, null, null);
        self::assertSame(12, $this->due());
        $this->again();
        self::assertSame(13, $this->counts('Agreements')['rejected']);
        $cause = DB::table('causes')->where('load_id', $agreements->id)->where('code', 'not_a_number')->value('id');
        self::assertSame(2, $this->repairs()->waive($this->round, $agreements, $cause, 'settled outside'));
        self::assertSame([11, 2], [$this->counts('Agreements')['rejected'], $this->counts('Agreements')['waived']]);
        self::assertTrue((new Report)->of($this->round)['accounted']);
    }

    public function test_a_parent_that_fails_again_for_another_reason_takes_its_children_along(): void
    {
        $party = $this->loadNamed('Parties of Berthbook');
        $row = $this->lines('o')
            ->join('causes as c', 'c.id', '=', 'o.cause_id')
            ->where('o.load_id', $party->id)
            ->where('c.code', 'not_an_email')
            ->whereIn('o.cause_id', $this->lines()->where('outcome', 'held')->select('root_cause_id'))
            ->first(['o.row_no', 'o.cause_id']);
        $held = $this->lines()->where('root_cause_id', $row->cause_id)->count();
        $this->repairs()->correctCell(
            $this->round,
            $party,
            (int) $row->row_no,
            'EMAIL',
            'still no address',
            '',
        );
        $this->again();
        $new = $this->lines()->where('load_id', $party->id)->where('row_no', $row->row_no)->value('cause_id');
        self::assertNotSame($row->cause_id, $new);
        self::assertSame(
            [0, $held],
            [
                $this->lines()->where('root_cause_id', $row->cause_id)->count(),
                $this->lines()->where('root_cause_id', $new)->count(),
            ],
        );
    }

    public function test_two_people_at_one_rule(): void
    {
        $load = $this->loadNamed('Vessels');
        $book = $this->app->make(RuleBook::class);
        $book->write($load, 'name', 1, 'squeeze(craft_name)', null, null, $this->user(Role::Lead));
        try {
            $book->write($load, 'name', 1, 'upper(craft_name)', null, null, $this->user(Role::Consultant));
            self::fail('overwritten');
        } catch (RuleConflict $e) {
            self::assertStringContainsString('Lead changed this rule', $e->getMessage());
            self::assertSame('squeeze(craft_name)', $load->rules()->where('field', 'name')->value('expression'));
        }
    }

    /** Statistics of fresh tables say they are empty; the queries behind a pass must not believe them. */
    public function test_queries_of_a_pass_find_parents_by_their_key_without_statistics(): void
    {
        $asked = [];
        DB::listen(function ($query) use (&$asked) {
            if (preg_match('/STRAIGHT_JOIN outcomes p /', $query->sql) === 1) {
                $asked[$query->sql] = $query->bindings;
            }
        });
        $this->again();
        self::assertGreaterThanOrEqual(3, count($asked), implode("\n", array_keys($asked)));
        DB::statement('DELETE FROM mysql.innodb_index_stats WHERE database_name = DATABASE()');
        foreach ($asked as $sql => $bindings) {
            $plan = collect(DB::select("EXPLAIN $sql", $bindings))->firstWhere('table', 'p');
            self::assertSame('crosswalk', $plan->key, $sql);
            self::assertContains($plan->type, ['ref', 'eq_ref', 'const', 'range'], $sql);
        }
    }
}
