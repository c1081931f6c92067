<?php

namespace Tests\Feature;

use App\Models\AuditEntry;
use App\Models\Migration;
use App\Models\Role;
use App\Models\Target;
use Tests\TestCase;

/** Target connections on a screen: described, mended, tried and removed. */
final class TargetConnectionsTest extends TestCase
{
    /** @return array<string, string> */
    private function way(string $name, string $password): array
    {
        return [
            'name' => $name,
            'host' => '127.0.0.1',
            'port' => (string) getenv('HARBOUR_OFFICE_PORT'),
            'database' => (string) getenv('HARBOUR_OFFICE_DATABASE'),
            'username' => 'harbour',
            'password' => $password,
        ];
    }

    public function test_a_migration_begun_with_a_wrong_password_is_mended(): void
    {
        $this->actingAs($this->user(Role::Lead));
        $this->post('/migrations', ['target_name' => 'x'] + $this->way('Office', 'hunter of seals'))->assertRedirect();
        $migration = Migration::query()->firstOrFail();
        $m = "/m/$migration->id";
        $target = $migration->targets()->firstOrFail();
        $this->post("$m/target/read")->assertSessionHas('refused');
        $this->get("$m/connections")->assertOk()->assertSee('rehearsal')->assertSee('given')->assertDontSee('hunter');
        $this->followingRedirects()->post("$m/connections/$target->id/try")->assertReads('refuses the user "harbour"');
        // Nothing but the password is given anew.
        $right = (string) getenv('HARBOUR_OFFICE_PASSWORD');
        $this->followingRedirects()
            ->post("$m/connections/$target->id", $this->way('rehearsal', $right))
            ->assertReads('rehearsal answers: ');
        $this->post("$m/target/read")->assertSessionMissing('refused');
        self::assertStringNotContainsString($right, (string) json_encode(AuditEntry::query()->get()->toArray()));
        // An empty one keeps it; another place drops it.
        $this->followingRedirects()->post("$m/connections/$target->id", $this->way('renamed', ''))->assertReads('renamed answers: ');
        self::assertSame('renamed', $target->refresh()->name);
        $this->followingRedirects()
            ->post("$m/connections/$target->id", ['username' => 'somebody'] + $this->way('renamed', ''))
            ->assertReads("Access denied for user 'somebody'");
        self::assertNull($target->refresh()->password);
    }

    public function test_a_second_one_is_added_and_removed_unless_rounds_need_it(): void
    {
        $migration = $this->demoMigration(dirname($this->smallPlan("no,name\n1,a\n", '{code: no, name: name}')));
        $this->load($migration);
        $m = "/m/$migration->id";
        $this->actingAs($this->user(Role::Lead));
        $way = $this->way('cutover', (string) getenv('HARBOUR_OFFICE_PASSWORD'));
        $this->followingRedirects()->post("$m/connections", $way)->assertReads('cutover answers: ');
        $this->post("$m/connections", $way)->assertSessionHasErrors('name');
        foreach (['host' => '10.0.0.1;x=1', 'port' => '99999999', 'database' => 'a b;c', 'name' => 'x/y'] as $part => $bad) {
            $this->post("$m/connections", [$part => $bad] + ['name' => 'third'] + $way)->assertSessionHasErrors($part);
        }
        [$first, $second] = $migration->targets()->orderBy('id')->get()->all();
        $this->get("$m/connections")->assertOk()->assertReads('cutover');
        $this->delete("$m/connections/$first->id")->assertSessionHas('refused');
        $this->delete("$m/connections/$second->id")->assertSessionHas('told');
        self::assertSame([$first->id], Target::query()->pluck('id')->all());
        // Another migration's is nowhere.
        $other = Migration::query()->create(['name' => 'Other', 'target_name' => 'x', 'installation' => 'x']);
        $this->post("/m/$other->id/connections/$first->id/try")->assertNotFound();
        $this->actingAs($this->user(Role::Auditor));
        $this->get("$m/connections")->assertOk()->assertDontSee('Save and try it');
        $this->post("$m/connections", $way)->assertForbidden();
        $this->delete("$m/connections/$first->id")->assertForbidden();
    }
}
