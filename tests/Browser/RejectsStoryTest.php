<?php

namespace Tests\Browser;

use App\Freezing\Freezer;
use App\Ledger\DueBook;
use App\Loading\PassRunner;
use App\Loading\Rounds;
use App\Models\Extract;
use App\Models\Load;
use App\Models\Migration;
use App\Models\PassKind;
use App\Models\Role;
use App\Models\Round;
use App\Models\TakeState;
use Facebook\WebDriver\WebDriverKeys;
use Illuminate\Support\Facades\DB;
use Standins\HarbourOffice;
use Tests\TestCase;

/**
 * From causes to loaded rows: ten repairs, one for each way there is, loaded again; then the next delivery, with what was decided
 * before. At each step the figures are those of the generator's answer key.
 */
final class RejectsStoryTest extends TestCase
{
    use OwnBrowser;

    private Migration $migration;

    private Round $round;

    private string $m;

    /** @var array<string, array{count: int, rows: list<int>}> "load: code" → what was planted */
    private array $planted;

    protected function setUp(): void
    {
        parent::setUp();
        $folder = self::smallDemo();
        $this->planted = json_decode((string) file_get_contents("$folder/answer-key.json"), true)['defects'];
        $this->migration = $this->demoMigration($folder);
        $this->round = $this->load($this->migration);
        $this->m = "/m/{$this->migration->id}";
        $this->user(Role::Lead);
        $this->enterAsLead('Orrin Sound Harbours');
    }

    private function number(string $load): int
    {
        return (int) Load::query()->where('migration_id', $this->migration->id)->where('name', $load)->value('id');
    }

    private function cause(string $load, string $id): void
    {
        $this->browser->go("$this->m/rejects?cause=".urlencode($this->number($load)."~$id"));
        $this->browser->see('is tried first');
    }

    /** The dry run says what would become of the rows; then it is made. */
    private function keep(string $says, string $button): void
    {
        $this->browser->see($says);
        $this->assertClean();
        $this->browser->press($button);
        $isBack = 'return !location.pathname.includes("/dry-runs/") && document.readyState === "complete"';
        $this->browser->await(fn () => $this->browser->driver->executeScript($isBack), "the page after \"$button\"");
    }

    /** @return array<string, int> load → rows rejected for what is wrong with them, not for a parent that was left behind */
    private function rejected(?Round $round = null): array
    {
        return $this->lines('o')->join('causes as c', 'c.id', '=', 'o.cause_id')->join('loads as l', 'l.id', '=', 'o.load_id')
            ->where('o.lane_id', ($round ?? $this->round)->laneId())->where('o.outcome', 'rejected')->where('c.code', '<>', 'parent_left')
            ->groupBy('l.name')->selectRaw('l.name, COUNT(*) AS n')->pluck('n', 'name')->map(fn ($n) => (int) $n)->all();
    }

    /** @return array<string, int> what the answer key says is rejected, without what was repaired */
    private function expected(array $repaired): array
    {
        $all = [];
        foreach ($this->planted as $of => ['count' => $n]) {
            [$load] = explode(': ', $of);
            $all[$load] = ($all[$load] ?? 0) + $n;
        }
        foreach ($repaired as [$load, $n]) {
            $all[$load] -= $n;
        }

        return array_intersect_key(array_filter($all), array_flip(['Parties of Berthbook', 'Vessels', 'Agreements', 'Invoices']));
    }

    public function test_ten_ways_loaded_again_and_carried_into_the_next_delivery(): void
    {
        self::assertEquals($this->expected([]), $this->rejected());
        $n = fn (string $of) => $this->planted[$of]['count'];
        [$owners, $left] = [$this->orphans('Vessels', 'owner'), $this->orphans('Agreements', 'vessel')];
        $this->valuesCodesRulesAndParents($n, $owners, $left);
        $this->singleRows();
        $repaired = [
            ['Vessels', $n('Vessels: not_a_date')], ['Parties of Berthbook', $n('Parties of Berthbook: no_new_value')],
            ['Vessels', $n('Vessels: too_long')], ['Vessels', $owners], ['Agreements', $left],
            ['Invoices', 1], ['Parties of Berthbook', 3], ['Vessels', 1],
        ];
        $b = $this->browser;
        $b->go("$this->m/rejects?show=repairs");
        $b->see('Repairs 10');
        $this->assertClean();
        $this->loadedAgain();
        self::assertEquals($this->expected($repaired), $this->rejected());
        $waived = DB::table('tallies')->where('lane_id', $this->round->laneId())->where('outcome', 'waived')->sum('n');
        self::assertSame($left + 2, (int) $waived);
        $this->theNextDelivery($repaired);
    }

    /** The key counts rows without any of their parents together. */
    private function orphans(string $load, string $field): int
    {
        return DB::table('row_causes as r')->join('causes as c', 'c.id', '=', 'r.cause_id')->where('c.lane_id', $this->round->laneId())
            ->where('c.load_id', $this->number($load))->where('c.code', 'orphan')->where('c.field', $field)->count();
    }

    private function valuesCodesRulesAndParents(\Closure $n, int $owners, int $left): void
    {
        $b = $this->browser;
        $this->cause('Vessels', 'mapping~not_a_date~built');
        $b->type('#to', '28/02/2003');
        $b->press('Try the value');
        $this->keep("{$n('Vessels: not_a_date')} would pass", "Correct {$n('Vessels: not_a_date')} rows");

        $this->cause('Parties of Berthbook', 'mapping~no_new_value~country');
        $b->type('#code', 'GB');
        $b->press('Try the code');
        $this->keep("{$n('Parties of Berthbook: no_new_value')} would pass", 'Give 2 codes');

        $this->cause('Vessels', 'checks~too_long~name');
        $b->type('#rule', 'left(tidy(craft_name), 40)');
        $b->press('Try the rule');
        $this->keep("{$n('Vessels: too_long')} would pass", 'Keep the rule');

        $this->cause('Vessels', 'parents~orphan~owner');
        $b->type('#parent', (string) $this->target()->query('SELECT MIN(id) FROM party')->fetchColumn());
        $b->press('Try the parent');
        $this->keep("{$owners} would pass", "Give {$owners} rows this parent");

        $this->cause('Agreements', 'parents~orphan~vessel');
        $b->type('#why', 'settled on paper');
        $b->press('Try without them');
        $this->keep("$left stay behind", "Waive $left rows");

        // One value of several.
        $this->cause('Invoices', 'parents~orphan~'.DB::table('causes')->where('load_id', $this->number('Invoices'))
            ->where('code', 'orphan')->value('field'));
        self::assertSame('settled on paper', $b->find('#why')->getDomProperty('value'), 'the last reason stays');
        $b->click('[name="causes[]"]');
        $b->see('the 1 row of 1 value');
        $b->press('Try without them');
        $this->keep('1 stay behind', 'Waive 1 row');
    }

    /** A cell, a whole row, one left behind, one matched by hand to what it is the same as. */
    private function singleRows(): void
    {
        $b = $this->browser;
        $party = $this->number('Parties of Berthbook');
        $b->go("$this->m/rows/$party/{$this->planted['Parties of Berthbook: not_a_phone']['rows'][0]}");
        $column = DB::table('extracts')->where('name', 'people')->value('columns');
        $phone = collect(json_decode((string) $column, true))->first(fn ($c) => str_contains(strtolower($c['header']), 'tel'))['header'];
        $b->click("[aria-label=\"Correct $phone\"]");
        $b->type("[aria-label=\"New value of $phone\"]", '01595 612345');
        $b->keys(WebDriverKeys::ENTER);
        $this->keep('1 would pass', 'Correct 1 row');

        $row = $this->planted['Parties of Berthbook: short_row']['rows'][0];
        $b->go("$this->m/rejects/loads/$party/rows/$row/whole?round={$this->round->id}");
        $this->assertClean();
        $b->type('textarea[aria-label="COUNTRY"]', 'IRL');
        $b->press('Try the row');
        $this->keep('1 would pass', 'Keep the row so');

        $b->go("$this->m/rows/$party/{$this->planted['Parties of Berthbook: required']['rows'][0]}");
        $b->press('Leave behind');
        $b->type('#stay-why', 'nobody knows the name');
        $b->press('Try without it');
        $this->keep('1 stay behind', 'Waive 1 row');

        $this->matchedByHand();
    }

    /** The row that has its registration is beside it; a person says they are the same. */
    private function matchedByHand(): void
    {
        $b = $this->browser;
        $vessels = $this->number('Vessels');
        $row = $this->planted['Vessels: taken']['rows'][0];
        $b->go("$this->m/rows/$vessels/$row");
        $b->press('which is in its way');
        $b->see('beside row');
        $b->see('differs');
        $this->assertClean();
        preg_match('/row (\d+)$/', (string) DB::table('causes as c')->join('row_causes as r', 'r.cause_id', '=', 'c.id')
            ->where('r.load_id', $vessels)->where('r.item', $row)->value('c.message'), $of);
        $record = DB::table('outcomes')->where('load_id', $vessels)->where('item', $of[1] ?? 0)->value('target_key');
        $b->go("$this->m/rows/$vessels/$row");
        $b->press('Match by hand');
        $b->type('#record', (string) $record);
        $b->type('#match-why', 'the same boat twice');
        $b->keys(WebDriverKeys::ENTER);
        $this->keep('1 would pass', 'Match the row');
    }

    private function loadedAgain(): void
    {
        $b = $this->browser;
        $due = array_sum((new DueBook($this->round->laneId()))->counts());
        $b->go("$this->m/rejects");
        $b->see("Load $due rows again");
        $b->press('Dry run');
        $b->see('rows tried');
        $said = DB::table('dry_runs')->latest('id')->value('found');
        $b->go("$this->m/rejects");
        $b->press("Load $due rows again");
        $b->await(fn () => DB::table('passes')->where('number', 2)->value('state') === 'finished', 'pass 2', 60);
        $b->go("$this->m/runs");
        $b->see('It did what the dry run said.');
        $tried = json_decode((string) $said, true)['tried'];
        self::assertSame($tried, (int) DB::table('pass_loads')->where('pass_id', $this->round->latestPass()?->id)->sum('rows_done'));
        $this->assertClean();
        $b->go("$this->m/reconciliation");
        $b->see('every count proof holds');
    }

    /** Rows moved, one corrected cell says something else now: what was decided is carried, and that one is decided anew. */
    private function theNextDelivery(array $repaired): void
    {
        $b = $this->browser;
        $extract = Extract::query()->where('name', 'craft')->firstOrFail();
        $lines = file(self::smallDemo().'/BB/craft.txt') ?: [];
        $changed = $this->planted['Vessels: not_a_date']['rows'][0];
        $lines[$changed] = str_replace('31/02/2003', '30/02/2003', $lines[$changed], $times);
        self::assertSame(1, $times);
        $moved = [$lines[0], ...array_reverse(array_slice($lines, 1))];
        file_put_contents($path = self::work('craft.txt'), implode('', $moved));
        $take = $extract->newTake(['file' => $path, 'file_name' => 'craft.txt', 'bytes' => filesize($path)]);
        (new Freezer)->freeze($take);
        self::assertSame(TakeState::Frozen, $take->refresh()->state, (string) $take->error);
        $extract->refresh();
        HarbourOffice::reset($this->target());
        $rounds = $this->app->make(Rounds::class);
        $next = $rounds->begin($this->migration, $this->migration->targets()->firstOrFail(), 'rehearsal-2');
        $pass = $rounds->pass($next, PassKind::First);
        PassRunner::of($pass, 0)->work();
        self::assertSame('finished', $pass->refresh()->state->value, (string) $pass->error);
        // What was matched by hand is the record's no more: the target was made anew.
        $expected = $this->expected([...$repaired, ['Vessels', -2]]);
        self::assertEquals($expected, $this->rejected($next), 'all carried but the one that says something else');
        $b->go("$this->m/rejects?round=$next->id&show=corrections");
        $b->see('Corrections to decide 1');
        $this->assertClean();
        $b->click('[name="corrections[]"]');
        $b->press('Correct the newer value too');
        $b->see('1 correction put over the newer values.');
        $b->go("$this->m/rejects?round=$next->id");
        $b->press('Load 1 row again');
        $b->await(fn () => $next->refresh()->latestPass()?->state->value === 'finished' && $next->latestPass()->number === 2, 'pass 2', 60);
        self::assertEquals($this->expected([...$repaired, ['Vessels', -1]]), $this->rejected($next));
        $b->go("$this->m/reconciliation");
        $b->see('every count proof holds');
        $this->takenBack();
    }

    /** Where it is listed, and where its rows are. */
    private function takenBack(): void
    {
        $b = $this->browser;
        $b->go("$this->m/rejects?show=left");
        $b->press('Take back');
        $b->see('rejected again');
        $b->go("$this->m/rejects?show=repairs");
        $b->press('Take back');
        $b->see('Taken back by Lead');
        $this->assertClean();
        $this->thePassToo();
    }

    /** The retry with all it wrote: its rows are rejected again, and the proof holds. */
    private function thePassToo(): void
    {
        $b = $this->browser;
        $b->go("$this->m/runs");
        $b->driver->executeScript("document.querySelector('form[action$=back-out]').closest('details').open = true");
        $b->see('would be removed');
        $b->press('Take it back');
        $b->await(fn () => DB::table('passes')->where('kind', 'back-out')->value('state') === 'finished', 'the pass taken back', 60);
        $b->go("$this->m/runs");
        $b->see('takes back pass 2, finished');
        $b->see('Taken back by pass 3.');
        $this->assertClean();
        $b->go("$this->m/reconciliation");
        $b->see('every count proof holds');
    }
}
