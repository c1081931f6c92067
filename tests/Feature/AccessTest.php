<?php

namespace Tests\Feature;

use App\Models\Load;
use App\Models\Migration;
use App\Models\Role;
use App\Models\User;
use Tests\TestCase;

final class AccessTest extends TestCase
{
    public function test_another_migrations_things_are_not_reached_through_ones_own(): void
    {
        $migration = $this->demoMigration();
        $other = Migration::query()->create(['name' => 'Other', 'target_name' => 'x', 'installation' => 'o']);
        $this->actingAs($this->user(Role::Lead));
        foreach (
            ["/m/$other->id/sources/extracts/1", "/m/$other->id/rows/1/1", "/m/$other->id/sources/takes/1"] as $page
        ) {
            $this->get($page)->assertNotFound();
        }
        $this->put("/m/$other->id/mapping/loads/1/fields/code", [
            'expression' => 'no',
            'version' => 1,
        ])->assertNotFound();
        $this->post("/m/$other->id/crosswalks/codes/1", ['old' => 'a', 'new' => 'b'])->assertNotFound();
        self::assertSame('upper(harb)', Load::query()->find(1)->rules()->where('field', 'code')->value('expression'));
        self::assertSame($migration->id, Load::query()->find(1)->migration_id);
    }

    public function test_login_is_throttled_and_passwords_are_hashed(): void
    {
        $user = $this->user(Role::Lead);
        self::assertStringStartsWith('$2y$', User::query()->whereKey($user->id)->toBase()->value('password'));
        for ($i = 0; $i < 10; $i++) {
            $this->post('/login', ['email' => $user->email, 'password' => 'wrong']);
        }
        $this->post('/login', ['email' => $user->email, 'password' => 'secret-Lead'])->assertSessionHasErrors('email');
        $this->assertGuest();
        $this->travel(301)->seconds();
        $this->post('/login', ['email' => $user->email, 'password' => 'secret-Lead'])->assertRedirect('/');
        $this->assertAuthenticated();
    }

    public function test_rule_editing_through_the_screen(): void
    {
        $migration = $this->demoMigration();
        $load = Load::query()->where('name', 'Vessels')->firstOrFail();
        $url = "/m/$migration->id/mapping/loads/$load->id/fields/name";
        $this->actingAs($this->user(Role::Consultant));
        $this->post("$url/preview", ['expression' => 'upper(craft_name)', 'rows' => '1,2,3'])
            ->assertOk()
            ->assertSee('KITTIWAKE', false)
            ->assertDontSee('no rule');
        $this->post("$url/preview", ['expression' => 'upper(craft_nam)', 'rows' => '1'])
            ->assertOk()
            ->assertSee('This feed has no column "craft_nam", at character 7. Did you mean "craft_name"?');
        $this->put($url, ['expression' => 'upper(craft_nam)', 'version' => 1])->assertStatus(422);
        self::assertSame('tidy(craft_name)', $load->rules()->where('field', 'name')->value('expression'));
        $this->put($url, ['expression' => 'upper(craft_name)', 'version' => 1])
            ->assertOk()
            ->assertSee('Kept.');
        $this->put($url, ['expression' => 'lower(craft_name)', 'version' => 1])
            ->assertStatus(409)
            ->assertSee('changed this rule')
            ->assertSee('upper(craft_name)');
        $this->post("/m/$migration->id/mapping/extracts/$load->extract_id/columns", [
            'header' => 'OLD_NO',
            'reason' => '',
        ])->assertSessionHas('refused');
        $this->post("/m/$migration->id/mapping/extracts/$load->extract_id/columns", [
            'header' => 'OLD_NO',
            'reason' => 'numbers of the card index',
        ]);
        $this->get("/m/$migration->id/mapping/vessel?columns=left")
            ->assertReads('Left behind: numbers of the card index')
            ->assertSee('1 legacy column nobody uses yet');
        $this->post("/m/$migration->id/mapping/loads/$load->id/map", [
            'column' => 'survey_dt',
            'field' => 'insured_until',
        ])->assertRedirect();
        self::assertSame('survey_dt', $load->rules()->where('field', 'insured_until')->value('expression'));
    }
}
