<?php

namespace Tests\Feature;

use App\Models\CodeCrosswalk;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Role;
use App\Overview\OverviewBook;
use Illuminate\Support\Facades\DB;
use Tests\TestCase;

/** Codes are held against the fields they fill: when they are typed, counted and when rows failed for them. */
final class CodesKnowTheTargetTest extends TestCase
{
    private Migration $migration;

    private Load $vessels;

    protected function setUp(): void
    {
        parent::setUp();
        $this->migration = $this->demoMigration();
        $this->vessels = $this->migration->loads()->where('name', 'Vessels')->firstOrFail();
        $this->actingAs($this->user(Role::Lead));
    }

    private function types(): CodeCrosswalk
    {
        return $this->migration->codeCrosswalks()->where('name', 'vessel types')->firstOrFail();
    }

    private function at(string $rest): string
    {
        return "/m/{$this->migration->id}/$rest";
    }

    private function newValue(string $old): ?string
    {
        return $this->types()->entries()->where('old_value', $old)->value('new_value');
    }

    public function test_a_new_value_the_target_does_not_allow_is_refused_and_nothing_typed_is_lost(): void
    {
        $url = $this->at("crosswalks/codes/{$this->types()->id}");
        $page = $this->from($this->at('crosswalks'))->followingRedirects()->post($url, ['old' => 'MFV', 'new' => 'fihsing']);
        $page->assertReads('the target would not take')->assertReads('not an allowed value')->assertSee('value="fihsing"', false);
        self::assertNull($this->newValue('MFV'));
        $row = fn (string $old, string $new) => ['old' => $old, 'was' => '', 'is' => 'value', 'new' => $new, 'note' => 'as agreed'];
        $page = $this->from($this->at('crosswalks?code='.$this->types()->id))->followingRedirects()
            ->post("$url/table", ['rows' => [$row('MFV', 'fihsing'), $row('X?', 'other')]]);
        $page->assertReads('1 code kept.')->assertReads('would not take the new value of MFV')->assertSee('value="fihsing"', false)
            ->assertReads('not kept');
        self::assertSame([null, 'other'], [$this->newValue('MFV'), $this->newValue('X?')]);
        // A field that must be filled is not left empty by a code either.
        $this->post($url, ['old' => 'MFV', 'is' => 'empty'])->assertSessionHas('refused');
        $this->post($url, ['old' => 'MFV', 'new' => 'fishing'])->assertSessionHas('told');
        self::assertSame('fishing', $this->newValue('MFV'));
    }

    public function test_what_is_there_already_and_not_allowed_is_marked_and_counted(): void
    {
        $this->types()->entries()->whereIn('old_value', ['MFV', 'X?'])->delete();
        foreach (['MFV' => 'fihsing', 'X?' => 'other'] as $old => $new) {
            $this->types()->entries()->create(['old_value' => $old, 'new_value' => $new]);
        }
        $listed = collect(OverviewBook::of($this->migration->fresh())->codes)->firstWhere('name', 'vessel types');
        self::assertSame([0, 1], [$listed->unmapped, $listed->refused]);
        $page = $this->get($this->at('crosswalks?code='.$this->types()->id))->assertOk();
        $page->assertReads('1 not allowed')->assertReads('1 new value the target does not take');
        $page->assertReads('Vessels, type: not an allowed value');
        $page->assertDontSee('every old value has a new one');
    }

    public function test_a_crosswalk_a_rule_names_is_made_in_place_with_its_values(): void
    {
        $this->vessels->rules()->where('field', 'type')->first()->update(['expression' => "code('craft kinds', craft_type)"]);
        $this->get($this->at('crosswalks'))->assertOk()->assertReads('craft kinds: there is none yet')->assertReads('1 crosswalk missing');
        $line = $this->at("mapping/loads/{$this->vessels->id}/fields/type");
        $this->get($line)->assertReads('There is no code crosswalk craft kinds yet.')->assertReads('old values');
        $made = $this->post("$line/crosswalk", ['crosswalk' => 'craft kinds', 'rows' => '1'])->assertOk();
        $made->assertDontSee('There is no code crosswalk')->assertReads('craft kinds:')->assertReads('unmapped');
        $id = $this->migration->codeCrosswalks()->where('name', 'craft kinds')->value('id');
        $this->get($this->at("crosswalks?code=$id"))->assertOk()->assertReads('MFV')->assertReads('unmapped');
        // Twice, in two tabs: one crosswalk.
        $this->post("$line/crosswalk", ['crosswalk' => 'craft kinds'])->assertOk();
        self::assertSame(1, $this->migration->codeCrosswalks()->where('name', 'craft kinds')->count());
        $this->actingAs($this->user(Role::Auditor))->post("$line/crosswalk", ['crosswalk' => 'another'])->assertForbidden();
    }

    /** A value the target refuses comes from a code: the reject leads to its line, and a change of it frees the rows. */
    public function test_a_reject_leads_to_its_code_and_back_and_the_change_frees_its_rows(): void
    {
        $this->types()->entries()->updateOrCreate(['old_value' => 'MFV'], ['new_value' => 'fihsing']);
        $this->load($this->migration);
        $cause = DB::table('causes')->where('code', 'not_allowed')->first();
        self::assertSame(['type', 'fihsing'], [$cause->field, $cause->value]);
        $open = "{$this->vessels->id}~checks~not_allowed~type";
        $page = $this->get($this->at('rejects/vessel?').http_build_query(['cause' => $open]))->assertOk();
        $line = $this->at('crosswalks/vessel?').http_build_query(['code' => $this->types()->id, 'codes-old' => '=MFV', 'from' => $open]);
        $page->assertReads('Its code in vessel types becomes')->assertSee(e($line), false)->assertDontSee('value="fihsing"', false);
        $back = e(http_build_query(['cause' => $open]));
        $this->get($line)->assertOk()->assertReads('Back to the rejects it came from')->assertSee($back, false);
        $this->post($this->at("crosswalks/codes/{$this->types()->id}"), ['old' => 'MFV', 'new' => 'fishing'])->assertSessionHas('told');
        $this->get($this->at('rejects/vessel'))->assertOk()->assertReads('Load 7 rows again');
    }

    public function test_suggestions_by_place_are_asked_for_and_never_ticked(): void
    {
        $this->types()->entries()->delete();
        $url = 'crosswalks?code='.$this->types()->id;
        $this->get($this->at($url))->assertOk()->assertDontSee('in both lists</td>', false)->assertReads('Suggest by the places');
        $asked = $this->get($this->at("$url&place=1"))->assertOk()->assertReads('in both lists');
        preg_match_all('/name="take\[\]"[^>]*>/', (string) $asked->getContent(), $boxes);
        self::assertNotEmpty($boxes[0]);
        preg_match_all('/name="take\[\]" value="([^"]*)"\s+checked/', (string) $asked->getContent(), $ticked);
        foreach ($ticked[1] as $old) {
            self::assertStringNotContainsString('number ', (string) $old);
        }
    }
}
