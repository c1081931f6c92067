<?php

namespace Tests\Feature;

use App\Models\Load;
use App\Models\LoadCheck;
use App\Models\Migration;
use App\Models\Role;
use Illuminate\Support\Facades\DB;
use Tests\TestCase;

/** Checking a mapping before any run: what it says must be what a run does. */
final class CheckTest extends TestCase
{
    /** @return array<string, mixed> */
    private function check(Migration $migration, string $load): array
    {
        $id = Load::query()->where('name', $load)->value('id');
        $this->actingAs($this->user(Role::Consultant))->post("/m/$migration->id/mapping/loads/$id/check")->assertRedirect();

        return LoadCheck::query()->where('load_id', $id)->firstOrFail()->result ?? [];
    }

    /** The generator's answer key is the reference: every planted defect but what only the target itself refuses. */
    public function test_a_check_finds_what_a_run_would_reject_and_writes_nothing(): void
    {
        $migration = $this->demoMigration();
        $before = $this->targetRows('SELECT COUNT(*) FROM party');
        $key = json_decode((string) file_get_contents(self::demo().'/answer-key.json'), true)['defects'];
        $planted = fn (string $load, string $code) => $key["$load: $code"]['count'] ?? 0;
        $vessels = $this->check($migration, 'Vessels');
        $found = [];
        foreach ([...$vessels['causes'], ...$vessels['others']] as $cause) {
            $found[$cause['code']] = ($found[$cause['code']] ?? 0) + $cause['n'];
        }
        foreach (['no_new_value', 'not_a_date', 'too_long', 'required', 'taken', 'orphan'] as $code) {
            self::assertSame($planted('Vessels', $code), $found[$code], $code);
        }
        self::assertSame([900, 0, 23], [$vessels['rows'], $vessels['excluded'], $vessels['failing']]);
        self::assertSame(['name' => 7, 'type' => 9, 'built' => 7], array_intersect_key($vessels['failures'], ['name' => 1, 'type' => 1, 'built' => 1]));
        $agreements = $this->check($migration, 'Agreements');
        self::assertSame([1100, 44], [$agreements['rows'], $agreements['excluded']]);
        self::assertSame(['vessel' => 5, 'berth' => 12], array_column(array_filter($agreements['others'], fn ($o) => $o['code'] === 'orphan'), 'n', 'field'));
        $parties = $this->check($migration, 'Parties of Berthbook');
        self::assertSame([$planted('Parties of Berthbook', 'duplicate_key')], array_values(array_column(array_filter($parties['others'], fn ($o) => $o['code'] === 'duplicate_key'), 'n')));
        self::assertSame($before, $this->targetRows('SELECT COUNT(*) FROM party'));
        self::assertSame([0, 0], [DB::table('outcomes')->count(), DB::table('row_prints')->count()]);
    }

    public function test_a_check_goes_stale_with_rules_codes_and_corrections(): void
    {
        $migration = $this->demoMigration();
        $load = Load::query()->where('name', 'Vessels')->firstOrFail();
        $sheet = fn () => $this->get("/m/$migration->id/mapping/vessel?load=$load->id")->assertOk();
        $this->check($migration, 'Vessels');
        $sheet()->assertSee('Of 900 rows 877 pass, 23 fail')->assertDontSee('Stale')->assertSee('9 in check');
        DB::table('code_entries')->insert(['code_crosswalk_id' => DB::table('code_crosswalks')->where('name', 'vessel types')->value('id'), 'old_value' => 'MFV', 'new_value' => 'fishing', 'created_at' => now(), 'updated_at' => now()->addMinute()]);
        $sheet()->assertSee('Stale: rules or data have changed since');
        self::assertSame(16, $this->check($migration, 'Vessels')['failing']);
        $load->rules()->where('field', 'built')->update(['expression' => 'date(built, \'d/m/Y\')']);
        $sheet()->assertSee('Stale');
        $load->rules()->where('field', 'built')->update(['expression' => 'nope(built)']);
        $this->check($migration, 'Vessels');
        self::assertStringContainsString('There is no function "nope"', (string) LoadCheck::query()->where('load_id', $load->id)->value('error'));
        $this->actingAs($this->user(Role::Auditor))->post("/m/$migration->id/mapping/loads/$load->id/check")->assertForbidden();
    }

    public function test_suggestions_are_taken_singly_or_together_and_only_for_fields_without_a_rule(): void
    {
        $migration = $this->demoMigration();
        $load = Load::query()->where('name', 'Vessels')->firstOrFail();
        $load->rules()->whereIn('field', ['name', 'type', 'built', 'draught_m'])->delete();
        $this->actingAs($this->user(Role::Lead));
        $at = "/m/$migration->id/mapping/loads/$load->id/suggested";
        $this->get("/m/$migration->id/mapping/vessel")->assertOk()->assertSee('4 suggestions for fields without a rule')->assertSee("date(built, 'd/m/Y', 'd/m/y')");
        $this->post("$at?only=type", ['fields' => ['name', 'type']])->assertRedirect();
        self::assertSame(["code('vessel types', craft_type)", null], [$load->rules()->where('field', 'type')->value('expression'), $load->rules()->where('field', 'name')->value('expression')]);
        $this->post($at, ['fields' => ['name', 'built', 'draught_m', 'owner']])->assertRedirect();
        self::assertSame(['tidy(craft_name)', "decimal(draught, ',')", 'parent(owner_no)'], array_map(fn ($f) => $load->rules()->where('field', $f)->value('expression'), ['name', 'draught_m', 'owner']));
        $this->post($at, ['fields' => ['name']])->assertSessionHas('refused');
        $this->actingAs($this->user(Role::Reviewer))->post($at, ['fields' => ['name']])->assertForbidden();
    }
}
