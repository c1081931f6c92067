<?php

namespace Tests\Browser;

use App\Models\Load;
use App\Models\Migration;
use Facebook\WebDriver\WebDriverBy;
use Facebook\WebDriver\WebDriverKeys;
use Illuminate\Support\Facades\DB;
use Tests\TestCase;

/** First use with three foreign files, from the login to a traced key, counting clicks; and what the hands meet on the way. */
final class HandsTest extends TestCase
{
    use FirstUse;

    private int $clicks = 0;

    private function press(string $words): void
    {
        $this->clicks++;
        $this->browser->press($words);
    }

    private function click(string $css): void
    {
        $this->clicks++;
        $this->browser->click($css);
    }

    private function fill(string $css, string $text): void
    {
        $this->clicks++;
        $this->browser->type($css, $text);
    }

    public function test_first_use_from_login_to_trace(): void
    {
        $b = $this->browser;
        $database = $this->shop();
        $b->go('/login');
        $this->fill('#email', 'lead@example.test');
        $this->fill('#password', 'secret-Lead');
        $b->keys(WebDriverKeys::ENTER);
        $b->see('Begin a migration');
        foreach ($this->given($database) as $field => $value) {
            $this->fill("#f-$field", $value);
        }
        $b->keys(WebDriverKeys::ENTER);
        $b->await(fn () => Migration::query()->exists(), 'the migration', 60);
        $this->source();
        $this->mapped('party', 'kunden', 'Parties', ['no']);
        $this->mapped('article', 'artikel', 'Articles', []);
        $this->mapped('purchase', 'verkauf', 'Purchases', []);
        $this->loadedAndTraced();
    }

    private function source(): void
    {
        $b = $this->browser;
        $m = '/m/'.Migration::query()->value('id');
        $b->see('Nothing is known of the target yet');
        $this->assertClean();
        $this->press('Read the schema');
        $b->see('Purchase');
        $this->click('nav.route a[href$="/sources"]');
        $b->see('A legacy system comes first');
        $this->assertClean();
        $this->fill('#code', 'W');
        $this->fill('#name', 'Warenwirtschaft');
        $b->keys(WebDriverKeys::ENTER);
        $b->see('Drop files here');
        $this->clicks++;
        $b->find('#file')->sendKeys(implode("\n", $this->files()));
        $this->press('Upload and preview');
        $b->see('Keep this, and look at the next file');
        $this->assertClean();
        $this->press('look at the next file');
        $b->see('artikel.csv');
        $this->press('look at the next file');
        $b->see('Freeze all 3 files');
        $this->press('Freeze all 3 files');
        $b->await(fn () => DB::table('takes')->where('state', 'frozen')->count() === 3, 'three takes', 60);
        $b->await(fn () => DB::table('column_references')->count() >= 2, 'the references', 60);
        $b->go("$m/sources/references");
        $this->clicks++;
        while (DB::table('column_references')->where('decision', 'found')->exists()) {
            $this->press('Accept');
            $b->see('is known now');
        }
    }

    /** @param  list<string>  $unused */
    private function mapped(string $entity, string $extract, string $load, array $unused): void
    {
        $b = $this->browser;
        $m = '/m/'.Migration::query()->value('id');
        $b->go("$m/mapping/$entity");
        $this->clicks++;
        $b->see('Nothing fills this entity yet');
        $this->clicks++;
        $b->driver->executeScript(
            "const s = document.querySelector('#new-extract'); s.value = [...s.options].find(o => o.text.includes('$extract')).value",
        );
        $this->fill('#new-name', $load);
        $b->keys(WebDriverKeys::ENTER);
        $b->see('suggestion');
        $this->press('Use those ticked');
        $b->see('Mapped as suggested');
        $this->byHand(Load::query()->where('name', $load)->firstOrFail());
    }

    /** What was suggested and not ticked is taken one by one; the rest is written, the next rule with each Enter. */
    private function byHand(Load $load): void
    {
        $b = $this->browser;
        for ($i = 0; $i < 6 && count($b->driver->findElements(WebDriverBy::cssSelector('#suggested button[formaction]'))) > 0; $i++) {
            $this->clicks++;
            $b->click('#suggested details:not([open]) summary, #suggested button[formaction]');
            usleep(400_000);
        }
        $rules = ['party' => ['standing' => "code('ranks', rang)"], 'purchase' => ['bought_on' => "date(kaufdatum, 'd.m.Y')"]];
        $entity = $load->entity->name;
        $ruled = $load->rules()->whereNotNull('expression')->pluck('field')->all();
        foreach (array_diff(array_keys($load->entity->described()->writable()), $ruled) as $field) {
            self::assertArrayHasKey($field, $rules[$entity] ?? [], "nothing suggested for $entity.$field");
            $this->click("#rule-$field textarea");
            $b->keys($rules[$entity][$field], WebDriverKeys::ENTER);
            $b->await(fn () => $load->rules()->where('field', $field)->whereNotNull('expression')->exists(), "a rule of $field");
        }
    }

    private function loadedAndTraced(): void
    {
        $b = $this->browser;
        $m = '/m/'.Migration::query()->value('id');
        $b->go("$m/crosswalks");
        $this->clicks++;
        $b->await(fn () => str_contains($b->text(), 'Crosswalks'), 'crosswalks');
        if (str_contains($b->text(), 'there is none yet')) {
            $this->press('Make ');
            $b->see('suggestion');
            $this->press('Use those ticked');
        }
        $b->see('every old value has a new one');
        $this->assertClean();
        $b->go("$m/runs");
        $this->clicks++;
        $this->press('Load 300 rows');
        $b->see('Pass 1: all loads, finished', 60);
        $b->keys('/');
        $b->field();
        $b->keys('K0007', WebDriverKeys::ENTER);
        $b->see('row 7 of');
        $loaded = (int) DB::table('tallies')->where('outcome', 'loaded')->sum('n');
        self::assertSame(300, $loaded, 'every row loaded');
        self::assertLessThanOrEqual(90, $this->clicks, 'clicks from login to trace');
        $this->handsOnTheSheet("$m/mapping/party");
        $this->nothingTypedIsLost($m);
        $this->room($m);
    }

    private function focus(): string
    {
        return (string) $this->browser->driver->executeScript(
            'const e = document.activeElement; return e.getAttribute("aria-label") || e.innerText || e.id || e.tagName',
        );
    }

    /** A rule by keys: the only completion, kept, on to the next; what stands around follows; Esc closes; letters wait. */
    private function handsOnTheSheet(string $at): void
    {
        $b = $this->browser;
        $b->go($at);
        $b->click('#rule-town textarea');
        $b->keys(WebDriverKeys::CONTROL.'a'.WebDriverKeys::NULL, 'gebd');
        $b->see('column GebDatum');
        $b->keys(WebDriverKeys::ENTER);
        self::assertSame('gebdatum', $b->find('#rule-town textarea')->getAttribute('value'));
        $b->keys(WebDriverKeys::CONTROL.'a'.WebDriverKeys::NULL, 'upper(ort)', WebDriverKeys::ENTER);
        $b->await(fn () => $this->focus() === 'Rule of standing', 'the next rule');
        $b->see('Undo town');
        self::assertSame('upper(ort)', DB::table('rules')->where('field', 'town')->value('expression'));
        // Nothing was changed there: Enter only goes on.
        $b->keys(WebDriverKeys::ENTER);
        $b->await(fn () => $this->focus() === 'Rule of birth_date', 'the one after it');
        $b->click('#rule-town button[aria-expanded]');
        $b->field();
        $b->keys('as in the log', WebDriverKeys::ESCAPE);
        $b->await(fn () => $this->focus() === 'Note on town', 'the button of the note');
        $b->keys('j');
        $path = (string) parse_url($b->driver->getCurrentURL(), PHP_URL_PATH);
        self::assertStringEndsWith('/mapping/party', $path, 'a letter after typing');
        $this->beginsAtOnce();
    }

    /** By the page's own clock: from the press to the sign that it has begun. */
    private function beginsAtOnce(): void
    {
        $b = $this->browser;
        $b->driver->executeScript(
            'const key = "test-began"; document.addEventListener("click", () => { const at = performance.now(); '
                .'new MutationObserver(() => { if (document.querySelector("[aria-busy=true]") && !localStorage[key]) '
                .'localStorage[key] = performance.now() - at; }).observe(document.body, {subtree: true, attributes: true}); }, '
                .'{capture: true, once: true})',
        );
        $b->press('Check all 60 rows');
        $b->see('Of 60 rows', 30);
        $took = (float) $b->driver->executeScript('return localStorage["test-began"]');
        self::assertGreaterThan(0, $took);
        self::assertLessThan(100, $took, 'milliseconds until it shows that it has begun');
        self::assertNotSame('BODY', $b->driver->executeScript('return document.activeElement.tagName'), 'the focus after an action');
    }

    /** Half a rule, a code and a finding: left behind, and there again. */
    private function nothingTypedIsLost(string $m): void
    {
        $b = $this->browser;
        $b->go("$m/mapping/party");
        $b->click('#rule-town textarea');
        $b->keys(WebDriverKeys::CONTROL.'a'.WebDriverKeys::NULL, 'upper(or');
        $b->await(fn () => str_contains((string) DB::table('drafts')->value('fields'), 'upper(or'), 'the draft');
        $b->go("$m/mapping/article");
        $b->go("$m/mapping/party");
        $b->see('you typed here and did not keep');
        self::assertSame('upper(or', $b->find('#rule-town textarea')->getAttribute('value'));
        $b->press('Forget them');
        $b->await(fn () => ! DB::table('drafts')->exists(), 'nothing kept');
        $b->await(fn () => $b->find('#rule-town textarea')->getAttribute('value') === 'upper(ort)', 'the rule as it is kept');
        // A table of codes keeps its edits while another form of the page is sent.
        $b->go("$m/crosswalks");
        $b->type('[aria-label="Note on GOLD"]', 'the best');
        $b->type('[id^=old-]', 'Platin');
        $b->type('[aria-label="New value of it"]', 'gold');
        $b->press('Add');
        $b->see('"Platin" becomes "gold"');
        $b->await(fn () => $b->find('[aria-label="Note on GOLD"]')->getAttribute('value') === 'the best', 'the note that was not sent');
        $b->press('Keep the table of');
        $b->see('1 code kept');
        $b->await(fn () => ! DB::table('drafts')->exists(), 'nothing kept');
    }

    /** The rail folds where there is little room; every screen at every width is looked at by EverywhereTest. */
    private function room(string $m): void
    {
        $b = $this->browser;
        $b->size(640, 800);
        $b->go("$m/mapping/party");
        $b->click('.rail-fold');
        $b->see('All entities');
        self::assertSame('true', $b->find('.rail-fold')->getAttribute('aria-expanded'));
    }
}
