<?php

namespace Tests\Feature;

use App\Loading\DueSoon;
use App\Loading\PassRunner;
use App\Loading\Rounds;
use App\Models\Load;
use App\Models\LoadCheck;
use App\Models\Migration;
use App\Models\Pass;
use App\Models\PassKind;
use App\Models\Role;
use App\Models\Round;
use App\Plans\Headless;
use App\Plans\PlanExporter;
use App\Reconciling\Proofs;
use Illuminate\Support\Facades\DB;
use Symfony\Component\Yaml\Yaml;
use Tests\TestCase;

/** Two sources whose customers bear the same numbers, as they were kept by one clerk: one key space, named by both loads. */
final class KeySpacesTest extends TestCase
{
    private Migration $migration;

    private string $folder;

    protected function setUp(): void
    {
        parent::setUp();
        $this->folder = self::work('spaces');
        @mkdir($this->folder, 0777, true);
        foreach (
            [
                'people' => "no,name\nK1,Ann\nK2,Bo\n",
                'clients' => "no,name\nK2,Bo again\nK3,Cy\nK4,\n",
                'names' => "no,name\nK1,Anna\nK2,Bo\nK9,Nobody\nK4,Dina\nK1,Ann\n",
                'boats' => "no,name,owner\n1,Tern,K1\n2,Gull,K3\n3,Auk,K9\n",
            ] as $name => $csv
        ) {
            file_put_contents("$this->folder/$name.csv", $csv);
        }
        $party = fn (string $name, string $from, array $more = []) => [
            'name' => $name, 'entity' => 'party', 'from' => $from, 'key' => ['no'], 'key_space' => 'PEOPLE', 'fields' => ['name' => 'name'],
        ] + $more;
        $boats = [
            'name' => 'Boats', 'entity' => 'boat', 'from' => 'B/boats', 'key' => ['no'],
            'fields' => ['name' => 'name', 'owner' => "parent(owner, 'PEOPLE')"],
        ];
        file_put_contents("$this->folder/plan.yaml", Yaml::dump([
            'baggage' => 1,
            'migration' => 'Shared keys',
            'target' => self::partiesAndBoats(),
            'sources' => [
                ['code' => 'A', 'name' => 'A', 'extracts' => [['name' => 'people', 'file' => 'people.csv']]],
                ['code' => 'B', 'name' => 'B', 'extracts' => [
                    ['name' => 'clients', 'file' => 'clients.csv'],
                    ['name' => 'boats', 'file' => 'boats.csv'],
                    ['name' => 'names', 'file' => 'names.csv'],
                ]],
            ],
            // The one that changes records stands first: it runs after those that make them all the same.
            'loads' => [
                $party('Names', 'B/names', ['policy' => 'update']),
                $party('People', 'A/people'),
                $party('Clients', 'B/clients'),
                $boats,
            ],
        ], 8));
        $headless = $this->app->make(Headless::class);
        $this->migration = $headless->import("$this->folder/plan.yaml");
        $headless->freeze($this->migration, "$this->folder/plan.yaml", fn () => null);
        $this->actingAs($this->user(Role::Lead));
    }

    private function named(string $name): Load
    {
        return $this->migration->loads()->where('name', $name)->firstOrFail();
    }

    private function begun(): Round
    {
        $rounds = $this->app->make(Rounds::class);
        $round = $rounds->begin($this->migration, $this->migration->targets()->firstOrFail(), 'rehearsal-1');
        $this->finish($rounds->pass($round, PassKind::First));

        return $round;
    }

    private function finish(Pass $pass): void
    {
        PassRunner::of($pass, 0)->work();
        self::assertSame('finished', $pass->refresh()->state->value, (string) $pass->error);
    }

    /** @return array<string, list<string>> load → outcome and legacy key of its rows */
    private function outcomes(): array
    {
        $all = [];
        foreach (['People', 'Clients', 'Names', 'Boats'] as $name) {
            $all[$name] = $this->lines()->where('load_id', $this->named($name)->id)->orderBy('row_no')->get()
                ->map(fn ($l) => "$l->space $l->legacy_key $l->outcome")->all();
        }

        return $all;
    }

    public function test_sources_that_name_one_space_share_its_keys(): void
    {
        $round = $this->begun();
        $own = "PEOPLE#{$this->named('Names')->id}";
        self::assertSame([
            'People' => ['PEOPLE K1 loaded', 'PEOPLE K2 loaded'],
            'Clients' => ['PEOPLE K2 rejected', 'PEOPLE K3 loaded', 'PEOPLE K4 rejected'],
            'Names' => ["$own K1 updated", "$own K2 unchanged", "$own K9 rejected", "$own K4 held", "$own K1 rejected"],
            'Boats' => ['B 1 loaded', 'B 2 loaded', 'B 3 rejected'],
        ], $this->outcomes());
        self::assertSame(
            ['duplicate_key', 'no_match', 'orphan', 'parent_rejected', 'required'],
            DB::table('causes')->where('lane_id', $round->laneId())->orderBy('code')->distinct()->pluck('code')->all(),
        );
        foreach (Proofs::of($round)->loads() as $proof) {
            self::assertSame(0, $proof->unaccounted());
        }
        $this->get("/m/{$this->migration->id}/crosswalks?entity=party")->assertOk()->assertSee('<em>PEOPLE</em>K3', false);
        $this->get("/m/{$this->migration->id}/trace?q=PEOPLE+K3")->assertRedirect();
        $orphan = $this->lines()->where('load_id', $this->named('Boats')->id)->where('row_no', 3)->firstOrFail();
        $this->get("/m/{$this->migration->id}/rows/$orphan->load_id/3")->assertOk()->assertSee('K9');
    }

    /** SEMANTICS of spaces: such rows stand for no key, carry the target key, and what they wait for makes them due. */
    public function test_a_load_that_only_updates_finds_its_records_by_their_keys(): void
    {
        $round = $this->begun();
        $names = fn () => $this->targetRows('SELECT name FROM '.self::otherDatabase().'.party ORDER BY name');
        self::assertSame([['Anna'], ['Bo'], ['Cy']], $names());
        $lines = $this->lines()->where('load_id', $this->named('Names')->id)->orderBy('row_no')->get();
        self::assertSame([null, null, null, null, null], $lines->pluck('stands')->all());
        self::assertSame([true, true, false, false, false], $lines->map(fn ($l) => $l->target_key !== null)->all());
        $this->named('Clients')->rules()->where('field', 'name')->update(['expression' => "first(name, 'unnamed')"]);
        $this->app->make(DueSoon::class)->changed($this->migration);
        $this->finish($this->app->make(Rounds::class)->pass($round, PassKind::Retry));
        self::assertSame([['Anna'], ['Bo'], ['Cy'], ['Dina']], $names(), 'made as unnamed, then named');
        self::assertStringEndsWith('K4 updated', $this->outcomes()['Names'][3]);
        $proof = Proofs::of($round)->entities()['party'];
        self::assertSame([0, 0, 0], [$proof->unaccounted(), $proof->targetGap(), $proof->otherOrigin]);
        $page = $this->get("/m/{$this->migration->id}/crosswalks?entity=party")->assertOk();
        self::assertSame(1, substr_count((string) $page->getContent(), '</em>K4<'), 'a change is no second key');
        $this->get("/m/{$this->migration->id}/trace?q=PEOPLE+K4")->assertOk()->assertSee('Names')->assertSee('Clients');
    }

    public function test_the_check_of_such_a_load_finds_keys_that_no_load_brings(): void
    {
        $names = $this->named('Names');
        $this->post("/m/{$this->migration->id}/mapping/loads/$names->id/check")->assertRedirect();
        $others = LoadCheck::query()->where('load_id', $names->id)->firstOrFail()->result['others'] ?? [];
        self::assertSame(['duplicate_key' => 1, 'no_match' => 1], array_filter(array_column($others, 'n', 'code')));
    }

    public function test_without_naming_it_a_reference_looks_in_the_space_of_its_own_source(): void
    {
        $this->named('Boats')->rules()->where('field', 'owner')->update(['expression' => 'parent(owner)']);
        $this->begun();
        self::assertSame(['B 1 rejected', 'B 2 rejected', 'B 3 rejected'], $this->outcomes()['Boats']);
    }

    public function test_the_check_looks_for_parents_in_the_space(): void
    {
        $boats = $this->named('Boats');
        $this->post("/m/{$this->migration->id}/mapping/loads/$boats->id/check")->assertRedirect();
        $causes = LoadCheck::query()->where('load_id', $boats->id)->firstOrFail()->result['others'] ?? [];
        self::assertSame(['Party not found anywhere in PEOPLE' => 1], array_filter(array_column($causes, 'n', 'message')));
    }

    public function test_the_settings_state_it_and_the_plan_writes_it(): void
    {
        $clients = $this->named('Clients');
        $settings = [
            'key' => ['no'], 'key_space' => 'CLIENTS', 'key_normalisation' => 'trim', 'policy' => 'create',
        ];
        $at = "/m/{$this->migration->id}/mapping/loads/$clients->id";
        $this->post($at, ['key_space' => 'a space'] + $settings)->assertSessionHasErrors('key_space');
        $this->post($at, $settings)->assertSessionHasNoErrors();
        $this->get("/m/{$this->migration->id}/mapping/party?load=$clients->id")->assertOk()->assertSee('value="CLIENTS"', false);
        $loads = $this->app->make(PlanExporter::class)->export($this->migration->refresh())['loads'];
        self::assertSame(['Names' => 'PEOPLE', 'People' => 'PEOPLE', 'Clients' => 'CLIENTS', 'Boats' => null], array_map(
            fn ($l) => $l['key_space'] ?? null,
            array_column($loads, null, 'name'),
        ));
        $this->post($at, ['key_space' => 'B'] + $settings)->assertSessionHasNoErrors();
        self::assertNull($this->named('Clients')->key_space, 'that of the source');
    }

    public function test_the_sheet_and_the_specification_say_it(): void
    {
        $names = $this->named('Names');
        $this->get("/m/{$this->migration->id}/mapping/party?load=$names->id")->assertOk()->assertSee('in the key space PEOPLE');
        $text = preg_replace('/\s+/', ' ', strip_tags((string) $this->get("/m/{$this->migration->id}/mapping/document")->getContent()));
        self::assertStringContainsString('take 1) becomes one party: create only. Its legacy key is no, in the key space PEOPLE.', $text);
        self::assertStringContainsString('take 1) changes the party its legacy key leads to: update only.', $text);
        self::assertStringContainsString('becomes one boat: create only. Its legacy key is no.', $text);
    }

    public function test_a_round_keeps_the_space_its_keys_stand_in(): void
    {
        $round = $this->begun();
        $this->named('Clients')->update(['key_space' => null]);
        try {
            $this->app->make(Rounds::class)->pass($round, PassKind::Retry);
            self::fail('it began');
        } catch (\DomainException $e) {
            self::assertStringContainsString('round "Clients" writes the key space PEOPLE, and now it writes B.', $e->getMessage());
        }
        self::assertCount(1, $round->passes()->get());
    }

    public function test_those_who_join_a_space_compare_their_keys_alike(): void
    {
        $clients = $this->named('Clients');
        $this->post("/m/{$this->migration->id}/mapping/loads/$clients->id", [
            'policy' => 'create',
            'key' => ['no'], 'key_space' => 'PEOPLE', 'key_normalisation' => 'capitals',
        ])->assertSessionHas('told', fn ($told) => str_contains($told, 'alike in Names, People'));
        self::assertSame('capitals', $this->named('People')->key_normalisation->value);
        self::assertSame('trim', $this->named('Boats')->key_normalisation->value);
    }
}
