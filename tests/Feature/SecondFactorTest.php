<?php

namespace Tests\Feature;

use App\Models\AuditEntry;
use App\Models\Membership;
use App\Models\Role;
use App\Models\User;
use App\People\DoorRules;
use App\People\SecondFactor;
use App\People\Sessions;
use App\People\Totp;
use Illuminate\Support\Facades\DB;
use Illuminate\Testing\TestResponse;
use PHPUnit\Framework\Attributes\DataProvider;
use Tests\TestCase;

/** The second factor: its codes by the published vectors, and what opens, once, and what does not. */
final class SecondFactorTest extends TestCase
{
    private const PASSWORD = 'three quiet otters';

    private User $user;

    private string $secret;

    protected function setUp(): void
    {
        parent::setUp();
        $this->user = User::query()->create(['name' => 'Ada', 'email' => 'ada@example.test', 'password' => self::PASSWORD]);
    }

    /** RFC 6238, appendix B, SHA-1; its codes of eight figures end with ours of six. */
    #[DataProvider('times')]
    public function test_codes_are_those_of_the_standard(int $time, string $eight): void
    {
        self::assertSame(substr($eight, 2), Totp::code('12345678901234567890', Totp::step($time)));
    }

    /** @return iterable<array{int, string}> */
    public static function times(): iterable
    {
        yield [59, '94287082'];
        yield [1111111109, '07081804'];
        yield [1111111111, '14050471'];
        yield [1234567890, '89005924'];
        yield [2000000000, '69279037'];
        yield [20000000000, '65353130'];
    }

    public function test_counters_and_secrets_are_those_of_their_standards(): void
    {
        // RFC 4226, appendix D.
        $codes = ['755224', '287082', '359152', '969429', '338314', '254676', '287922', '162583', '399871', '520489'];
        self::assertSame($codes, array_map(fn (int $n) => Totp::code('12345678901234567890', $n), range(0, 9)));
        // RFC 4648, section 10, without the padding.
        $texts = ['' => '', 'f' => 'MY', 'fo' => 'MZXQ', 'foo' => 'MZXW6', 'foob' => 'MZXW6YQ', 'fooba' => 'MZXW6YTB',
            'foobar' => 'MZXW6YTBOI'];
        foreach ($texts as $bytes => $text) {
            self::assertSame([$text, (string) $bytes], [Totp::base32((string) $bytes), Totp::bytes($text)]);
        }
        self::assertSame(20, strlen(Totp::bytes(Totp::secret())));
        self::assertSame(
            'otpauth://totp/Baggage:a%20b%40c.test?secret=MZXW6&issuer=Baggage',
            Totp::uri('MZXW6', 'a b@c.test', 'Baggage'),
        );
    }

    private function code(int $ahead = 0): string
    {
        return Totp::code(Totp::bytes($this->secret), Totp::step((int) now()->timestamp) + $ahead);
    }

    /** @return list<string> recovery codes */
    private function setUpFactor(): array
    {
        $this->actingAs($this->user)->post('/account/second/begin')->assertRedirect('/account/second');
        $this->secret = (string) $this->user->refresh()->totp_secret;
        $this->get('/account/second')->assertSee(SecondFactor::spelled($this->secret))->assertSee('<svg', false);
        $wrong = $this->code() === '000000' ? '111111' : '000000';
        $this->post('/account/second', ['code' => $wrong])->assertSessionHasErrors('code');
        self::assertFalse($this->user->refresh()->hasSecondFactor(), 'nothing is asked for before a first code was right');
        $this->post('/account/second', ['code' => ' '.chunk_split($this->code(), 3, ' ')])->assertSessionHas('codes');
        $codes = session('codes');
        $this->get('/account/second')->assertSee($codes[0])->assertDontSee($this->secret);
        $this->get('/account/second')->assertDontSee($codes[0]);
        self::assertTrue($this->user->refresh()->hasSecondFactor());
        self::assertSame(1, Sessions::open($this->user)->count(), 'what was begun without it has ended');
        $this->travel(Totp::SECONDS * 2)->seconds();

        return $codes;
    }

    private function password(): TestResponse
    {
        $this->app->make('auth')->logout();
        $this->flushSession();

        return $this->post('/login', ['email' => 'ada@example.test', 'password' => self::PASSWORD]);
    }

    private function second(string $code): bool
    {
        $this->post('/login/second', ['code' => $code]);

        return auth()->check();
    }

    public function test_a_login_needs_both_and_a_code_opens_once(): void
    {
        $this->setUpFactor();
        $this->password()->assertRedirect('/login/second');
        $this->assertGuest();
        $this->get('/account')->assertRedirect('/login');
        $this->get('/login/second')->assertOk();
        self::assertFalse($this->second('123'));
        $code = $this->code();
        self::assertTrue($this->second($code));
        $this->get('/account')->assertOk();
        // The same code once more, seen over a shoulder: RFC 6238, section 5.2.
        $this->password();
        self::assertFalse($this->second($code));
        self::assertFalse($this->second($this->code(-1)), 'one from before it neither');
        self::assertTrue($this->second($this->code(1)), 'a clock may be half a minute off');
        $this->travel(Totp::SECONDS * 5)->seconds();
        $this->password();
        foreach ([-2, 2] as $far) {
            self::assertFalse($this->second($this->code($far)), 'and no more than that');
        }
        $told = AuditEntry::query()->orderBy('id')->pluck('what')->all();
        self::assertContains('login failed at the second factor', $told);
        self::assertSame(2, count(array_keys($told, 'logged in', true)));
        self::assertStringNotContainsString($this->secret, serialize(DB::table('users')->get()->all()), 'secrets are encrypted');
    }

    public function test_recovery_codes_open_once_each_and_end_with_new_ones(): void
    {
        $codes = $this->setUpFactor();
        self::assertCount(SecondFactor::CODES, array_unique($codes));
        $kept = serialize(DB::table('recovery_codes')->get()->all());
        foreach ($codes as $code) {
            self::assertStringNotContainsString($code, $kept);
        }
        $this->password();
        self::assertTrue($this->second(strtoupper(str_replace('-', ' ', $codes[3]))));
        $this->password();
        self::assertFalse($this->second($codes[3]));
        self::assertTrue($this->second($codes[4]));
        $this->post('/account/second/codes')->assertSessionHasErrors('current');
        $this->post('/account/second/codes', ['current' => $codes[5]])->assertSessionHas('codes');
        self::assertSame(SecondFactor::CODES, SecondFactor::left($this->user));
        $new = session('codes')[0];
        $this->password();
        self::assertFalse($this->second($codes[6]));
        self::assertTrue($this->second($new));
    }

    public function test_a_password_that_was_right_is_worth_nothing_by_itself_and_not_for_long(): void
    {
        $this->setUpFactor();
        $this->password();
        $this->travel(6)->minutes();
        $this->post('/login/second', ['code' => $this->code()])->assertRedirect('/login');
        $this->assertGuest();
        // Changed in between, by its owner elsewhere or by a link.
        $this->password();
        $this->user->refresh()->update(['password' => 'seven slow herons']);
        $this->post('/login/second', ['code' => $this->code()])->assertRedirect('/login');
        $this->user->update(['password' => self::PASSWORD]);
        $this->password();
        $this->user->update(['disabled_at' => now()]);
        self::assertFalse($this->second($this->code()));
        $this->user->update(['disabled_at' => null]);
        // Whoever has the password has ten tries an hour at the code, however often they begin again.
        $this->travel(20)->minutes();
        for ($i = 0; $i < 10; $i++) {
            $this->password();
            self::assertFalse($this->second('000000'));
            $this->travel(1)->minutes();
        }
        $this->password()->assertRedirect('/login/second');
        $this->post('/login/second', ['code' => $this->code()])->assertSessionHasErrors('code');
        $this->travel(61)->minutes();
        $this->password();
        self::assertTrue($this->second($this->code()));
    }

    public function test_where_a_role_needs_one_nothing_opens_before_it_is_set_up(): void
    {
        $migration = $this->migration();
        Membership::give($this->user, $migration, Role::Consultant);
        (new DoorRules(secondFactor: ['lead']))->keep();
        $this->actingAs($this->user)->get("/m/$migration->id/mapping")->assertOk();
        (new DoorRules(secondFactor: ['consultant']))->keep();
        foreach (['/', '/account', "/m/$migration->id/mapping"] as $page) {
            $this->get($page)->assertRedirect('/account/second');
        }
        $this->post("/m/$migration->id/sources", ['code' => 'Z', 'name' => 'Z'])->assertRedirect('/account/second');
        $this->get("/m/$migration->id/runs/strip", ['HX-Request' => 'true'])->assertOk()->assertHeader('HX-Redirect', '/account/second');
        self::assertSame(1, $migration->sources()->count());
        $this->setUpFactor();
        $this->get("/m/$migration->id/mapping")->assertOk();
        $this->delete('/account/second')->assertSessionHas('refused');
        (new DoorRules)->keep();
        $this->delete('/account/second')->assertSessionHas('told');
        self::assertSame([null, 0], [$this->user->refresh()->totp_secret, SecondFactor::left($this->user)]);
    }

    public function test_an_administrator_takes_away_the_second_factor_of_one_who_lost_it(): void
    {
        $this->setUpFactor();
        $boss = User::query()->create(['name' => 'R', 'email' => 'r@example.test', 'password' => self::PASSWORD,
            'is_administrator' => true]);
        $this->actingAs($boss)->post("/accounts/{$this->user->id}", ['do' => 'second'])->assertSessionHas('told');
        self::assertFalse($this->user->refresh()->hasSecondFactor());
        $this->password()->assertRedirect('/');
        // A new password by a link leaves it: who has the link alone does not come in.
        $this->secret = '';
        $this->setUpFactor();
        $this->actingAs($boss)->post("/accounts/{$this->user->id}", ['do' => 'reset']);
        $link = (string) parse_url(session('link')['at'], PHP_URL_PATH);
        $this->app->make('auth')->logout();
        $this->flushSession();
        $given = ['name' => 'Ada', 'password' => 'seven slow herons', 'password_confirmation' => 'seven slow herons'];
        $this->post($link, $given)->assertRedirect('/login/second');
        $this->assertGuest();
    }

    /** Inside, codes may be tried no oftener than at the door; one that is given while it has to wait is not used up. */
    public function test_codes_are_not_tried_faster_inside(): void
    {
        $codes = $this->setUpFactor();
        $this->password();
        self::assertTrue($this->second($this->code()));
        for ($i = 0; $i < 10; $i++) {
            $this->post('/account/confirm', ['current' => '000000'])->assertSessionHasErrors('current');
            $this->travel(2)->minutes();
        }
        $this->post('/account/confirm', ['current' => $codes[0]])->assertSessionHasErrors('current');
        self::assertStringContainsString('Too many tries', session('errors')->first('current'));
        self::assertSame(SecondFactor::CODES, SecondFactor::left($this->user));
        $this->travel(29)->minutes();
        (new DoorRules(240))->keep();
        $this->post('/account/confirm', ['current' => $codes[0]])->assertSessionHasErrors('current');
        $this->travel(32)->minutes();
        $this->post('/account/confirm', ['current' => $codes[0]])->assertSessionHas('told');
        self::assertSame(SecondFactor::CODES - 1, SecondFactor::left($this->user));
    }
}
