<?php

namespace Tests\Browser;

use App\Models\Load;
use App\Models\Migration;
use App\Models\Role;
use App\Plans\Headless;
use Facebook\WebDriver\Remote\RemoteWebElement;
use Facebook\WebDriver\WebDriverKeys;
use Facebook\WebDriver\WebDriverTargetLocator;
use Illuminate\Support\Facades\DB;
use Tests\TestCase;

/** The job from its first to its last step through the real screens, once by mouse and once by keys alone. */
final class StoryTest extends TestCase
{
    use OwnBrowser;

    private Migration $migration;

    protected function setUp(): void
    {
        parent::setUp();
        $this->migration = $this->demoMigration(null, true);
        $this->user(Role::Lead);
        $this->browser = new Browser;
    }

    private function login(): void
    {
        $this->browser->go('/login');
        $this->browser->type('#email', 'lead@example.test');
        $this->browser->type('#password', 'secret-Lead');
        $this->browser->keys(WebDriverKeys::ENTER);
        $this->browser->see('Orrin Sound Harbours');
    }

    /** Types a rule over what stands there. */
    private function write(string $field, string $says): RemoteWebElement
    {
        $rule = $this->browser->find("#rule-$field textarea");
        $rule->click();
        $rule->sendKeys(WebDriverKeys::CONTROL.'a');
        $rule->sendKeys($says);

        return $rule;
    }

    public function test_the_whole_job(): void
    {
        $b = $this->browser;
        $m = "/m/{$this->migration->id}";
        $b->go('/login');
        $this->assertClean();
        $this->login();
        $this->assertClean();

        // 1 Sources: upload, overrule a guess, freeze.
        $b->press('Orrin Sound Harbours');
        $b->see('41,232 rows frozen');
        $this->assertClean();
        $file = sys_get_temp_dir().'/tariff.txt';
        file_put_contents($file, "Tariff list\nCode;Price\nA;1,50\n \"B;2,00\n");
        $b->find('#file')->sendKeys($file);
        $b->press('Upload and preview');
        $b->see('most lines hold a semicolon');
        $b->type('#skip', '1');
        $b->keys(WebDriverKeys::TAB);
        $b->see('2 columns');
        $this->assertClean();
        $b->press('Freeze tariff.txt');
        $b->see('2 rows');
        $b->driver->navigate()->refresh();
        $b->see('there are 2 rows');
        $this->assertClean();

        $this->aWorkbookOfSeveralSheets($b, $m);
    }

    private function aWorkbookOfSeveralSheets(Browser $b, string $m): void
    {
        // A workbook of several sheets: each with its own guess; a sheet written with a title is cut out rightly.
        $b->go("$m/sources");
        $b->find('#file')->sendKeys(self::demo().'/OF/office.xlsx');
        $b->press('Upload and preview');
        $b->see('row 4 is the first that fills most columns');
        $b->see('2010-01-01');
        $this->assertClean();
        $b->driver->executeScript(
            "const s = document.querySelector('#cells'); s.value = 'stored'; s.dispatchEvent(new Event('change', {bubbles: true}))",
        );
        $b->see('40179');
        $b->press('Waiting list');
        $b->see('Deposit');
        $b->press('Freeze Waiting list');
        $b->see('being frozen');

        $this->whatIsKnownOfAnExtract($b, $m);
    }

    private function whatIsKnownOfAnExtract(Browser $b, string $m): void
    {
        // What is known of an extract: columns, values, findings, keys, what hangs on what.
        $craft = DB::table('extracts')->where('name', 'craft')->value('id');
        $b->go("$m/sources/extracts/$craft");
        $b->see('date d/m/Y or d/m/y');
        $this->assertClean();
        $b->press('CRAFT_TYPE');
        $b->see('3 capitals');
        $this->assertClean();
        $b->click('a.plain[href*="value=MFV"]');
        $b->see('Rows with MFV');
        $this->assertClean();
        $b->click('.parts a[href*="show=findings"]');
        $b->see('dates the calendar does not have');
        $this->assertClean();
        $b->click('td.n a[href*="/findings/"]');
        $b->see('Decide');
        $this->assertClean();
        // What was frozen is studied by the worker.
        $b->await(fn () => DB::table('column_references')->count() > 0, 'the references', 90);
        $b->go("$m/sources/references");
        $b->see('528 of 540, 97.7 %');
        $this->assertClean();
        $b->press('Accept');
        $b->see('is known now');
        $b->go("$m/sources/extracts/$craft?show=keys");
        $b->see('CRAFT_NO');
        $this->assertClean();

        $this->targetAndRules($b, $m);
    }

    private function targetAndRules(Browser $b, string $m): void
    {
        // 2 Target
        $b->go("$m/target");
        $b->see('Before the round');
        $this->assertClean();
        $b->go("$m/target/vessel");
        $b->see('one of 9');
        $this->assertClean();

        // 3 Mapping: the effect shows while typing, a mistake at the rule, and nothing broken is kept.
        $b->go("$m/mapping/vessel");
        $this->assertClean();
        $rule = $this->write('name', 'upper(craft_name');
        $b->see('Unclosed "(", at character 6');
        $rule->sendKeys(')');
        $b->see('GUILLEMOT');
        $rule->sendKeys(WebDriverKeys::CONTROL.'a');
        $rule->sendKeys('tidy(craft_name)');
        $b->see('Guillemot');
        $rule->sendKeys(WebDriverKeys::ENTER);
        $b->go("$m/mapping/vessel");
        $b->press('Check all 900 rows');
        $b->see('Of 900 rows 865 pass, 35 would be rejected', 60);
        $b->driver->navigate()->refresh();
        $b->click('details.check summary');
        $b->see('31/02/2003');
        $this->assertClean();
        $this->suggestionsAndTheShelf($b, $m);
    }

    private function suggestionsAndTheShelf(Browser $b, string $m): void
    {
        // A load without rules is given suggestions; one is taken.
        DB::table('rules')->where('field', 'draught_m')->delete();
        $b->go("$m/mapping/vessel");
        $b->click('#suggested details.check summary');
        $b->see('its values are decimals');
        $this->assertClean();
        $b->press('Use those ticked');
        $b->see('Mapped as suggested: draught_m');
        $b->press('Leave behind');
        $b->type('form:not([hidden]) input[id^=why-]', 'Surveys are kept on paper');
        $b->keys(WebDriverKeys::ENTER);
        $b->see('1 left behind');
        $b->press('1 left behind');
        $b->see('Left behind: Surveys are kept on paper');

        $this->codesOrderAndTheRun($b, $m);
    }

    private function codesOrderAndTheRun(Browser $b, string $m): void
    {
        // 4 Crosswalks, 5 Order
        $b->go("$m/crosswalks");
        $b->press('vessel types');
        $b->see('vessel types: 2 old values without a new one, in 9 rows');
        $this->assertClean();
        $b->go("$m/order");
        $b->see('party.bill_to, vessel.current_agreement');
        $this->assertClean();

        // 6 Runs
        $b->go("$m/runs");
        $this->assertClean();
        $b->press('Load 10,449 rows');
        $b->see('Pass 1: all loads, finished', 120);
        $this->assertClean();

        $this->rejectsRepairedAndLoadedAgain($b, $m);
    }

    private function rejectsRepairedAndLoadedAgain(Browser $b, string $m): void
    {
        // 7 Rejects: a code, a value; then load again only what is affected.
        $b->go("$m/rejects/vessel");
        $b->see('35 rows rejected, 15 held');
        $this->assertClean();
        $b->press('Open');
        $b->see('MFV');
        $b->click('[aria-label="Only MFV"]');
        $b->see('the 7 rows of 1 value');
        $b->type('#code', 'fishing');
        $b->keys(WebDriverKeys::ENTER);
        $b->see('14 rows tried: 7 would pass, 7 of other loads would pass with them.');
        $this->assertClean();
        $b->press('Give the code');
        $b->see('"MFV" in vessel types becomes "fishing"');
        $b->see('Load 7 rows again');
        $this->assertClean();
        $b->go(
            "$m/rejects/vessel?cause=".DB::table('loads')->where('name', 'Vessels')->value('id')
                .'~mapping~not_a_date~built',
        );
        self::assertSame('31/02/2003', $b->find('#to')->getDomProperty('value'), 'the cell as read');
        $b->type('#to', '28/02/2003');
        $b->keys(WebDriverKeys::ENTER);
        $b->see('7 would pass');
        $b->press('Correct 7 rows');
        $b->see('7 rows corrected');
        $b->see('Load 14 rows again');
        $b->press('Load 14 rows again');
        $b->await(fn () => DB::table('passes')->where('number', 2)->value('state') === 'finished', 'pass 2', 60);
        $b->go("$m/rejects/vessel");
        $b->see('21 rows rejected');

        $this->figuresOpenTheirRows($b, $m);
    }

    private function figuresOpenTheirRows(Browser $b, string $m): void
    {
        // 8 Reconciliation: the number opens its rows.
        $b->go("$m/reconciliation");
        $b->see('Every row is accounted for and every count proof holds.');
        $this->assertClean();
        $b->go("$m/reconciliation/vessel");
        $b->click('a[href*="outcome=rejected"]');
        $b->see('Vessel: rejected rows');
        $this->assertClean();

        // 9 Trace: the drawer, and by key.
        $b->click('a.tag');
        $b->see('What each rule made of it');
        $this->assertClean();
        $b->keys(WebDriverKeys::ESCAPE);
        $b->await(fn () => ! str_contains($b->text(), 'What each rule made of it'), 'the drawer to close');
        $b->keys('/');
        $b->field();
        $b->keys('BB CR-500', WebDriverKeys::ENTER);
        $b->see('row 500 of BB craft');
        $this->assertClean();
        // 850 loaded at first, and the 14 repaired.
        self::assertSame([['864']], $this->targetRows('SELECT COUNT(*) FROM vessel'));
    }

    public function test_mapping_vessel_from_nothing_to_a_clean_check(): void
    {
        $b = $this->browser;
        $m = "/m/{$this->migration->id}";
        Load::query()->where('name', 'Vessels')->delete();
        $this->login();
        $b->go("$m/mapping/vessel");
        $b->see('Nothing fills this entity yet');
        $this->assertClean();
        $b->driver->executeScript(
            "const s = document.querySelector('#new-extract'); s.value = [...s.options].find((o) => o.text === 'BB craft').value",
        );
        $b->type('#new-name', 'Craft');
        $b->press('Add the load');
        $b->see('by the key craft_no');
        // What is suggested comes with its reason; nothing is mapped unseen.
        $b->see('its values are dates in the form');
        $this->assertClean();
        $b->press('Use those ticked');
        $b->see('Mapped as suggested');

        $this->allRulesAsOneText($b, $m);
    }

    private function allRulesAsOneText(Browser $b, string $m): void
    {
        // The rest as one text, checked while it is typed.
        $b->press('All as text');
        $b->see('Craft: all rules as text');
        $this->assertClean();
        $text = "name = shorten(tidy(first(craft_name, 'unnamed')), 40)\nregistration = upper(reg_no)\nowner = "
                ."parent(owner_no)\ntype = code('vessel types', craft_typ)\nbuilt = date(nothing_if(built, "
                ."'00/00/00', '31/02/2003'), 'd/m/y', 'd/m/Y')\nlength_m = round(feet(loa_ft), "
                ."2)\ndraught_m = decimal(draught, ',')\ninsured_until left empty: the insurer tells the new office";
        $b->driver->executeScript(
            'const t = document.querySelector("#text"); t.value = arguments[0]; t.dispatchEvent(new Event("input", {bubbles: true}))',
            [$text],
        );
        $b->see('no column "craft_typ"');
        $this->assertClean();
        $b->press('Keep all of it');
        $b->see('Nothing was kept');
        $b->driver->executeScript(
            'const t = document.querySelector("#text"); t.value = t.value.replace("craft_typ)", "craft_type)"); '
                .'t.dispatchEvent(new Event("input", {bubbles: true}))',
        );
        $b->await(fn () => ! str_contains($b->text(), 'no column "craft_typ"'), 'the mistake to go');
        $b->press('Keep all of it');
        $b->see('rules kept');

        $this->aFieldWithNamesCompleted($b, $m);
    }

    private function aFieldWithNamesCompleted(Browser $b, string $m): void
    {
        // The last field by hand, with names completed while typing.
        $rule = $this->write('current_agreement', 'parent(ag');
        $b->find('.completion [role=option]');
        $b->see('legacy key, key space');
        $this->assertClean();
        $b->keys(WebDriverKeys::ARROW_DOWN, WebDriverKeys::ENTER);
        $b->await(fn () => $rule->getAttribute('value') === 'parent(agr_no', 'the column completed');
        $rule->sendKeys(')');
        $b->see('BB A-00001');
        $rule->sendKeys(WebDriverKeys::ENTER);
        $b->await(
            fn () => DB::table('rules')->where('field', 'current_agreement')->value('expression') === 'parent(agr_no)',
            'the rule to be kept',
        );

        $this->codesFoundByTheCheck($b, $m);
    }

    private function codesFoundByTheCheck(Browser $b, string $m): void
    {
        // Two codes nobody knows, found by the check and mapped.
        $b->go("$m/mapping/vessel");
        $b->press('Check all 900 rows');
        $b->see('Of 900 rows 879 pass, 21 would be rejected', 60);
        $b->go("$m/crosswalks/vessel");
        $b->see('vessel types: 2 old values without a new one, in 9 rows');
        $this->assertClean();
        foreach (['MFV' => 'fishing', 'X?' => 'other'] as $old => $new) {
            $b->type("input[aria-label='New value of $old']", $new);
        }
        $b->keys(WebDriverKeys::ENTER);
        $b->see('2 codes kept');
        $b->go("$m/mapping/vessel");
        $b->see('Stale');
        $b->press('Check all 900 rows');
        $b->see('Of 900 rows 888 pass, 12 would be rejected', 60);
        $this->assertClean();

        $this->whatIsLeftOver($b, $m);
    }

    private function whatIsLeftOver(Browser $b, string $m): void
    {
        // What is left shares a number, names an agreement nobody has, or an owner nobody knows: the rows are looked at, then decided on.
        $b->see('Must be unique, and an earlier row has it');
        $b->see('length_m is at most 200');
        $b->click('#check tbody tr:nth-child(3) td.n a');
        $b->see('Party not found anywhere in BB');
        $b->see('98317');
        $this->assertClean();
        $b->press('Back to the sheet');
        foreach (
            [
                'registration' => "craft_no == 'CR-1' ? upper(reg_no) : nothing_if(upper(reg_no), 'SS 101')",
                'current_agreement' => "parent(nothing_if(agr_no, 'A-99999'))",
                'length_m' => "nothing_if(round(feet(loa_ft), 2), '274.32')",
            ] as $field => $says
        ) {
            $rule = $this->write($field, $says);
            $rule->sendKeys(WebDriverKeys::ESCAPE);
            $rule->sendKeys(WebDriverKeys::ENTER);
            $b->await(
                fn () => DB::table('rules')
                    ->where('field', $field)
                    ->where('load_id', DB::table('loads')->where('name', 'Craft')->value('id'))
                    ->value('expression') === $says,
                "the rule of $field to be kept",
            );
        }
        $b->go("$m/mapping/vessel");
        $b->driver->executeScript("document.querySelector('#scope').closest('details').open = true");
        $b->type('#scope', "not (owner_no starts with '98')");
        $b->type('#scope_reason', 'Owners struck off the register have no boats in the harbour');
        $b->press('Keep these settings');
        $b->see('the others are excluded');
        $b->press('Check all 900 rows');
        $b->see('Of 900 rows 896 pass, 0 would be rejected, 4 are outside the scope', 60);
        $b->see('Every row passes');
        $this->assertClean();

        $this->lookedAtAndDocumented($b, $m);
    }

    private function lookedAtAndDocumented(Browser $b, string $m): void
    {
        // A column stays behind, a row is looked at as it would be sent, a change is taken back, the specification says it all.
        $b->press('Leave behind');
        $b->type('form:not([hidden]) input[id^=why-]', 'Surveys are kept on paper');
        $b->keys(WebDriverKeys::ENTER);
        $b->see('1 left behind');
        $b->press('Row 1');
        $b->see('This is what would be sent');
        $this->assertClean();
        $b->keys(WebDriverKeys::ESCAPE);
        $b->press('History');
        $b->see('as it is now');
        $this->assertClean();
        $b->press('Back to the sheet');
        $b->press('Undo ');
        $b->see('as before');
        $b->press('Undo ');
        $b->await(
            fn () => DB::table('rules')->where('field', 'insured_until')->value('empty_reason')
                === 'the insurer tells the new office',
            'the undo to be undone',
        );
        $b->press('Specification');
        $b->see('the insurer tells the new office');
        $b->see('Surveys are kept on paper');
        $this->assertClean();
        foreach (["$m/mapping", "$m/sources/feeds", "$m/target/tables"] as $screen) {
            $b->go($screen);
            $this->assertClean();
        }
    }

    /** What is decided about rows is theirs in the next take and round, and the round before says what it said. */
    public function test_decisions_follow_their_rows(): void
    {
        $b = $this->browser;
        $plan = $this->smallPlan(
            "no,code,name\n1,AA,Ardmore\n2,,Bressay\n3,CC,\n4,DD,Durness\n",
            '{code: code, name: name}',
        );
        $headless = $this->app->make(Headless::class);
        $small = $headless->import($plan);
        $headless->freeze($small, $plan, fn () => null);
        $headless->study($small);
        $m = "/m/$small->id";
        $this->login();
        $b->go("$m/runs");
        $b->press('Load 4 rows');
        $b->await(fn () => DB::table('passes')->value('state') === 'finished', 'pass 1', 60);
        $this->typedWordsOutliveAPass($b, "$m/runs");

        $this->oneCorrectedAndOneWaived($b, $m, $load = (int) Load::query()->where('migration_id', $small->id)->value('id'));
        $this->theNextDelivery($b, $m, $load);
    }

    private function oneCorrectedAndOneWaived(Browser $b, string $m, int $load): void
    {
        $b->go("$m/rows/$load/2");
        $b->click('[aria-label="Correct code"]');
        $b->field();
        $b->keys('BB', WebDriverKeys::ENTER);
        $b->see('1 row tried: 1 would pass');
        $b->press('Correct 1 row');
        $b->see('The correction is kept');
        $b->go("$m/rejects?cause=$load~checks~required~name");
        $b->type('#why', 'closed in 1998');
        $b->press('Try without them');
        $b->see('1 stay behind');
        $b->press('Waive 1 row');
        $b->see('1 row waived');
        $b->press('Left out on purpose');
        $b->see('closed in 1998');
        $b->see('Load 1 row again');
        $this->assertClean();
        $b->press('Load 1 row again');
        $b->await(fn () => DB::table('passes')->where('number', 2)->value('state') === 'finished', 'pass 2', 60);
    }

    /** A page that holds somebody's words is not read anew when a pass ends, but says that its figures are old. */
    private function typedWordsOutliveAPass(Browser $b, string $page): void
    {
        DB::table('passes')->update(['state' => 'running']);
        $b->go($page);
        $b->see('rows/s');
        $b->type('#trace', 'half typed');
        DB::table('passes')->update(['state' => 'finished']);
        $b->see('from before it ended');
        self::assertSame('half typed', $b->find('#trace')->getDomProperty('value'));
        $this->assertClean();
        $b->press('Show new ones');
        $b->await(fn () => ! str_contains($b->text(), 'from before it ended'), 'the page read anew');
    }

    private function theNextDelivery(Browser $b, string $m, int $load): void
    {
        // A row on top, a column moved, a row changed and one gone.
        $file = sys_get_temp_dir().'/file.csv';
        file_put_contents($file, "name,no,code\nZetland,0,ZZ\nArdmore,1,AA\nBressay,2,\n,3,CC\n");
        $b->go("$m/sources");
        $b->find('#file')->sendKeys($file);
        $b->press('Upload and preview');
        $b->see('3 columns');
        $b->press('Freeze file.csv');
        $b->await(fn () => DB::table('takes')->where('number', 2)->where('state', 'frozen')->exists(), 'take 2', 60);
        $b->await(fn () => DB::table('takes')->where('number', 2)->whereNotNull('compared')->exists(), 'its comparison', 60);
        $b->go("$m/runs");
        $b->see('Newer takes were read');
        $this->assertClean();
        $b->type('#name', 'rehearsal-2');
        $b->press('Load 4 rows');
        $b->see('holds records of rehearsal-1');
        $this->assertClean();
        // Its records are cleared away, as a copy for the next rehearsal would be.
        $this->target()->exec('DELETE FROM harbour');
        $b->click('input[name=anyway]');
        $b->press('Load 4 rows');
        $b->await(fn () => DB::table('passes')->where('number', 1)->where('state', 'finished')->count() === 2, 'the second round', 60);
        self::assertSame(
            [['AA', 'Ardmore'], ['BB', 'Bressay'], ['ZZ', 'Zetland']],
            $this->targetRows('SELECT code, name FROM harbour ORDER BY code'),
        );
        $b->go("$m/rejects");
        $b->see('Nothing is rejected');
        $b->press('Left out on purpose');
        $b->see('closed in 1998');
        $this->theRoundBefore($b, $m, $load);
    }

    private function theRoundBefore(Browser $b, string $m, int $load): void
    {
        $b->driver->executeScript("const s = document.querySelector('#look'); s.value = s.options[1].value; s.form.requestSubmit()");
        $b->await(fn () => str_contains($b->text(), 'Rehearsal 1'), 'the round before');
        $b->go("$m/rows/$load/1");
        $b->see('Ardmore');
        $b->see('take 1');
        $b->go("$m/reconciliation");
        $b->see('4 rows came in');
        $this->assertClean();
    }

    /** Long tables by keys: filtered, sorted, walked, marked, opened; the way back leads to what was there; two tabs do not mix. */
    public function test_tables_are_worked_with_by_keys(): void
    {
        $b = $this->browser;
        $m = "/m/{$this->migration->id}";
        $this->load($this->migration);
        $this->login();
        $at = fn (): string => (string) parse_url($b->driver->getCurrentURL(), PHP_URL_QUERY);
        $first = fn (): string => (string) $b->driver->executeScript("return document.querySelector('#table-causes tbody tr').innerText");
        $focus = fn (): string => (string) $b->driver->executeScript('return document.activeElement.id');
        $b->go("$m/rejects");
        $b->see('in all');
        $this->assertClean();

        // Filtered as it is typed; the field keeps what is typed and where the hand is.
        $b->type('#find-causes-stage', 'mapp');
        $b->await(fn () => str_contains($at(), 'causes-stage=mapp'), 'the address says what is filtered');
        $b->keys('ing');
        $b->await(fn () => str_contains($at(), 'causes-stage=mapping'), 'the rest is typed into the same field');
        self::assertSame('find-causes-stage', $focus());
        $b->see('All of them');
        $filtered = $first();
        $b->click('#sort-causes-own');
        $b->await(fn () => str_contains($at(), 'causes-sort=-own'), 'sorted');
        $b->click('#sort-causes-own');
        $b->await(fn () => str_contains($at(), 'causes-sort=own'), 'the other way round');
        $this->assertClean();
        self::assertNotSame($filtered, $first());

        $this->besideAnotherTab($b, $m, $at, $first, $filtered);
        $this->walkedByArrows($b, $m);
    }

    /**
     * @param  \Closure(): string  $at  what the address says
     * @param  \Closure(): string  $first  the first row
     * @param  string  $filtered  what it was before it was sorted
     */
    private function besideAnotherTab(Browser $b, string $m, \Closure $at, \Closure $first, string $filtered): void
    {
        $sorted = $first();
        // Another tab with another order leaves this one as it is.
        $here = $b->driver->getWindowHandle();
        $b->driver->switchTo()->newWindow(WebDriverTargetLocator::WINDOW_TYPE_TAB);
        $b->go("$m/rejects?causes-sort=cause");
        $b->see('in all');
        $b->driver->close();
        $b->driver->switchTo()->window($here);
        self::assertSame($sorted, $first());

        // Going back leads through what was shown.
        $b->driver->navigate()->back();
        $b->await(fn () => str_contains($at(), 'causes-sort=-own'), 'back to the order before');
        $b->driver->navigate()->back();
        $b->await(fn () => ! str_contains($at(), 'causes-sort') && $first() === $filtered, 'back to what was filtered');
    }

    private function walkedByArrows(Browser $b, string $m): void
    {
        $b->go("$m/rejects?causes-stage=mapping");
        $b->driver->executeScript("document.querySelector('#table-causes tbody tr[tabindex=\"0\"]').focus()");
        $b->keys(WebDriverKeys::ARROW_DOWN, ' ', WebDriverKeys::ARROW_DOWN, ' ');
        $b->see('2 marked');
        $second = (string) $b->driver->executeScript(
            "return document.querySelectorAll('#table-causes tbody tr')[1].cells[0].innerText.trim()",
        );
        $b->press('Copy');
        $b->see('2 copied');
        $b->press('Clear');
        $b->driver->executeScript("document.querySelectorAll('#table-causes tbody tr')[1].focus()");
        $b->keys(WebDriverKeys::ENTER);
        $b->see('Repair');
        self::assertStringContainsString('causes-stage=mapping', $b->driver->getCurrentURL());
        self::assertStringContainsString($second, $b->text());
        $this->assertClean();
        $b->driver->navigate()->back();
        $b->await(fn () => ! str_contains($b->driver->getCurrentURL(), 'cause='), 'back at the list');

        // Typed codes are not lost to a filter.
        $b->go("$m/crosswalks");
        $b->type('input[aria-label="New value of UKK"]', 'GB');
        $b->driver->executeScript('window.confirm = () => { window.asked = true; return false; }');
        $b->click('#sort-codes-rows');
        $b->await(fn () => $b->driver->executeScript('return window.asked === true'), 'somebody is asked first');
        self::assertSame('GB', $b->find('input[aria-label="New value of UKK"]')->getDomProperty('value'));
        $this->assertClean();
        $this->inTheDark($b, $m);
    }

    /** The same pages as whoever prefers dark sees them. */
    private function inTheDark(Browser $b, string $m): void
    {
        $b->prefer('dark');
        $extract = DB::table('extracts')->where('name', 'people')->value('id');
        foreach (
            [
                '/', "$m/sources", "$m/sources/extracts/$extract", "$m/sources/references", "$m/crosswalks", "$m/order", "$m/runs",
                "$m/rejects?show=held", "$m/rows?outcome=held", "$m/reconciliation", "$m/trace", "$m/gaps",
            ] as $page
        ) {
            $b->go($page);
            $this->assertClean();
        }
        $b->prefer('light');
        foreach (["$m/sources/extracts/$extract", "$m/sources/references", "$m/order", "$m/runs", "$m/rows?outcome=held"] as $page) {
            $b->go($page);
            $this->assertClean();
        }
    }
}
