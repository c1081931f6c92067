<?php

namespace Tests\Feature;

use App\Models\AuditEntry;
use App\Models\Invitation;
use App\Models\Membership;
use App\Models\Migration;
use App\Models\Role;
use App\Models\User;
use App\People\Crew;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Tests\TestCase;

/** People of a migration and of the installation: invited, changed, taken out, disabled; nobody comes by it to what is not theirs. */
final class PeopleTest extends TestCase
{
    private const PASSWORD = 'three quiet otters';

    private User $lead;

    private Migration $migration;

    private string $m;

    protected function setUp(): void
    {
        parent::setUp();
        $this->lead = User::query()->create(['name' => 'Ada', 'email' => 'Ada@Example.test', 'password' => self::PASSWORD]);
        $this->migration = $this->migration();
        $this->m = "/m/{$this->migration->id}";
        Membership::give($this->lead, $this->migration, Role::Lead);
        $this->actingAs($this->lead);
    }

    private function other(string $name = 'Other'): Migration
    {
        return Migration::query()->create(['name' => $name, 'target_name' => 'x', 'installation' => "test$name"]);
    }

    private function invite(string $email, string $role = 'consultant'): ?string
    {
        $answer = $this->from("$this->m/people")->post("$this->m/people", ['name' => 'Bo', 'email' => $email, 'role' => $role]);
        $answer->assertRedirect("$this->m/people")->assertSessionMissing('refused')->assertSessionHasNoErrors();
        $link = session('link')['at'] ?? null;

        return $link === null ? null : (string) parse_url($link, PHP_URL_PATH);
    }

    private function join(string $link, string $password): \Illuminate\Testing\TestResponse
    {
        $this->app->make('auth')->logout();
        $this->flushSession();

        return $this->from($link)->post($link, ['name' => 'Bo', 'zone' => 'Asia/Tokyo',
            'password' => $password, 'password_confirmation' => $password]);
    }

    public function test_a_link_is_shown_once_works_once_and_ends(): void
    {
        $link = (string) $this->invite('bo@example.test');
        $this->get("$this->m/people")->assertSee($link)->assertSee('bo@example.test');
        $this->get("$this->m/people")->assertDontSee($link);
        self::assertStringNotContainsString(substr($link, 6), serialize(DB::table('invitations')->get()->all()), 'only its hash is kept');
        $this->get('/login');
        $this->join($link, 'short')->assertSessionHasErrors('password');
        $this->join($link, self::PASSWORD)->assertRedirect('/');
        self::assertSame(['bo@example.test', 'Asia/Tokyo'], [auth()->user()?->email, auth()->user()?->zone]);
        $this->get("$this->m/mapping")->assertOk();
        // Used up.
        $this->join($link, self::PASSWORD)->assertRedirect($link);
        $this->get($link)->assertSee('used up');
        self::assertNull(auth()->user());
    }

    public function test_links_end_by_time_and_by_a_newer_one(): void
    {
        $first = (string) $this->invite('bo@example.test');
        $bo = User::addressed('BO@example.test')->firstOrFail();
        $this->post("$this->m/people/$bo->id/link")->assertSessionHas('link');
        $second = (string) parse_url(session('link')['at'], PHP_URL_PATH);
        $this->join($first, self::PASSWORD)->assertRedirect($first);
        $this->travel(8)->days();
        $this->join($second, self::PASSWORD)->assertRedirect($second);
        self::assertNull($bo->refresh()->password);
        $this->get('/join/'.str_repeat('x', 48))->assertOk()->assertSee('used up');
    }

    public function test_nobody_comes_by_an_invitation_to_another_migration(): void
    {
        $other = $this->other();
        $carl = User::query()->create(['name' => 'Carl', 'email' => 'carl@example.test', 'password' => null]);
        Membership::give($carl, $other, Role::Lead);
        // Carl has no password yet and belongs elsewhere: a link to him would open that too.
        self::assertNull($this->invite('carl@example.test'));
        $this->post("$this->m/people/$carl->id/link")->assertSessionHas('refused');
        self::assertSame(0, Invitation::query()->count());
        $boss = User::query()->create(['name' => 'D', 'email' => 'd@example.test', 'password' => null, 'is_administrator' => true]);
        self::assertNull($this->invite('d@example.test'));
        $this->post("$this->m/people/$boss->id/link")->assertSessionHas('refused');
        // People of another migration are not there, by their number either.
        $stranger = User::query()->create(['name' => 'E', 'email' => 'e@example.test', 'password' => self::PASSWORD]);
        foreach (["$this->m/people/$stranger->id", "$this->m/people/$stranger->id/link"] as $address) {
            $this->post($address, ['role' => 'lead'])->assertNotFound();
        }
        $this->delete("$this->m/people/$stranger->id")->assertNotFound();
        $this->get("/m/$other->id/sources")->assertNotFound();
        $this->get('/')->assertOk()->assertSee('M')->assertDontSee('Other');
        $this->get('/accounts')->assertForbidden();
    }

    public function test_a_migration_keeps_a_lead(): void
    {
        $this->post("$this->m/people/{$this->lead->id}", ['role' => 'consultant'])->assertSessionHas('refused');
        $this->delete("$this->m/people/{$this->lead->id}")->assertSessionHas('refused');
        $this->invite('bo@example.test', 'lead');
        $this->post("$this->m/people/{$this->lead->id}", ['role' => 'auditor'])->assertSessionHas('told');
        $this->post("$this->m/people", ['name' => 'x', 'email' => 'x@example.test', 'role' => 'lead'])->assertForbidden();
        $entry = AuditEntry::query()->where('what', 'like', 'changed the role%')->sole();
        self::assertSame(['before' => 'lead', 'after' => 'auditor'], $entry->detail);
        self::assertSame('127.0.0.1', $entry->ip);
        $this->expectException(\DomainException::class);
        Crew::leave($this->migration, User::addressed('bo@example.test')->firstOrFail());
    }

    public function test_addresses_are_told_apart_byte_by_byte(): void
    {
        foreach (["b\u{200B}o@example.test", 'bo @example.test', 'bo', "bo@exa\u{00AD}mple.test", "\u{3164}@example.test"] as $email) {
            $this->post("$this->m/people", ['name' => 'Bo', 'email' => $email, 'role' => 'auditor'])->assertSessionHas('refused');
        }
        $this->invite('bo@example.test');
        $this->invite("b\u{00F6}@example.test");
        self::assertSame(3, User::query()->count(), 'o and ö are two');
        // The same letter composed otherwise, or in capitals, is the same account.
        $this->post("$this->m/people", ['name' => 'B', 'email' => "BO\u{0308}@example.test", 'role' => 'auditor'])
            ->assertSessionHas('refused', fn (string $says) => str_contains($says, 'belongs to the migration already'));
    }

    public function test_an_administrator_keeps_accounts_and_sees_no_migration_by_it(): void
    {
        $boss = User::query()->create(['name' => 'Root', 'email' => 'root@example.test', 'password' => self::PASSWORD,
            'is_administrator' => true]);
        $this->actingAs($boss)->get('/accounts')->assertOk()->assertSee('Ada@Example.test');
        $this->get("$this->m/sources")->assertNotFound();
        $do = fn (User $of, string $what) => $this->post("/accounts/$of->id", ['do' => $what]);
        foreach (['disable', 'none', 'reset', 'end'] as $what) {
            $do($boss, $what)->assertSessionHas('refused');
        }
        // The only lead of a migration is not disabled before there is another.
        $do($this->lead, 'disable')->assertSessionHas('refused');
        $bo = User::query()->create(['name' => 'Bo', 'email' => 'bo@example.test', 'password' => self::PASSWORD]);
        Membership::give($bo, $this->migration, Role::Lead);
        $do($this->lead, 'disable')->assertSessionHas('told');
        $do($this->lead, 'reset')->assertSessionHas('refused');
        $do($this->lead, 'enable')->assertSessionHas('told');
        $do($this->lead, 'reset')->assertSessionHas('link');
        self::assertNull($this->lead->refresh()->password);
        $this->post('/accounts', ['name' => 'New', 'email' => 'ADA@example.test'])->assertSessionHas('refused');
        $this->post('/accounts', ['name' => 'New', 'email' => 'new@example.test'])->assertSessionHas('link');
        // A migration of the command line gets its first lead here, and only its first.
        $other = $this->other();
        $this->get('/accounts')->assertSee('Other');
        $this->post('/accounts/appoint', ['of' => $other->id, 'user' => $boss->id])->assertSessionHas('told');
        $this->post('/accounts/appoint', ['of' => $this->migration->id, 'user' => $boss->id])->assertSessionHas('refused');
        $this->get("/m/$other->id/sources")->assertOk();
        $this->get('/log')->assertOk()->assertSee('disabled Ada@Example.test')->assertSee('127.0.0.1');
    }

    /** Names are clients' names: nobody learns by one that there is another's migration. */
    public function test_names_tell_nothing_of_others(): void
    {
        $other = $this->other('Client Q');
        $boss = User::query()->create(['name' => 'Z', 'email' => 'z@example.test', 'password' => self::PASSWORD]);
        Membership::give($boss, $other, Role::Lead);
        $new = ['name' => 'Client Q', 'target_name' => 'x', 'host' => 'h', 'port' => '1', 'database' => 'd', 'username' => 'u'];
        $this->post('/migrations', $new)->assertSessionHasNoErrors()->assertSessionHas('told');
        self::assertSame(2, Migration::query()->where('name', 'Client Q')->count());
        // One's own is not begun twice, by two presses either.
        $this->post('/migrations', $new)->assertSessionHasErrors('name');
        $again = ['name' => 'Client Q', 'target_name' => 'x', 'installation' => 'y', 'begun_by' => $this->lead->id];
        self::assertSame(0, DB::table('migrations')->insertOrIgnore($again));
        // A plan of the name is about one's own, and of the command line it has to be said which is meant.
        self::assertSame($other->id, Migration::named('Client Q', $boss)?->id);
        self::assertNull(Migration::named('Client Q', User::query()->create(['name' => 'N', 'email' => 'n@example.test'])));
        self::assertSame(2, Artisan::call('baggage:export', ['migration' => 'Client Q']));
        self::assertSame(0, Artisan::call('baggage:export', ['migration' => 'Client Q', '--migration' => $other->id]));
    }

    public function test_the_machine_itself_gives_a_link_where_nobody_can_log_in(): void
    {
        $this->lead->update(['totp_secret' => 'MZXW6YTBOI', 'totp_since' => now()]);
        self::assertSame(2, Artisan::call('baggage:link', ['email' => 'nobody@example.test']));
        self::assertSame(0, Artisan::call('baggage:link', ['email' => 'ADA@example.test', '--without-second-factor' => true]));
        $this->join((string) parse_url(trim(Artisan::output()), PHP_URL_PATH), 'seven slow herons')->assertRedirect('/');
        self::assertSame($this->lead->id, auth()->id());
    }

    public function test_a_log_is_read_by_person_thing_and_time_and_taken_away_whole(): void
    {
        $this->travelTo('2026-03-29 12:00:00');
        $bo = User::query()->create(['name' => 'Bo', 'email' => 'bo@example.test', 'password' => self::PASSWORD,
            'zone' => 'Europe/Berlin']);
        Membership::give($bo, $this->migration, Role::Auditor);
        $at = '2026-03-28 22:30:00';
        $entries = array_map(fn (int $n) => ['migration_id' => $this->migration->id, 'user_id' => $n % 2 ? $this->lead->id : null,
            'what' => "changed rule $n", 'detail' => json_encode(['before' => "=a$n", 'after' => "100%_$n"]), 'at' => $at], range(1, 250));
        DB::table('audit_entries')->insert($entries);
        DB::table('audit_entries')->insert(['what' => 'of the house', 'at' => $at]);
        AuditEntry::query()->create(['migration_id' => $this->other()->id, 'what' => 'of another', 'at' => $at]);
        $this->actingAs($bo)->get("$this->m/log")
            ->assertSee('changed rule 250')->assertDontSee('changed rule 150')->assertDontSee('of another')
            ->assertDontSee('of the house')->assertSee('28 Mar 2026 23:30:00')->assertSee('Europe/Berlin');
        $pages = fn (string $query) => $this->get("$this->m/log?$query");
        $older = AuditEntry::query()->where('what', 'changed rule 151')->value('id');
        $pages("before=$older")->assertSee('changed rule 150')->assertSee('changed rule 51')->assertDontSee('changed rule 151');
        $pages("who={$this->lead->id}&what=rule+24")->assertSee('rule 249')->assertDontSee('rule 248')->assertDontSee('rule 250');
        $pages('what=%25_25')->assertSee('rule 250')->assertSee('rule 25')->assertDontSee('rule 24');
        $pages('who=nobody&what=rule+248')->assertSee('rule 248');
        // A day is the day of whoever reads: in Berlin it was still the 28th, and clocks went forward the night after.
        $pages('from=2026-03-28&until=2026-03-28')->assertSee('rule 250');
        $pages('from=2026-03-29')->assertDontSee('rule 250')->assertSee('Nothing of the kind');
        $pages('who=x')->assertRedirect();
        $lines = explode("\r\n", trim($pages('csv=1&what=changed')->streamedContent()));
        self::assertCount(251, $lines);
        $who = 'the command line or a worker,the machine itself';
        self::assertSame("2026-03-28 23:30:00+01:00,$who,changed rule 250,'=a250,100%_250", $lines[1]);
        self::assertSame('took a file', AuditEntry::query()->latest('id')->value('what'), 'that it was taken is written too');
    }

    public function test_asking_for_what_is_anothers_is_read_by_its_own_people(): void
    {
        $other = $this->other();
        $this->get("/m/$other->id/sources")->assertNotFound();
        $this->get("/m/$other->id/rejects")->assertNotFound();
        $this->get('/m/4711/sources')->assertNotFound();
        $written = AuditEntry::query()->where('what', 'was refused: not of this migration')->get();
        self::assertSame([[$other->id, "GET m/$other->id/sources"], [null, 'GET m/4711/sources']], $written
            ->map(fn (AuditEntry $e) => [$e->migration_id, $e->detail['request']])->all(), 'once a minute each');
        self::assertSame([$this->lead->id], $written->pluck('user_id')->unique()->all());
    }
}
