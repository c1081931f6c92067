<?php

namespace Tests\Feature;

use App\Models\AuditEntry;
use App\Models\LoginSession;
use App\Models\Membership;
use App\Models\Migration;
use App\Models\Role;
use App\Models\User;
use App\People\DoorRules;
use App\People\Passwords;
use App\People\Sessions;
use Illuminate\Hashing\HashManager;
use Illuminate\Http\Middleware\TrustProxies;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Hash;
use PHPUnit\Framework\Attributes\DataProvider;
use Symfony\Component\Process\Process;
use Tests\TestCase;

/** The door: who comes in, how often it may be tried, and when a session is over. */
final class LoginTest extends TestCase
{
    private const PASSWORD = 'three quiet otters';

    private User $user;

    protected function setUp(): void
    {
        parent::setUp();
        $this->user = User::query()->create(['name' => 'Ada', 'email' => 'ada@example.test', 'password' => self::PASSWORD]);
    }

    private function try(string $email, string $password, string $ip = '192.0.2.1'): string
    {
        $this->app->make('auth')->logout();
        $this->flushSession();
        $answer = $this->withServerVariables(['REMOTE_ADDR' => $ip])->post('/login', ['email' => $email, 'password' => $password]);

        return auth()->check() ? 'in' : (string) (session('errors')?->first('email') ?? $answer->status());
    }

    public function test_the_same_number_of_verifications_for_accounts_there_are_and_are_not(): void
    {
        User::query()->create(['name' => 'I', 'email' => 'invited@example.test', 'password' => null]);
        User::query()->create(['name' => 'D', 'email' => 'disabled@example.test', 'password' => self::PASSWORD, 'disabled_at' => now()]);
        $counting = new class($this->app) extends HashManager
        {
            public int $checks = 0;

            public int $makes = 0;

            public function check($value, $hashedValue, array $options = []): bool
            {
                $this->checks++;

                return parent::check($value, $hashedValue, $options);
            }

            public function make($value, array $options = []): string
            {
                $this->makes++;

                return parent::make($value, $options);
            }
        };
        Hash::swap($counting);
        $says = [];
        foreach (['ada@example.test', 'nobody@example.test', 'invited@example.test', 'disabled@example.test'] as $email) {
            $counting->checks = $counting->makes = 0;
            $says[] = $this->try($email, 'wrong wrong wrong');
            self::assertSame([1, 0], [$counting->checks, $counting->makes], $email);
        }
        self::assertCount(1, array_unique($says), 'nothing tells them apart');
        // What stands for the hash of an account there is none of is of the same cost, and no password has it.
        self::assertFalse(Passwords::isRight(null, ''));
        self::assertSame('in', $this->try('ada@example.test', self::PASSWORD));
    }

    public function test_tries_are_counted_per_account_over_all_places(): void
    {
        for ($i = 0; $i < 10; $i++) {
            self::assertStringContainsString('do not belong together', $this->try('ada@example.test', 'x', "192.0.2.$i"));
        }
        // Written otherwise it is the same account, and from elsewhere the same limit.
        self::assertStringContainsString('Too many tries', $this->try(' ADA@example.test ', self::PASSWORD, '198.51.100.7'));
        $this->travel(301)->seconds();
        self::assertSame('in', $this->try(' ADA@example.test ', self::PASSWORD, '198.51.100.7'));
    }

    public function test_tries_are_counted_per_place_over_all_accounts(): void
    {
        for ($i = 0; $i < 30; $i++) {
            $this->try("user$i@example.test", 'x');
        }
        self::assertStringContainsString('Too many tries', $this->try('ada@example.test', self::PASSWORD));
        self::assertSame('in', $this->try('ada@example.test', self::PASSWORD, '192.0.2.2'));
    }

    /** FS6: what a database may take for the same letter is another address, and so another limit. */
    public function test_addresses_that_only_look_alike_are_none_of_this_account(): void
    {
        foreach (["ad\u{00E1}@example.test", "ada\u{200B}@example.test", "\u{0430}da@example.test", 'ada@example.test.'] as $email) {
            self::assertStringContainsString('do not belong together', $this->try($email, self::PASSWORD), $email);
        }
    }

    public function test_a_session_ends_by_idleness_and_after_its_hours(): void
    {
        $this->try('ada@example.test', self::PASSWORD);
        $this->travel(29)->minutes();
        $this->get('/account')->assertOk();
        $this->travel(29)->minutes();
        // That a page is open and asks by itself keeps nobody logged in.
        $this->get('/account', ['X-By-Itself' => '1'])->assertOk();
        $this->travel(2)->minutes();
        $this->get('/account')->assertRedirect('/login');
        $this->assertGuest();
        (new DoorRules(120, 3))->keep();
        $this->try('ada@example.test', self::PASSWORD);
        for ($hours = 0; $hours < 3; $hours++) {
            $this->get('/account')->assertOk();
            $this->travel(61)->minutes();
        }
        $this->get('/account')->assertRedirect('/login');
        $this->assertGuest();
        self::assertSame(24 * 60, config('session.lifetime'), 'the browser forgets no session before the rules can end it');
        self::assertSame(60 * DoorRules::LONGEST[1], config('session.lifetime'));
    }

    public function test_a_part_of_a_page_leads_the_page_to_the_door_and_back(): void
    {
        $migration = $this->migration();
        Membership::give($this->user, $migration, Role::Lead);
        $this->try('ada@example.test', self::PASSWORD);
        $this->travel(31)->minutes();
        $this->get('/m/4711/runs')->assertRedirect('/login');
        self::assertSame(0, AuditEntry::query()->where('what', 'like', 'was refused%')->count(), 'what is not there looks as what is');
        $this->try('ada@example.test', self::PASSWORD);
        $this->travel(31)->minutes();
        $part = ['HX-Request' => 'true', 'HX-Current-URL' => "http://127.0.0.1/m/$migration->id/runs"];
        $this->get("/m/$migration->id/runs/strip", $part)->assertOk()->assertHeader('HX-Redirect', '/login');
        $this->get("/m/$migration->id/runs/strip", $part)->assertHeader('HX-Redirect', '/login');
        $this->post('/login', ['email' => 'ada@example.test', 'password' => self::PASSWORD])->assertRedirect("/m/$migration->id/runs");
    }

    public function test_sessions_are_listed_and_ended_one_by_one(): void
    {
        $boss = User::query()->create(['name' => 'R', 'email' => 'r@example.test', 'password' => self::PASSWORD,
            'is_administrator' => true]);
        $this->try('r@example.test', self::PASSWORD, '192.0.2.50');
        $this->withHeaders(['User-Agent' => "Browser/1 <b>\xFF"])->try('ada@example.test', self::PASSWORD, '192.0.2.60');
        $elsewhere = LoginSession::query()->latest('id')->firstOrFail();
        $this->try('ada@example.test', self::PASSWORD, '192.0.2.61');
        $this->get('/account')->assertSee('192.0.2.60')->assertSee('Browser/1 <b>')->assertDontSee('192.0.2.50');
        $of = LoginSession::query()->where('user_id', $boss->id)->sole();
        $this->delete("/account/sessions/$of->id")->assertNotFound();
        $this->get('/sessions')->assertForbidden();
        $this->delete("/sessions/$of->id")->assertForbidden();
        $this->delete("/account/sessions/$elsewhere->id")->assertSessionHasErrors('current');
        $this->delete("/account/sessions/$elsewhere->id", ['current' => self::PASSWORD])->assertSessionHas('told');
        self::assertSame([1, 1], [Sessions::open($this->user)->count(), Sessions::open($boss)->count()]);
        $this->get('/account')->assertOk();
        $mine = LoginSession::query()->where('user_id', $this->user->id)->sole();
        $this->actingAs($boss)->get('/sessions')->assertSee('192.0.2.61');
        $this->delete("/sessions/$mine->id")->assertSessionHas('told');
        self::assertSame(0, Sessions::open($this->user)->count());
        foreach ([['idle' => 0], ['idle' => 481], ['longest' => 25], ['second' => ['king']]] as $bad) {
            $this->post('/sessions', $bad + ['idle' => 30, 'longest' => 12])->assertSessionHasErrors();
        }
        $this->post('/sessions', ['idle' => 15, 'longest' => 8, 'second' => ['lead']])->assertSessionHas('told');
        $entry = AuditEntry::query()->where('what', 'changed the rules of sessions')->sole();
        self::assertSame('15 minutes idle, 8 hours at most, second factor of lead', $entry->detail['after']);
        self::assertSame('30 minutes idle, 12 hours at most, second factor of nobody', $entry->detail['before']);
    }

    /** @return iterable<string, array{string, string, array<string, mixed>}> */
    public static function guarded(): iterable
    {
        yield 'a cutover' => ['POST', '{m}/runs/rounds', ['name' => 'c', 'kind' => 'cutover', 'target' => 1]];
        yield 'a target connection' => ['POST', '{m}/connections', ['name' => 't', 'host' => 'h', 'port' => '1', 'database' => 'd',
            'username' => 'u', 'password' => 'p']];
        yield 'another place of one' => ['POST', '{m}/connections/1', ['name' => 't', 'host' => 'h', 'port' => '1', 'database' => 'd',
            'username' => 'u']];
        yield 'a target connection gone' => ['DELETE', '{m}/connections/1', []];
        yield 'a connection of a source' => ['POST', '{m}/sources/1/connections', ['name' => 'c', 'driver' => 'mysql', 'host' => 'h',
            'database' => 'd']];
        yield 'another link' => ['POST', '{m}/people/1/link', []];
        yield 'a reset' => ['POST', '/accounts/2', ['do' => 'reset']];
        yield 'an administrator' => ['POST', '/accounts/2', ['do' => 'administrator']];
        yield 'one who is new' => ['POST', '/accounts', ['name' => 'n', 'email' => 'n@example.test', 'administrator' => '1']];
        yield 'the rules of sessions' => ['POST', '/sessions', ['idle' => 30, 'longest' => 12]];
        yield 'a second factor' => ['POST', '/account/second/begin', []];
        yield 'other sessions' => ['POST', '/account/others', []];
    }

    /** @param  array<string, mixed>  $data */
    #[DataProvider('guarded')]
    public function test_before_what_cannot_be_taken_back_the_password_is_asked_once_more(string $method, string $path, array $data): void
    {
        $migration = $this->migration();
        $migration->targets()->create(['name' => 'x', 'host' => 'h', 'port' => 1, 'database' => 'd', 'username' => 'u', 'password' => '']);
        Membership::give($this->user, $migration, Role::Lead);
        $this->user->update(['is_administrator' => true]);
        User::query()->create(['name' => 'Bo', 'email' => 'bo@example.test', 'password' => self::PASSWORD]);
        $this->try('ada@example.test', self::PASSWORD);
        $path = str_replace('{m}', "/m/$migration->id", $path);
        $before = AuditEntry::query()->count();
        $this->call($method, $path, $data)->assertSessionHasErrors('current');
        $this->call($method, $path, $data + ['current' => 'wrong'])->assertSessionHasErrors('current');
        self::assertSame($before, AuditEntry::query()->count(), 'nothing was done');
        // Confirmed, it goes as far as it would, and for ten minutes.
        $this->post('/account/confirm', ['current' => self::PASSWORD])->assertSessionHas('told');
        $this->call($method, $path, $data)->assertSessionDoesntHaveErrors('current');
        $this->travel(11)->minutes();
        $this->post('/account/others')->assertSessionHasErrors('current');
    }

    public function test_tries_at_the_password_inside_count_as_those_at_the_door(): void
    {
        $this->try('ada@example.test', self::PASSWORD);
        for ($i = 0; $i < 10; $i++) {
            $this->post('/account/confirm', ['current' => 'x']);
        }
        $this->post('/account/confirm', ['current' => self::PASSWORD])
            ->assertSessionHasErrors(['current' => session('errors')->first('current')]);
        self::assertStringContainsString('Too many tries', session('errors')->first('current'));
    }

    public function test_disabled_ended_elsewhere_or_given_another_password_nothing_goes_on(): void
    {
        $ways = [
            fn () => $this->user->update(['disabled_at' => now()]),
            fn () => Sessions::endAll($this->user),
            fn () => LoginSession::query()->update(['user_id' => User::query()->create(['name' => 'x', 'email' => 'x@example.test'])->id]),
        ];
        foreach ($ways as $way) {
            $this->try('ada@example.test', self::PASSWORD);
            $this->get('/account')->assertOk();
            $way();
            $this->app->make('auth')->forgetGuards();
            $this->get('/account')->assertRedirect('/login');
            $this->user->update(['disabled_at' => null]);
        }
        // Reset between the right password and the session that comes of it: there is none.
        $known = User::query()->findOrFail($this->user->id);
        $this->user->update(['password' => 'seven slow herons']);
        $request = Request::create('/');
        $request->setLaravelSession($this->app->make('session')->driver());
        self::assertFalse(Sessions::begin($request, $known));
        $this->user->update(['password' => self::PASSWORD]);
        $before = session()->getId();
        $this->try('ada@example.test', self::PASSWORD);
        self::assertNotSame($before, session()->getId(), 'a session has a new name once somebody is logged in');
        $wrong = ['current' => 'x', 'password' => 'seven slow herons', 'password_confirmation' => 'seven slow herons'];
        $this->post('/account/password', $wrong)->assertSessionHasErrors('current');
        self::assertSame([], session()->getOldInput(), 'no password is put aside to be shown again');
        $this->post('/account/password', ['current' => self::PASSWORD] + $wrong)->assertSessionHas('told');
        $this->get('/account')->assertOk();
        self::assertStringContainsString('do not belong', $this->try('ada@example.test', self::PASSWORD));
        self::assertSame('in', $this->try('ada@example.test', 'seven slow herons'));
        $this->post('/account/others', ['current' => 'seven slow herons'])->assertSessionHas('told');
        $this->get('/account')->assertOk();
    }

    /** @return iterable<string, array{string, bool}> password => whether it may be */
    public static function passwords(): iterable
    {
        yield 'eleven characters' => ['kq7 mirv pla', true];
        yield 'short' => ['kq7 mirv pl', false];
        yield 'in the list' => ['motherfucker', false];
        yield 'a common one with figures' => ['password2026', false];
        yield 'a common one in capitals, with signs' => ['!!PASSWORD!!', false];
        yield 'repeats' => ['abcabcabcabc', false];
        yield 'one sign' => ['aaaaaaaaaaaaaaa', false];
        yield 'figures alone' => ['849302847561', false];
        yield 'the own address' => ['ada@example.test', false];
        yield 'longer than is read' => [str_repeat('ab1 ', 15).str_repeat('zq', 10), false];
        yield 'other letters' => ['тихая выдра плывёт', true];
        yield 'words' => ['copper kettle on a sill', true];
    }

    #[DataProvider('passwords')]
    public function test_which_passwords_may_be(string $password, bool $may): void
    {
        self::assertSame($may, Passwords::against($password, $this->user) === null, (string) Passwords::against($password, $this->user));
    }

    public function test_logins_and_failures_are_written_down_and_a_role_is_asked_to_read_them(): void
    {
        $this->try('ada@example.test', 'wrong', '203.0.113.9');
        $this->try('ada@example.test', self::PASSWORD, '203.0.113.9');
        self::assertSame(['login failed', 'logged in'], AuditEntry::query()->orderBy('id')->pluck('what')->all());
        self::assertSame(['203.0.113.9'], AuditEntry::query()->distinct()->pluck('ip')->all());
        $this->get('/log')->assertForbidden();
        $migration = $this->migration();
        Membership::give($this->user, $migration, Role::Auditor);
        $this->get("/m/$migration->id/log")->assertOk();
        $this->get("/m/$migration->id/people")->assertOk()->assertDontSee('>Invite<');
        Membership::give($this->user, $migration, Role::Consultant);
        $this->get("/m/$migration->id/log")->assertForbidden();
        $this->post("/m/$migration->id/runs/rounds", ['name' => 'c', 'kind' => 'cutover', 'target' => 1])->assertForbidden();
        self::assertSame(1, Migration::query()->count());
        $this->get("/m/$migration->id/plan")->assertOk();
        $written = AuditEntry::query()->where('migration_id', $migration->id)->whereIn('what', ['was refused', 'took a file'])->get();
        self::assertSame(
            ["GET m/$migration->id/log", "POST m/$migration->id/runs/rounds", "GET m/$migration->id/plan"],
            $written->map(fn (AuditEntry $e) => $e->detail['request'])->all(),
        );
    }

    public function test_what_a_page_asks_by_itself_does_not_take_the_news(): void
    {
        $migration = $this->migration();
        Membership::give($this->user, $migration, Role::Lead);
        $this->actingAs($this->user)->post('/account', ['name' => 'Ada B']);
        $this->get("/m/$migration->id/draft?page=/x");
        $this->get("/m/$migration->id/runs/strip", ['HX-Request' => 'true']);
        $this->get('/account')->assertSee('Kept.');
        $this->get('/account')->assertDontSee('Kept.');
    }

    public function test_what_tls_proxies_and_hosts_change(): void
    {
        $this->get('/login')->assertHeaderMissing('Strict-Transport-Security');
        $this->get('https://127.0.0.1/login')->assertHeader('Strict-Transport-Security');
        // A stranger's word on where a request comes from does not count.
        $this->withHeaders(['X-Forwarded-For' => '203.0.113.5', 'X-Forwarded-Proto' => 'https']);
        $this->get('http://127.0.0.1/login')->assertHeaderMissing('Strict-Transport-Security');
        TrustProxies::at(['127.0.0.1']);
        $this->get('http://127.0.0.1/login')->assertHeader('Strict-Transport-Security');
        TrustProxies::flushState();
        $environment = ['BAGGAGE_TLS' => '1', 'BAGGAGE_HOSTS' => 'move.example', 'APP_ENV' => 'production'];
        $show = new Process([PHP_BINARY, 'artisan', 'config:show', 'session'], base_path(), $environment);
        $show->mustRun();
        self::assertMatchesRegularExpression('/cookie \.+ __Host-baggage\s/', $show->getOutput());
        self::assertMatchesRegularExpression('/secure \.+ true\s/', $show->getOutput());
        self::assertMatchesRegularExpression('/same_site \.+ strict\s/', $show->getOutput());
        self::assertMatchesRegularExpression('/path \.+ \/\s/', $show->getOutput());
        self::assertSame([], config('app.trusted_hosts'));
        $sent = ['X-Content-Type-Options' => 'nosniff', 'X-Frame-Options' => 'DENY', 'Referrer-Policy' => 'same-origin',
            'Cross-Origin-Opener-Policy' => 'same-origin', 'Cross-Origin-Resource-Policy' => 'same-origin'];
        foreach ($sent as $name => $value) {
            $this->get('/login')->assertHeader($name, $value);
        }
        // Nothing of a page that needs a login stays in the browser, and no cookie is for scripts.
        $page = $this->actingAs($this->user)->get('/account')->assertHeader('Cache-Control', 'no-store, private');
        self::assertSame(['baggage_session'], array_map(fn ($cookie) => $cookie->getName(), $page->headers->getCookies()));
        self::assertTrue($page->headers->getCookies()[0]->isHttpOnly());
    }
}
