<?php

namespace Tests\Feature;

use App\Loading\PassRunner;
use App\Loading\Rounds;
use App\Mapping\RuleBook;
use App\Models\Load;
use App\Models\Migration;
use App\Models\PassKind;
use App\Models\Role;
use App\Models\Round;
use App\Plans\Headless;
use App\Plans\PlanExporter;
use Baggage\Core\Plan\PlanError;
use Baggage\Core\Plan\PlanWriter;
use Illuminate\Support\Facades\DB;
use Symfony\Component\Yaml\Yaml;
use Tests\TestCase;

/** Match rules belong to the entity and have names; loads list those they go by, and the first that hits decides. */
final class MatchRulesTest extends TestCase
{
    private Migration $migration;

    private string $folder;

    /** @param  array<string, mixed>  $more  settings of the first load */
    private function plan(array $more = []): string
    {
        $this->folder = self::work('match-rules');
        @mkdir($this->folder, 0777, true);
        file_put_contents("$this->folder/a.csv", "no,name,mail\nA1,Ann Lowe,ann@x.example\nA2,Bo,bo@x.example\nA3,,cy@x.example\n");
        file_put_contents("$this->folder/b.csv", "no,name,mail\nB1,Lowe,ANN@x.example\nB2,Gus,gus@x.example\n");
        file_put_contents("$this->folder/plan.yaml", Yaml::dump([
            'baggage' => 1,
            'migration' => 'Match rules',
            'target' => self::partiesAndBoats(', mail VARCHAR(40) NULL'),
            'sources' => [['code' => 'S', 'name' => 'S', 'extracts' => [
                ['name' => 'a', 'file' => 'a.csv'], ['name' => 'b', 'file' => 'b.csv'],
            ]]],
            'match_rules' => [
                ['entity' => 'party', 'name' => 'same mail', 'on' => ['mail' => 'email']],
                ['entity' => 'party', 'name' => 'same name', 'on' => ['name' => 'letters']],
            ],
            'loads' => [
                $more + ['name' => 'A', 'entity' => 'party', 'from' => 'S/a', 'key' => ['no'], 'policy' => 'create_or_update',
                    'match' => ['same mail', 'same name'], 'fields' => ['name' => 'name', 'mail' => 'mail']],
                ['name' => 'B', 'entity' => 'party', 'from' => 'S/b', 'key' => ['no'], 'match' => ['same mail'],
                    'fields' => ['name' => 'name', 'mail' => 'mail']],
            ],
        ], 8));

        return "$this->folder/plan.yaml";
    }

    private function begin(): Round
    {
        $headless = $this->app->make(Headless::class);
        $this->migration = $headless->import($this->plan());
        $headless->freeze($this->migration, "$this->folder/plan.yaml", fn () => null);
        $this->actingAs($this->user(Role::Lead));

        return $this->app->make(Rounds::class)->begin($this->migration, $this->migration->targets()->firstOrFail(), 'r1');
    }

    private function insert(string $name, ?string $mail): void
    {
        $this->target()->prepare('INSERT INTO '.self::otherDatabase().'.party (name, mail) VALUES (?, ?)')->execute([$name, $mail]);
    }

    private function pass(Round $round): void
    {
        $pass = $this->app->make(Rounds::class)->pass($round, $round->latestPass() === null ? PassKind::First : PassKind::Retry);
        PassRunner::of($pass, 0)->work();
        self::assertSame('finished', $pass->refresh()->state->value, (string) $pass->error);
    }

    /** @return array<string, string> key → outcome and target key */
    private function outcomes(): array
    {
        return $this->lines()->orderBy('load_id')->orderBy('row_no')->get()->mapWithKeys(
            fn ($l) => [$l->legacy_key => rtrim("$l->outcome $l->target_key")],
        )->all();
    }

    public function test_each_rule_knows_the_targets_records_and_the_first_that_hits_decides(): void
    {
        $round = $this->begin();
        // By mail the first, by name the second: the mail decides. The third is found by the load that only knows names.
        $this->insert('Someone', 'ann@x.example');
        $this->insert('ann lowe', null);
        $this->insert('Gustav', 'gus@x.example');
        $this->pass($round);
        self::assertSame(
            ['A1' => 'updated 1', 'A2' => 'loaded 4', 'A3' => 'rejected', 'B1' => 'merged 1', 'B2' => 'unchanged 3'],
            $this->outcomes(),
        );
    }

    public function test_a_retry_reads_again_only_what_somebody_else_changed(): void
    {
        $round = $this->begin();
        $this->insert('Zoe', 'zoe@x.example');
        $this->pass($round);
        $asked = 0;
        DB::listen(function ($query) use (&$asked) {
            $asked += str_contains($query->sql, 'insert ignore into `match_entries`') ? 1 : 0;
        });
        $load = Load::query()->where('name', 'A')->firstOrFail();
        $this->app->make(RuleBook::class)->write($load, 'name', 1, "first(name, 'unnamed')", null, null, null);
        // Others made a record and took one away meanwhile; their new one is found, our own are not taken for theirs.
        $this->insert('Cyrus', 'cy@x.example');
        $this->target()->exec('DELETE FROM '.self::otherDatabase().".party WHERE name = 'Zoe'");
        $this->pass($round);
        self::assertGreaterThan(0, $asked);
        self::assertStringStartsWith('updated', $this->outcomes()['A3']);
        self::assertSame(
            0,
            DB::table('match_entries')->whereNull('item')->where('target_key', '1')->count(),
            'a record that is no longer there is no hit',
        );
        $asked = 0;
        $this->pass($round);
        self::assertSame(0, $asked, 'nothing changed, so nothing is read');
        self::assertSame('loaded', explode(' ', $this->outcomes()['A1'])[0]);
    }

    public function test_rules_go_out_and_come_in_with_the_plan(): void
    {
        $headless = $this->app->make(Headless::class);
        $migration = $headless->import($this->plan());
        $yaml = (new PlanWriter)->write((new PlanExporter)->export($migration));
        file_put_contents("$this->folder/plan.yaml", $yaml);
        $again = $headless->import("$this->folder/plan.yaml");
        self::assertSame($yaml, (new PlanWriter)->write((new PlanExporter)->export($again)));
        $loads = $again->loads()->orderBy('position')->get();
        self::assertSame([['same mail', 'same name'], ['same mail']], $loads->pluck('match_rules')->all());
        // One rule by its fields, as a plan may say it for short: it is the entity's, under a name.
        $headless->import($this->plan(['match' => ['name' => 'letters']]));
        self::assertSame(['same name'], Load::query()->where('name', 'A')->firstOrFail()->match_rules);
        foreach (
            [
                [['match' => ['same nose']], 'party has no match rule named "same nose"'],
                [['match' => ['nose' => 'letters']], 'nose'],
            ] as [$more, $says]
        ) {
            try {
                $headless->import($this->plan($more));
                self::fail($says);
            } catch (PlanError $e) {
                self::assertStringContainsString($says, $e->getMessage());
            }
        }
    }

    public function test_rules_are_chosen_and_described_on_the_screen(): void
    {
        $this->begin();
        $load = Load::query()->where('name', 'B')->firstOrFail();
        $rules = DB::table('match_rules')->orderBy('id')->pluck('id', 'name');
        $m = "/m/{$this->migration->id}/mapping";
        $this->get("$m/party?load=$load->id")->assertOk()->assertReads('same name name, letters')->assertReads('matched by same mail');
        $this->post("$m/loads/$load->id", [
            'key' => ['no'], 'key_normalisation' => 'trim', 'policy' => 'create',
            'match_place' => [$rules['same mail'] => 2, $rules['same name'] => 1],
            'match_name' => 'all of it', 'match_field' => ['name', 'mail', ''], 'match_how' => ['exact', 'exact', 'exact'],
        ])->assertSessionHas('told');
        self::assertSame(['same name', 'same mail', 'all of it'], $load->refresh()->match_rules);
        self::assertSame(['name' => 'exact', 'mail' => 'exact'], $load->matches()->last()?->on);
    }
}
