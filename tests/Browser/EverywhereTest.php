<?php

namespace Tests\Browser;

use App\Models\Answer;
use App\Models\ClientFile;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Role;
use App\Models\Round;
use Facebook\WebDriver\WebDriverKeys;
use Illuminate\Http\Request;
use Illuminate\Routing\Route;
use Illuminate\Support\Facades\DB;
use Tests\TestCase;

/**
 * Every screen a link leads to, found by following them over a loaded migration: whatever opens on it is opened, at
 * three widths, light and dark. Then every form of those screens is sent, and the focus is looked for afterwards.
 */
final class EverywhereTest extends TestCase
{
    use OwnBrowser;

    /** Answers that are no screens. */
    private const NO_SCREEN = ['/\.(csv|yaml|json|pdf|xlsx|sql)$|-csv=/', '#/works/#', '#/plan$#', '#/file$#', '#/strip$#'];

    /** What axe-core judges by where things lie and what colours they have. */
    private const BY_ROOM = ['color-contrast', 'target-size', 'region', 'scrollable-region-focusable'];

    /** Sent by no form of these screens, and why. */
    private const ELSEWHERE = [
        'POST join/{token}' => 'by a link: PeopleTest',
        'POST login/second' => 'only with a second factor: PeopleStoryTest',
        'POST account/second' => 'a code is not kept: PeopleStoryTest, SecondFactorTest',
        'POST account/second/codes' => 'only with a second factor: SecondFactorTest',
        'DELETE account/second' => 'only with a second factor: SecondFactorTest',
        'POST account/others' => 'there is no other session: LoginTest',
        'DELETE account/sessions/{session}' => 'there is no other session: LoginTest',
        'DELETE sessions/{session}' => 'there is no other session: LoginTest',
        'POST accounts/appoint' => 'only where a migration has no lead: PeopleTest',
        'POST accounts/{user}' => 'there is no other account: PeopleTest',
        'POST m/{migration}/people/{user}/link' => 'only for who has set no password yet: PeopleTest',
        'DELETE m/{migration}/sources/takes/{take}/file' => 'only for what was uploaded: ApartTest',
        'DELETE m/{migration}/sources/upload/{upload}' => 'only while an upload waits: ApartTest',
        'PUT m/{migration}/draft' => 'the page itself sends what is typed',
        'POST m/{migration}/mapping/loads/{load}/fields/{field}/preview' => 'sent while a rule is typed',
        'POST m/{migration}/mapping/loads/{load}/text/look' => 'sent while the text is typed',
        'POST m/{migration}/mapping/loads/{load}/check/stop' => 'only while a check runs',
        'POST m/{migration}/sources/takes/{take}/stop' => 'only while a take is read',
        'POST m/{migration}/passes/{pass}/pause' => 'only while a pass runs: StoryTest',
        'POST m/{migration}/passes/{pass}/end' => 'only while a pass runs',
        'POST m/{migration}/passes/{pass}/resume' => 'only while a pass rests',
        'POST m/{migration}/passes/{pass}/back-out' => 'takes away what the other screens show: RejectsStoryTest',
        'POST m/{migration}/crosswalks/codes/{crosswalk}/history/{code}' => 'only when codes were changed',
        'POST m/{migration}/runs/records' => 'only when the target differs from the ledger',
        'POST m/{migration}/target/count' => 'only before the first count',
        'POST m/{migration}/target/tables' => 'only when tables are missing: StoryTest',
        'POST m/{migration}/changes/{list}' => 'only when a plan was read: StoryTest',
        'POST m/{migration}/sources/references/{reference}' => 'only when references were found: KeysTest',
        'POST m/{migration}/mapping/loads/{load}/fields/{field}/crosswalk' => 'only when a crosswalk is missing: KeysTest makes one',
        'POST m/{migration}/crosswalks/codes/{crosswalk}/suggested' => 'only when codes are suggested: KeysTest',
        'POST m/{migration}/sources/feeds' => 'two extracts are chosen first: StoryTest',
        'POST m/{migration}/sources/extracts/{extract}/multiply' => 'only after a refused take',
        'POST m/{migration}/sources/extracts/{extract}/again' => 'only for an extract that is made of others',
        'POST m/{migration}/sources/connections/{connection}/freeze' => 'a reader of a database is set up first',
        'POST m/{migration}/dry-runs' => 'a button beside others of a form: RejectsStoryTest',
        'POST m/{migration}/dry-runs/{dryRun}/stop' => 'only while rows are tried',
        'POST m/{migration}/rejects/repairs/{repair}/undo' => 'only once a repair was made: RejectsStoryTest',
        'POST m/{migration}/rejects/loads/{load}/take-back' => 'only where rows were left behind: RejectsStoryTest',
        'POST m/{migration}/rejects/answers/{answer}/leave' => 'a button beside others of a form: AnswersTest',
        'POST m/{migration}/rejects/waivers/confirm' => 'only in a cutover',
        'POST m/{migration}/rejects/corrections' => 'only when a new take changed a corrected row',
        'POST m/{migration}/total/try' => 'sent while an expression is typed: ReckoningTest',
        'POST m/{migration}/works/{work}/stop' => 'only while something is counted: ReckoningTest',
        'POST m/{migration}/reconciliation/differences' => 'only where groups or rows differ: ReckoningTest',
        'POST m/{migration}/totals/of/{number}/rows' => 'only of a total with groups: ReckoningTest',
        'PUT m/{migration}/total/{total}' => 'the form of a new one, beside the button that removes it: ReckoningTest',
        'POST m/{migration}/compared/{load}/again' => 'only where records were changed since: ReckoningTest',
        'POST m/{migration}/rejects/loads/{load}/ask' => 'only for causes somebody is to be asked about',
    ];

    /** Screens that have something to show once forms were sent. */
    private const AFTERWARDS = [
        'rejects?show=left', 'rejects/answers/1', 'dry-runs/1', 'mapping/loads/1/history', 'crosswalks/codes/1/history',
        'sources/extracts/1',
    ];

    /** Fills what a form of this kind needs and puts the focus on what sends it. */
    private const FILL = <<<'JS'
        const [method, like, wantsFile] = arguments, to = new RegExp(like);
        // As if something was typed: the page is not read anew while it is worked on.
        document.dispatchEvent(new Event('input'));
        const isSeen = (el) => el.checkVisibility({ visibilityProperty: true }) && !el.disabled;
        const goes = (form) => to.test(new URL(form.getAttribute('action') ?? '', location).pathname);
        const all = [...document.querySelectorAll('form[method=post]')].filter((form) => goes(form)
            && (form.querySelector('[name=_method]')?.value.toUpperCase() ?? 'POST') === method);
        const alone = [...document.querySelectorAll('[hx-post], [hx-put], [hx-delete]')].filter((el) => !el.matches('form, textarea')
            && to.test(el.getAttribute('hx-put') ?? el.getAttribute('hx-post') ?? el.getAttribute('hx-delete')));
        for (const el of alone.filter(isSeen)) { el.focus(); return true; }
        // A form that stands where another was opened.
        if (!all.some((form) => [...form.elements].some(isSeen))) {
            document.querySelectorAll('#work button[aria-expanded=true]').forEach((b) => b.click());
        }
        for (const form of all) {
            for (const field of [...form.elements].filter((el) => isSeen(el) && !el.readOnly)) {
                if (field.matches('select') && field.required && field.value === '') field.selectedIndex = 1;
                if (field.matches('[type=checkbox][required]')) field.checked = true;
                if (wantsFile && field.type === 'file' && field.required) return `#${field.id}`;
                if (field.matches('input:not([type=checkbox]):not([type=radio]):not([type=hidden]), textarea') && field.value === '') {
                    field.value = field.name === 'current' ? 'secret-Lead' : { number: '1', email: 'x1@example.test' }[field.type] ?? 'x1';
                }
            }
            const button = [...form.elements].find((el) => isSeen(el) && el.matches('button:not([type=button])'));
            if (button) { button.focus(); return true; }
            const box = [...form.elements].find((el) => isSeen(el) && el.matches('input, select'));
            if (box) { box.focus(); return true; }
        }
        return `${all.length} forms, none can be sent`;
        JS;

    /** What is typed into the form that is about to be sent: its address, and its fields. */
    private const TYPED = <<<'JS'
        window.isOld = true;
        window.sender = document.activeElement;
        // The first sign that it has begun is there before a tenth of a second is over, in the order of the page's own events.
        delete sessionStorage['test-began'];
        document.addEventListener('keydown', () => {
            setTimeout(() => sessionStorage['test-began'] ??= 'late', 100);
            new MutationObserver(() => {
                const sign = document.querySelector('[aria-busy=true], #busy:not([hidden])');
                if (sign) sessionStorage['test-began'] ??= 'soon';
            }).observe(document.documentElement, { subtree: true, attributes: true });
        }, { capture: true, once: true });
        const form = window.sender.form;
        const others = ['hidden', 'password', 'file', 'submit', 'checkbox', 'radio'];
        const kept = (el) => el.name !== '' && !others.includes(el.type) && !el.matches('button');
        return form ? [form.getAttribute('action'), [...form.elements].filter(kept).map((el) => [el.name, el.value])] : [null, []];
        JS;

    /** Which of it is not there any more though the server refused it. */
    private const LOST = <<<'JS'
        const [action, typed] = arguments;
        if (action === null || !document.querySelector('[data-refused]')) return null;
        const left = [...document.querySelectorAll('form[method=post]')].filter((form) => form.getAttribute('action') === action)
            .map((form) => typed.filter(([name, value]) => ![...form.elements].some((el) => el.name === name && el.value === value)));
        return left.length === 0 || left.some((lost) => lost.length === 0) ? null : JSON.stringify(left[0]);
        JS;

    /** @var array<string, string> method and route => address of a screen that has a form for it */
    private array $forms = [];

    private Migration $migration;

    /** @var list<string> */
    private array $wrong = [];

    protected function setUp(): void
    {
        parent::setUp();
        $this->migration = $this->demoMigration(self::smallDemo(), true, true);
        $this->answered($this->load($this->migration));
        $this->user(Role::Lead);
        $this->enterAsLead('Migrations');
    }

    /** A file came back with a cell changed, and another with a column called otherwise. */
    private function answered(Round $round): void
    {
        $line = $this->lines()->where('outcome', 'rejected')->orderBy('load_id')->orderBy('row_no')->firstOrFail();
        $load = Load::query()->findOrFail($line->load_id);
        $file = ClientFile::query()->create([
            'migration_id' => $round->migration_id, 'round_id' => $round->id, 'code' => 'BCDFGH', 'title' => 'Rejected rows',
            'format' => 'csv', 'words' => 'en', 'loads' => [$load->id], 'decision' => 0, 'row_count' => 1,
        ]);
        $of = ['migration_id' => $round->migration_id, 'round_id' => $round->id, 'file_id' => $file->id];
        $found = ['rows' => 1, 'change' => 2, 'conflict' => 0, 'already' => 0, 'remarks' => 0];
        $answer = Answer::query()->create($of + ['name' => 'back.csv', 'state' => 'listed', 'found' => $found]);
        foreach ([0, 1] as $position) {
            DB::table('answer_changes')->insert([
                'answer_id' => $answer->id, 'load_id' => $load->id, 'row_no' => $line->row_no, 'position' => $position,
                'take_id' => $load->extract->take_id, 'was' => 'a', 'is_now' => 'a', 'becomes' => 'b', 'kind' => 'change',
            ]);
        }
        $asks = [['sheet' => 'back', 'load' => $load->name, 'missing' => ['NAME'], 'unknown' => ['Name of it']]];
        Answer::query()->create($of + ['name' => 'asks.csv', 'state' => 'asking', 'found' => ['asks' => $asks]]);
    }

    private function route(string $method, string $path): ?Route
    {
        try {
            return $this->app->make('router')->getRoutes()->match(Request::create($path, $method));
        } catch (\Throwable) {
            return null;
        }
    }

    /** What a screen is: its route and the names of what its address asks for. */
    private function kind(string $address): ?string
    {
        [$path, $query] = [(string) parse_url($address, PHP_URL_PATH), (string) parse_url($address, PHP_URL_QUERY)];
        foreach (self::NO_SCREEN as $pattern) {
            if (preg_match($pattern, $address) === 1) {
                return null;
            }
        }
        parse_str($query, $asked);
        // Sorted, filtered or on another page it is the same screen.
        // What is shown of a thing is a screen of its own.
        $asked = isset($asked['show']) ? ["show=$asked[show]" => 1] + $asked : $asked;
        $asked = array_filter(
            array_keys($asked),
            fn ($k) => preg_match('/^(round|rows|alike|from|show)$|-(sort|page|f)$/', (string) $k) === 0,
        );
        sort($asked);
        $route = $this->route('GET', $path);

        return $route === null ? null : $route->uri().($asked === [] ? '' : '?'.implode('&', $asked));
    }

    /** @return array<string, list<string>> kind of screen => addresses of it: one, or several where they differ by what is open */
    private function screens(\Closure $at): array
    {
        $b = $this->browser;
        [$found, $todo] = [[], ['/']];
        $found[$this->kind('/')] = ['/'];
        while ($todo !== []) {
            $b->go(array_shift($todo));
            $b->find('main');
            $links = $b->driver->executeScript(
                'const to = a => new URL(a.getAttribute("href"), location).href.split("#")[0]; '
                    .'return [...new Set([...document.querySelectorAll("a[href]:not([download])")].map(to))]',
            );
            foreach ($links as $link) {
                $address = str_starts_with($link, $b->address.'/') ? substr($link, strlen($b->address)) : null;
                $kind = $address === null ? null : $this->kind($address);
                $most = str_contains((string) $kind, 'rejects/{entity?}?cause') ? 8 : 1;
                if ($kind !== null && count($found[$kind] ?? []) < $most && ! in_array($address, $found[$kind] ?? [], true)) {
                    $found[$kind][] = $address;
                    $todo[] = $address;
                }
            }
            $at();
        }

        return $found;
    }

    /** Opens whatever opens: folded parts, forms behind a button, the list of keys. */
    private function open(): void
    {
        $this->browser->driver->executeScript(
            'for (const d of document.querySelectorAll("#work details:not([open])")) d.open = true;'
                .'for (const b of document.querySelectorAll("#work button[aria-expanded=false]")) b.click();',
        );
    }

    /** @param  list<string>  $rules  of axe-core; none means all */
    private function looksAt(int $width, string $scheme, array $rules = []): void
    {
        $b = $this->browser;
        $b->size($width, 800);
        $b->prefer($scheme);
        $where = $b->driver->getCurrentURL()." at $width px, $scheme";
        $this->fits($where);
        foreach ($b->violations($rules) as $violation) {
            $this->wrong[] = "$where: $violation";
        }
    }

    private function fits(string $where): void
    {
        $b = $this->browser;
        $over = $b->driver->executeScript(
            'const d = document.documentElement, w = document.querySelector("main"); '
                .'return [d.scrollWidth - d.clientWidth, w.scrollWidth - w.clientWidth]',
        );
        if ($over[0] + $over[1] > 0) {
            $this->wrong[] = "$where: ".implode(' and ', $over).' px too wide';
        }
    }

    /** What depends on room and colours; with BAGGAGE_LONG every rule at every width, light and dark. */
    private function looksEverywhere(): void
    {
        // The colours of a part are the same on every page.
        $byRoom = $this->browser->isKnown('any') ? array_diff(self::BY_ROOM, ['color-contrast']) : self::BY_ROOM;
        $this->looksAt(640, 'dark', array_values($byRoom));
        $this->browser->size(1024, 800);
        $this->fits($this->browser->driver->getCurrentURL().' at 1024 px');
        foreach (getenv('BAGGAGE_LONG') ? [1280, 1024, 640] : [] as $width) {
            $this->looksAt($width, 'light');
            $this->looksAt($width, 'dark');
        }
        $this->browser->size(1280, 800);
        $this->browser->prefer('light');
    }

    public function test_every_screen_with_everything_open_at_every_width(): void
    {
        $b = $this->browser;
        $screens = $this->screens(function () {
            $this->open();
            $this->remember();
            $this->looksEverywhere();
        });
        self::assertGreaterThan(40, count($screens));
        // What lies over a screen: the journey of a row, the list of keys, the words a rule may go on with.
        $b->go(current($screens['m/{migration}/rows/{entity?}']));
        $b->click('[data-journey]');
        $b->await(fn () => $b->driver->executeScript('return document.activeElement.closest("#drawer") !== null'), 'the drawer');
        $this->looksEverywhere();
        $b->keys(WebDriverKeys::ESCAPE);
        $b->await(fn () => $b->driver->executeScript('return document.activeElement.matches("[data-journey]")'), 'the focus back');
        $b->keys('?');
        $b->find('dialog[open]');
        $this->looksEverywhere();
        $b->go('/m/'.$this->migration->id.'/mapping/vessel');
        $b->click('#rule-name textarea');
        $b->keys(WebDriverKeys::CONTROL.'a'.WebDriverKeys::NULL, 'up');
        $b->find('.completion [role=option]');
        $this->looksEverywhere();
        $this->everyForm();
        self::assertSame([], array_values(array_unique($this->wrong)));
    }

    /** Which forms and buttons that send there are on the screen, by the route they go to. */
    private function remember(): void
    {
        $found = $this->browser->driver->executeScript(<<<'JS'
            return [...document.querySelectorAll('form[method=post], [hx-post], [hx-put], [hx-delete]')].map((el) => {
                const form = el.closest('form');
                const method = el.getAttribute('hx-put') ? 'PUT' : el.getAttribute('hx-delete') ? 'DELETE'
                    : form?.querySelector('[name=_method]')?.value.toUpperCase() ?? 'POST';
                const to = el.getAttribute('hx-put') ?? el.getAttribute('hx-post') ?? el.getAttribute('hx-delete')
                    ?? new URL(form.getAttribute('action') ?? '', location).pathname;
                return [el.hasAttribute('hx-post') ? 'POST' : method, to];
            })
            JS);
        foreach ($found as [$method, $to]) {
            $route = $this->route($method, $to);
            self::assertNotNull($route, "$method $to on {$this->browser->driver->getCurrentURL()} leads nowhere");
            if (str_ends_with($route->uri(), '/back-out')) {
                // It would take away what the other screens show.
                continue;
            }
            $this->forms["$method {$route->uri()}"] ??= substr($this->browser->driver->getCurrentURL(), strlen($this->browser->address));
        }
    }

    /** Sends each kind of form once, and looks where the focus is afterwards. */
    private function everyForm(): void
    {
        $all = [];
        foreach ($this->app->make('router')->getRoutes() as $route) {
            foreach (array_diff($route->methods(), ['GET', 'HEAD']) as $method) {
                $all[] = "$method {$route->uri()}";
            }
        }
        $sent = [];
        foreach ([[], self::AFTERWARDS] as $more) {
            foreach ($more as $screen) {
                $this->browser->go("/m/{$this->migration->id}/$screen");
                $this->browser->find('main');
                $this->open();
                $this->remember();
            }
            $later = fn () => $more === [] ? array_filter($this->forms, $this->isLast(...), ARRAY_FILTER_USE_KEY) : [];
            while (($left = array_diff_key($this->forms, $sent, $later())) !== []) {
                // What takes something away comes last.
                uksort($left, fn ($a, $b) => [$this->isLast($a), $a] <=> [$this->isLast($b), $b]);
                $kind = (string) key($left);
                $sent[$kind] = $this->send($kind, $left[$kind]);
                if ($sent[$kind] !== null && ! isset(self::ELSEWHERE[$kind])) {
                    $this->wrong[] = "$kind on $left[$kind]: $sent[$kind]";
                }
            }
        }
        $missed = array_diff($all, array_keys($sent), array_keys(self::ELSEWHERE));
        self::assertSame([], array_values($missed), 'sent by no form, and not said why');
    }

    private function isLast(string $kind): int
    {
        return match (true) {
            $kind === 'POST logout' => 4,
            // It is the migration that it removes.
            $kind === 'DELETE m/{migration}/mend/{kind}/{id}' => 3,
            $kind === 'POST m/{migration}/runs/end' => 2,
            str_starts_with($kind, 'DELETE') => 1,
            default => 0,
        };
    }

    /** @return string|null what is wrong with where the focus is after this form was sent, or with what was typed */
    private function send(string $kind, string $at): ?string
    {
        $b = $this->browser;
        if ($this->isLast($kind) > 0) {
            // What was begun by other forms is in the way of what ends or removes something.
            $b->await(fn () => DB::table('passes')->whereIn('state', ['queued', 'running'])->doesntExist(), 'the end of passes', 60);
            $b->await(fn () => DB::table('works')->whereIn('state', ['queued', 'running'])->doesntExist(), 'the end of works', 60);
        }
        $b->go($at);
        $b->find('main');
        $this->open();
        $ready = $this->filled($kind);
        if ($ready !== true) {
            return (string) $ready;
        }
        $typed = $b->driver->executeScript(self::TYPED);
        $b->keys(WebDriverKeys::ENTER);
        for ($i = 0; $i < 25 && $b->driver->executeScript('return window.isOld === true'); $i++) {
            usleep(60_000);
        }
        $b->await(fn () => $b->driver->executeScript('return document.readyState') === 'complete', 'the page');
        // What sends itself when something is chosen is not pressed.
        $began = $b->driver->executeScript(
            'return document.activeElement.matches("[data-send]") ? "soon" : sessionStorage["test-began"] ?? null',
        );
        $where = $this->astray();
        $lost = $b->driver->executeScript(self::LOST, $typed);
        $this->open();
        $this->remember();

        return match (true) {
            $where !== null => "the focus is on $where; ".mb_substr($b->text(), 0, 300),
            $lost !== null => "refused, and lost is what was typed: $lost",
            $began !== 'soon' => 'it shows '.($began ?? 'never').' that it has begun',
            default => null,
        };
    }

    /** @return true|string|null true when the form is filled and its button has the focus */
    private function filled(string $kind): true|string|null
    {
        [$method, $uri] = explode(' ', $kind, 2);
        $like = '^/'.preg_replace('/\\\\\{[^}]*\\\\\}/', '[^/]+', preg_quote($uri, '#')).'$';
        $ready = $this->browser->driver->executeScript(self::FILL, [$method, $like, true]);
        if (is_string($ready) && str_starts_with($ready, '#')) {
            file_put_contents($file = self::work('some.csv'), "a,b\n1,x\n2,y\n");
            $this->browser->find($ready)->sendKeys($file);
            $ready = $this->browser->driver->executeScript(self::FILL, [$method, $like, false]);
        }
        // What was put in its place takes a moment; and a page that read itself anew, since a pass ended, has it closed again.
        for ($i = isset(self::ELSEWHERE[$kind]) ? 10 : 0; $i < 12 && $ready !== true; $i++) {
            usleep(200_000);
            $i % 2 === 1 ? $this->open() : null;
            $ready = $this->browser->driver->executeScript(self::FILL, [$method, $like, true]);
        }

        return $ready;
    }

    /** @return string|null what has the focus, where that is neither in the work nor on what was used */
    private function astray(): ?string
    {
        // Where something ended meanwhile the page reads itself anew.
        for ($i = 0, $where = ''; $i < 20 && $where !== null; $i++) {
            usleep(60_000);
            $where = $this->browser->driver->executeScript(
                'const e = document.activeElement; return e.closest("main, dialog, #drawer") !== null || e === window.sender '
                    .'|| e.matches("[data-send]") ? null : e.outerHTML.slice(0, 90)',
            );
        }

        return $where;
    }
}
