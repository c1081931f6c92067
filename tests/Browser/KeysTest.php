<?php

namespace Tests\Browser;

use App\Models\Load;
use App\Models\Migration;
use Facebook\WebDriver\WebDriverBy;
use Facebook\WebDriver\WebDriverKeys;
use Illuminate\Support\Facades\DB;
use Tests\TestCase;

/** First use with three foreign files by the keyboard alone, counting every key that is no text. */
final class KeysTest extends TestCase
{
    use FirstUse;

    private int $keys = 0;

    /** @var list<string> which stretch took how many keys, to tell where they go */
    private array $stretches = [];

    private function key(string ...$keys): void
    {
        foreach ($keys as $key) {
            $this->keys++;
            $this->browser->keys($key);
        }
    }

    private function text(string $text): void
    {
        $this->browser->field();
        $this->browser->keys($text);
    }

    private function enter(): void
    {
        $this->key(WebDriverKeys::ENTER);
    }

    /** Enter, and the next page is there. */
    private function on(): void
    {
        $this->browser->driver->executeScript('window.isOld = true');
        $this->enter();
        $this->browser->await(fn () => $this->browser->driver->executeScript(
            'return !window.isOld && document.readyState === "complete" && document.activeElement !== document.body',
        ), 'the next page, with the focus in it');
    }

    private function focus(): string
    {
        return (string) $this->browser->driver->executeScript(
            'const e = document.activeElement; '
                .'return e.matches("a, button, summary, input, select, textarea") === false ? "" '
                .': [e.innerText, e.getAttribute("aria-label"), "#" + e.id].join(" ")',
        );
    }

    /** As many Tabs as it takes, each counted; what is reached shows that it has the focus. */
    private function tabTo(string $words, int $most = 30): void
    {
        $from = $this->focus();
        for ($i = 0; $i <= $most; $i++) {
            if (str_contains($this->focus(), $words)) {
                $this->stretches[] = "$i to $words (from ".trim(str_replace("\n", ' ', substr($from, 0, 40))).')';
                self::assertNotSame(
                    'none',
                    $this->browser->driver->executeScript('return getComputedStyle(document.activeElement).outlineStyle'),
                    "$words shows its focus",
                );

                return;
            }
            $this->key(WebDriverKeys::TAB);
        }
        $where = $this->browser->driver->getCurrentURL();
        self::fail("\"$words\" is not reached by $most Tabs on $where; ".implode("\n", $this->stretches));
    }

    private function stop(string $words): void
    {
        $this->key(']');
        $this->browser->see($words);
    }

    public function test_first_use_by_keys_alone(): void
    {
        $b = $this->browser;
        $database = $this->shop();
        $b->go('/login');
        $this->text('lead@example.test');
        $this->key(WebDriverKeys::TAB);
        $this->text('secret-Lead');
        $this->enter();
        $b->see('Begin a migration');
        foreach ($this->given($database) as $field => $value) {
            $this->tabTo("#f-$field");
            if ($field === 'port') {
                $this->key(WebDriverKeys::CONTROL.'a'.WebDriverKeys::NULL);
            }
            $this->text($value);
        }
        $this->enter();
        $b->await(fn () => Migration::query()->exists(), 'the migration', 60);
        $b->see('Nothing is known of the target yet');
        $this->tabTo('Read the schema');
        $this->on();
        $b->see('Purchase');
        $this->frozenByKeys();
        foreach ([['party', 'kunden', 'Parties'], ['article', 'artikel', 'Articles'], ['purchase', 'verkauf', 'Purchases']] as $n => $of) {
            $this->mappedByKeys($n, ...$of);
        }
        $this->loadedAndTracedByKeys();
        self::assertLessThanOrEqual(150, $this->keys, "keys besides text from login to trace:\n".implode("\n", $this->stretches));
    }

    private function frozenByKeys(): void
    {
        $b = $this->browser;
        $this->key('[');
        $b->see('A legacy system comes first');
        $this->tabTo('#code');
        $this->text('W');
        $this->key(WebDriverKeys::TAB);
        $this->text('Warenwirtschaft');
        $this->on();
        $b->see('Drop files here');
        $this->tabTo('#file');
        // Enter opens the system's own dialog, where the three names are typed.
        $this->keys += 2;
        $b->find('#file')->sendKeys(implode("\n", $this->files()));
        $this->tabTo('Upload and preview');
        $this->on();
        foreach (['artikel.csv', 'verkauf.csv'] as $next) {
            $this->tabTo('look at the next file');
            $this->on();
            $b->see($next);
        }
        $this->tabTo('Freeze all 3 files');
        $this->on();
        $b->await(fn () => DB::table('takes')->where('state', 'frozen')->count() === 3, 'three takes', 60);
        $b->await(fn () => DB::table('column_references')->count() >= 2, 'the references', 60);
        $b->await(fn () => str_contains($b->text(), '300 rows frozen'), 'the page to follow');
        $this->tabTo('What hangs on what');
        $this->enter();
        $b->see('Accept');
        while (DB::table('column_references')->where('decision', 'found')->exists()) {
            $open = DB::table('column_references')->where('decision', 'found')->count();
            $this->tabTo('Accept');
            $this->enter();
            $b->await(fn () => DB::table('column_references')->where('decision', 'found')->count() < $open, 'one less');
            $b->see('is known now');
        }
    }

    private function mappedByKeys(int $nth, string $entity, string $extract, string $load): void
    {
        $b = $this->browser;
        if ($nth === 0) {
            $this->stop('The new application');
            $this->stop('Mapping');
        }
        for ($i = 0; ! str_contains($b->driver->getCurrentURL(), "/mapping/$entity") && $i < 6; $i++) {
            $at = $b->driver->getCurrentURL();
            $this->key('j');
            $b->await(fn () => $b->driver->getCurrentURL() !== $at, 'the next entity');
        }
        $b->see('Nothing fills this entity yet');
        $this->tabTo('#new-extract');
        $b->keys("W $extract");
        $this->tabTo('#new-name');
        $this->text($load);
        $this->on();
        $b->see('suggestion');
        $this->tabTo('Use those ticked');
        $this->on();
        $b->see('Mapped as suggested');
        $of = Load::query()->where('name', $load)->firstOrFail();
        $rules = ['party' => ['standing' => "code('ranks', rang)"], 'purchase' => ['bought_on' => "date(kaufdatum, 'd.m.Y')"]];
        for ($i = 0; $i < 6 && str_contains($b->text(), 'Use this one'); $i++) {
            $this->tabTo('Use this one');
            $this->on();
        }
        $ruled = $of->rules()->whereNotNull('expression')->pluck('field')->all();
        foreach (array_diff(array_keys($of->entity->described()->writable()), $ruled) as $field) {
            self::assertArrayHasKey($field, $rules[$entity] ?? [], "nothing suggested for $entity.$field");
            $this->tabTo("Rule of $field");
            $b->keys($rules[$entity][$field]);
            $this->enter();
            $b->await(fn () => $of->rules()->where('field', $field)->whereNotNull('expression')->exists(), "a rule of $field");
        }
    }

    private function loadedAndTracedByKeys(): void
    {
        $b = $this->browser;
        $this->stop('Crosswalks');
        // Up to all entities, whose codes and loads are wanted together.
        while ($b->driver->findElements(WebDriverBy::cssSelector('[data-entity-before]')) !== []) {
            $at = $b->driver->getCurrentURL();
            $this->key('k');
            $b->await(fn () => $b->driver->getCurrentURL() !== $at, 'the entity before');
        }
        $b->see('there is none yet');
        $this->tabTo('Make ');
        $this->on();
        $b->see('suggestion');
        $this->tabTo('Use those ticked');
        $this->on();
        $b->see('every old value has a new one');
        $this->stop('Order');
        $this->stop('Load 300 rows');
        $this->tabTo('Load 300 rows');
        $this->enter();
        $b->see('Pass 1: all loads, finished', 60);
        self::assertSame(300, (int) DB::table('tallies')->where('outcome', 'loaded')->sum('n'), 'every row loaded');
        $this->key('/');
        $this->text('K0007');
        $this->enter();
        $b->see('row 7 of');
    }
}
