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
        $this->actingAs($this->user(Role::Consultant))
            ->post("/m/$migration->id/mapping/loads/$id/check")
            ->assertRedirect();

        return LoadCheck::query()->where('load_id', $id)->firstOrFail()->result ?? [];
    }

    /** The generator's answer key is the reference: every planted defect, the target's own CHECK among them. */
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
        foreach (['no_new_value', 'not_a_date', 'too_long', 'required', 'taken', 'orphan', 'check_failed'] as $code) {
            self::assertSame($planted('Vessels', $code), $found[$code], $code);
        }
        self::assertSame([900, 0, 25], [$vessels['rows'], $vessels['excluded'], $vessels['failing']]);
        self::assertSame(
            ['name' => 7, 'type' => 9, 'built' => 7],
            array_intersect_key($vessels['failures'], ['name' => 1, 'type' => 1, 'built' => 1]),
        );
        $agreements = $this->check($migration, 'Agreements');
        self::assertSame([1100, 44], [$agreements['rows'], $agreements['excluded']]);
        self::assertSame(
            ['vessel' => 5, 'berth' => 12],
            array_column(array_filter($agreements['others'], fn ($o) => $o['code'] === 'orphan'), 'n', 'field'),
        );
        $parties = $this->check($migration, 'Parties of Berthbook');
        self::assertSame(
            [$planted('Parties of Berthbook', 'duplicate_key')],
            array_values(array_column(array_filter($parties['others'], fn ($o) => $o['code'] === 'duplicate_key'), 'n')),
        );
        self::assertSame($before, $this->targetRows('SELECT COUNT(*) FROM party'));
        self::assertSame(0, $this->lines()->count());
    }

    /** Again the answer key is the reference: not only how many, but which. */
    public function test_every_number_of_a_check_opens_its_rows(): void
    {
        $migration = $this->demoMigration();
        $key = json_decode((string) file_get_contents(self::demo().'/answer-key.json'), true)['defects'];
        $result = $this->check($migration, 'Vessels');
        $check = LoadCheck::query()->firstOrFail();
        $rows = $all = [];
        foreach ([...$result['causes'], ...$result['others']] as $cause) {
            $of = DB::table('check_rows')
                ->where('check_id', $check->id)
                ->where('cause', $cause['number'])
                ->pluck('row_no')
                ->all();
            self::assertCount($cause['n'], $of);
            self::assertSame($cause['n'], array_sum($cause['values']) ?: $cause['n'], 'each row has a value');
            $rows[$cause['code']] = array_merge($rows[$cause['code']] ?? [], $of);
        }
        foreach ($rows as $code => $of) {
            self::assertEqualsCanonicalizing($key["Vessels: $code"]['rows'], $of, $code);
            $all = array_merge($all, $of);
        }
        self::assertSame(count(array_unique($all)), $result['rejected']);
        $this->rowsOfACauseAreShown($migration, $result, $check);
    }

    private function rowsOfACauseAreShown(Migration $migration, array $result, LoadCheck $check): void
    {
        $at = "/m/$migration->id/mapping/loads/$check->load_id/check";
        $orphans = array_values(array_filter($result['others'], fn ($o) => $o['field'] === 'owner'))[0];
        self::assertSame(
            ['98317', '98606', '98784', '98870'],
            array_map(strval(...), array_keys($orphans['values'])),
            'keys of owners nobody knows',
        );
        self::assertContains(
            'Text too long for the field',
            array_column($result['causes'], 'message'),
            'said for all its rows, whose lengths differ',
        );
        $page = $this->get("$at/$orphans[number]")
            ->assertOk()
            ->assertSee('Party not found anywhere in BB')
            ->assertSee('OWNER_NO');
        foreach (DB::table('check_rows')->where('cause', $orphans['number'])->pluck('row_no') as $row) {
            $page->assertSee("/mapping/loads/$check->load_id/record/$row\"", false);
        }
        $this->get("$at/99")->assertNotFound();
        $this->pagesHoldEveryRowOnce($migration, $result, $check, $at, $orphans);
    }

    private function pagesHoldEveryRowOnce(Migration $migration, array $result, LoadCheck $check, string $at, array $orphans): void
    {
        // A cause of more rows than a page holds: no row comes twice, none is missing.
        DB::table('check_rows')->insertOrIgnore(
            array_map(
                fn ($row) => ['check_id' => $check->id, 'cause' => $orphans['number'], 'row_no' => $row],
                range(1, 120),
            ),
        );
        $seen = [];
        for (
            $next = "$at/$orphans[number]";
            $next !== null;
            $next = preg_match('/href="\?after=(\d+)"/', $html, $m) === 1 ? "$at/$orphans[number]?after=$m[1]" : null
        ) {
            $html = (string) $this->get($next)->getContent();
            preg_match_all('~/record/(\d+)"~', $html, $found);
            $seen = array_merge($seen, $found[1]);
        }
        self::assertSame(
            DB::table('check_rows')
                ->where('check_id', $check->id)
                ->where('cause', $orphans['number'])
                ->orderBy('row_no')
                ->pluck('row_no')
                ->map(strval(...))
                ->all(),
            $seen,
        );
        $this->newTakesNumberAnew($migration, $result, $check, $at, $orphans);
    }

    private function newTakesNumberAnew(Migration $migration, array $result, LoadCheck $check, string $at, array $orphans): void
    {
        // A new take numbers its rows anew, so nothing is shown for rows of the old.
        $check->update(['result' => ['take' => 0] + $result]);
        $this->get("$at/$orphans[number]")
            ->assertOk()
            ->assertSee('has a new take since')
            ->assertDontSee('/record/');
        // Checked again, or its load deleted, nothing of it is left.
        $this->check($migration, 'Vessels');
        self::assertSame(35, DB::table('check_rows')->distinct()->count('row_no'));
        Load::query()->findOrFail($check->load_id)->delete();
        self::assertSame(0, DB::table('check_rows')->count());
    }

    public function test_a_check_goes_stale_with_rules_codes_and_corrections(): void
    {
        $migration = $this->demoMigration();
        $load = Load::query()->where('name', 'Vessels')->firstOrFail();
        $sheet = fn () => $this->get("/m/$migration->id/mapping/vessel?load=$load->id")->assertOk();
        $this->check($migration, 'Vessels');
        $sheet()
            ->assertReads('Of 900 rows 865 pass, 35 would be rejected')
            ->assertDontSee('Stale')
            ->assertReads('9 fail')
            ->assertSee('891 pass');
        DB::table('code_entries')->insert([
            'code_crosswalk_id' => DB::table('code_crosswalks')->where('name', 'vessel types')->value('id'),
            'old_value' => 'MFV',
            'new_value' => 'fishing',
            'created_at' => now(),
            'updated_at' => now()->addMinute(),
        ]);
        $sheet()->assertSee('Stale: rules or data have changed since');
        self::assertSame(18, $this->check($migration, 'Vessels')['failing']);
        $load
            ->rules()
            ->where('field', 'built')
            ->update(['expression' => 'date(built, \'d/m/Y\')']);
        $sheet()->assertSee('Stale');
        $load
            ->rules()
            ->where('field', 'built')
            ->update(['expression' => 'nope(built)']);
        $this->check($migration, 'Vessels');
        self::assertStringContainsString(
            'There is no function "nope"',
            (string) LoadCheck::query()->where('load_id', $load->id)->value('error'),
        );
        $this->actingAs($this->user(Role::Auditor))
            ->post("/m/$migration->id/mapping/loads/$load->id/check")
            ->assertForbidden();
    }

    public function test_suggestions_are_taken_singly_or_together_and_only_for_fields_without_a_rule(): void
    {
        $migration = $this->demoMigration();
        $load = Load::query()->where('name', 'Vessels')->firstOrFail();
        $load
            ->rules()
            ->whereIn('field', ['name', 'type', 'built', 'draught_m'])
            ->delete();
        $this->actingAs($this->user(Role::Lead));
        $at = "/m/$migration->id/mapping/loads/$load->id/suggested";
        $this->get("/m/$migration->id/mapping/vessel")
            ->assertOk()
            ->assertSee('5 suggestions for fields without a rule')
            ->assertSee("date(built, 'd/m/Y', 'd/m/y')");
        $this->post("$at?only=type", ['fields' => ['name', 'type']])->assertRedirect();
        self::assertSame(
            ["code('vessel types', craft_type)", null],
            [
                $load->rules()->where('field', 'type')->value('expression'),
                $load->rules()->where('field', 'name')->value('expression'),
            ],
        );
        $this->post($at, ['fields' => ['name', 'built', 'draught_m', 'owner']])->assertRedirect();
        self::assertSame(
            ['tidy(craft_name)', "decimal(draught, ',')", 'parent(owner_no)'],
            array_map(fn ($f) => $load->rules()->where('field', $f)->value('expression'), [
                'name',
                'draught_m',
                'owner',
            ]),
        );
        $this->post($at, ['fields' => ['name']])->assertSessionHas('refused');
        $this->actingAs($this->user(Role::Reviewer))
            ->post($at, ['fields' => ['name']])
            ->assertForbidden();
    }
}
