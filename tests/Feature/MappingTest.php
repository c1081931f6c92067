<?php

namespace Tests\Feature;

use App\Catalogue\CodeUse;
use App\Models\ChangeList;
use App\Models\CodeCrosswalk;
use App\Models\CodeDecision;
use App\Models\ColumnDecision;
use App\Models\Load;
use App\Models\Membership;
use App\Models\Migration;
use App\Models\Role;
use App\Models\Rule;
use App\Models\RuleVersion;
use App\Models\User;
use App\Plans\Headless;
use App\Plans\PlanExporter;
use App\Specification\Specification;
use App\Specification\SpecificationWorkbook;
use App\Support\WorkbookFile;
use Illuminate\Http\UploadedFile;
use Illuminate\Support\Facades\DB;
use Tests\TestCase;

/** What a team does on the rule sheet all day, on a small load. */
final class MappingTest extends TestCase
{
    private Migration $migration;

    private Load $load;

    private string $at;

    private function small(
        string $csv = "no,name,ctry\n1,a,UK\n2,bb,UK\n3,ccc,F\n",
        string $fields = "{kind: \"'person'\", name: name, country: \"code('c', ctry)\", street: {empty: never kept}}",
    ): void {
        $plan = $this->smallPlan(
            $csv,
            $fields,
            'party',
            "}\n".'code_crosswalks: [{name: c, entries: {UK: GB}}]'
                ."\nparameters: {greeting: {prompt: What is said, default: hello",
        );
        // The last brace closes the list of loads in smallPlan; the text after it belongs to the plan itself.
        file_put_contents(
            $plan,
            str_replace(
                ["}}\ncode_crosswalks", 'default: hello}]'],
                ["}}]\ncode_crosswalks", 'default: hello}}'],
                (string) file_get_contents($plan),
            ),
        );
        $headless = $this->app->make(Headless::class);
        $headless->freeze($this->migration = $headless->import($plan), $plan, fn () => null);
        $this->load = Load::query()->firstOrFail();
        $this->at = "/m/{$this->migration->id}/mapping/loads/{$this->load->id}";
        $this->actingAs($this->user(Role::Consultant));
    }

    private function expression(string $field): ?string
    {
        return Rule::query()->where('load_id', $this->load->id)->where('field', $field)->value('expression');
    }

    public function test_history_undo_and_what_others_changed(): void
    {
        $this->small();
        $put = fn (string $field, string $rule, int $version) => $this->put("$this->at/fields/$field", [
            'expression' => $rule,
            'version' => $version,
        ]);
        $put('town', 'name', 0)->assertOk();
        $put('town', 'upper(name)', 1)->assertOk();
        $since = (int) RuleVersion::query()->max('id');
        self::assertSame(
            ['name', 'upper(name)'],
            RuleVersion::query()->where('field', 'town')->orderBy('id')->pluck('expression')->all(),
        );
        $this->get("$this->at/history?field=town")
            ->assertSee('upper(name)')
            ->assertSee('Go back to this')
            ->assertSee('Consultant');
        // Undo twice is as it was.
        $this->post("$this->at/undo", ['version' => $since])->assertSessionHas('told');
        self::assertSame('name', $this->expression('town'));
        $this->post("$this->at/undo", ['version' => (int) RuleVersion::query()->max('id')]);
        self::assertSame('upper(name)', $this->expression('town'));
        $this->post("$this->at/undo", ['version' => $since])->assertSessionHas('refused');
        $first = RuleVersion::query()->where('field', 'town')->orderBy('id')->firstOrFail();
        $this->post("$this->at/history/$first->id")->assertRedirect();
        self::assertSame('name', $this->expression('town'));
        // The first change of all taken back leaves no rule.
        $put('phone', 'no', 0);
        $this->post("$this->at/undo", ['version' => (int) RuleVersion::query()->max('id')]);
        self::assertNull($this->expression('phone'));
        $this->othersAreTold($first);
    }

    private function othersAreTold(RuleVersion $first): void
    {
        // Somebody else's change is told, one's own is not.
        $before = (int) RuleVersion::query()->max('id');
        $this->actingAs($this->user(Role::Lead));
        $this->put("$this->at/fields/town", [
            'expression' => 'lower(name)',
            'version' => Rule::query()->where('field', 'town')->value('version'),
        ])->assertOk();
        $this->get("$this->at/news?since=$before")->assertDontSee('changed');
        $this->actingAs($this->user(Role::Consultant))
            ->get("$this->at/news?since=$before")
            ->assertSee('Lead changed')
            ->assertSee('lower(name)');
        $this->get("$this->at/fields/town")->assertSee('lower(name)');
        $this->actingAs($this->user(Role::Auditor))
            ->post("$this->at/history/$first->id")
            ->assertForbidden();
    }

    public function test_all_rules_as_text(): void
    {
        $this->small();
        $this->get("$this->at/text")
            ->assertOk()
            ->assertSee('street left empty: never kept')
            ->assertSee('says what is kept already');
        $this->post("$this->at/text/look", ['text' => "name = upper(name)\ntown = nmae\ncolour = name"])
            ->assertSee('upper(name)')
            ->assertSee('no column', false)
            ->assertSee('Did you mean', false)
            ->assertSee('no field', false);
        $since = (int) RuleVersion::query()->max('id');
        // All or nothing.
        $this->post("$this->at/text", [
            'text' => "name = upper(name)\ntown = nmae",
            'since' => $since,
        ])->assertSessionHas('refused');
        self::assertSame('name', $this->expression('name'));
        $this->post("$this->at/text", [
            'text' => "name = upper(name)\ntown =\n  \nstreet = name\n  ~ no\nphone left empty: nobody has one",
            'since' => $since,
        ])->assertSessionHas('told', '3 rules kept.');
        self::assertSame(
            ['upper(name)', "name\n~ no", null],
            [$this->expression('name'), $this->expression('street'), $this->expression('phone')],
        );
        self::assertSame('nobody has one', Rule::query()->where('field', 'phone')->value('empty_reason'));
        // Somebody was faster.
        $this->post("$this->at/text", ['text' => 'name = lower(name)', 'since' => $since])->assertSessionHas('refused');
        self::assertSame('upper(name)', $this->expression('name'));
        $this->get("$this->at/text?names=underscores")->assertReads('2 of 3 headers meet no field');
    }

    public function test_the_record_parameters_and_samples(): void
    {
        $this->small();
        $this->put("$this->at/fields/town", ['expression' => "parameter('greeting') ~ ' ' ~ name", 'version' => 0])
            ->assertOk()
            ->assertSee('hello a');
        $this->get("$this->at/record/1")
            ->assertSee('hello a')
            ->assertSee('This is what would be sent');
        $this->get("$this->at/record/3")
            ->assertSee('It would be rejected')
            ->assertSee('no new value in the crosswalk');
        $this->get("$this->at/record/9")->assertNotFound();
        $sheet = "/m/{$this->migration->id}/mapping/party?load={$this->load->id}";
        $this->get("$sheet&pick=value&column=ctry&value=F")
            ->assertSee('>Row 3<', false)
            ->assertDontSee('>Row 1<', false);
        $this->get("$sheet&pick=first")
            ->assertSee('>Row 1<', false)
            ->assertSee('>Row 2<', false);
        $this->get("$sheet&pick=column&column=name")->assertOk();
        $this->post("$this->at/check");
        $this->get("$sheet&pick=failing")
            ->assertSee('>Row 3<', false)
            ->assertDontSee('>Row 2<', false);
        $this->aRoundAsksForItsParameter();
    }

    private function aRoundAsksForItsParameter(): void
    {
        // A parameter is asked for when a round begins.
        $this->post("/m/{$this->migration->id}/mapping/parameters", [
            'name' => 'Not So',
            'prompt' => 'x',
        ])->assertSessionHasErrors('name');
        $this->post("/m/{$this->migration->id}/mapping/parameters", [
            'name' => 'needed',
            'prompt' => 'Which one?',
        ])->assertSessionHas('told');
        $this->get("/m/{$this->migration->id}/runs")->assertSee('Which one?');
        $begin = ['name' => 'rehearsal-1', 'kind' => 'rehearsal', 'target' => $this->migration->targets()->value('id')];
        $this->post("/m/{$this->migration->id}/runs/rounds", $begin)->assertSessionHas(
            'refused',
            'The parameter "needed" has no value: Which one?',
        );
        $this->post(
            "/m/{$this->migration->id}/runs/rounds",
            $begin + ['parameters' => ['needed' => 'x', 'greeting' => 'good day']],
        )->assertRedirect("/m/{$this->migration->id}/runs");
        self::assertSame(
            [['a', 'good day a'], ['bb', 'good day bb']],
            $this->targetRows("SELECT name, town FROM party WHERE town LIKE 'good day%' ORDER BY id"),
        );
        $this->actingAs($this->user(Role::Lead))->delete(
            "/m/{$this->migration->id}/mapping/parameters/"
                .DB::table('parameters')->where('name', 'greeting')->value('id'),
        )->assertSessionHas('refused');
        self::assertSame(
            ['prompt' => 'What is said', 'default' => 'hello'],
            (array) ((array) (new PlanExporter)->export($this->migration)['parameters'])['greeting'],
        );
    }

    public function test_code_decisions_suggestions_and_sheets(): void
    {
        $this->small(
            "no,name,ctry\n1,a,UK\n2,b,F\n3,c,X\n4,d,gb\n",
            "{kind: \"'person'\", name: name, country: \"code('c', ctry)\"}",
        );
        $codes = "/m/{$this->migration->id}/crosswalks/codes/"
            .($c = CodeCrosswalk::query()->where('name', 'c')->firstOrFail())->id;
        $this->get("/m/{$this->migration->id}/crosswalks")
            ->assertSee('the same letters')
            ->assertSee('3 old values without a new one, in 3 rows');
        $this->post("$codes/suggested", ['take' => ['gb', 'never seen']])->assertSessionHas('told');
        $this->post($codes, ['old' => 'X', 'is' => 'reject', 'note' => 'no such country'])->assertSessionHas(
            'told',
            '"X" rejects the row.',
        );
        $this->post($codes, ['old' => 'F'])->assertSessionHas('refused');
        $this->post("$codes/otherwise", ['otherwise' => 'value'])->assertSessionHasErrors('otherwise_value');
        $this->post("$codes/otherwise", ['otherwise' => 'value', 'otherwise_value' => 'FR'])->assertSessionHas('told');
        $this->get("$this->at/record/2")->assertSee('FR');
        $this->get("$this->at/record/3")->assertSee('says that rows with this code are rejected');
        $this->get("/m/{$this->migration->id}/mapping/party?load={$this->load->id}")->assertSee('all codes mapped');
        $this->theWholeTableAtOnce($codes, $c);
    }

    private function theWholeTableAtOnce(string $codes, CodeCrosswalk $c): void
    {
        // The whole table at once: what is unchanged is left, what somebody else changed meanwhile too.
        $was = fn (string $old) => CodeUse::stateOf($c->entries()->where('old_value', $old)->first());
        [$uk, $x] = [$was('UK'), $was('X')];
        $c->entries()
            ->where('old_value', 'X')
            ->update(['note' => 'changed by somebody']);
        $table = $this->post("$codes/table", [
            'rows' => [
                ['old' => 'UK', 'was' => $uk, 'is' => 'value', 'new' => 'GB', 'note' => ''],
                ['old' => 'X', 'was' => $x, 'is' => 'value', 'new' => 'GB'],
                ['old' => 'D', 'was' => '', 'is' => 'value', 'new' => 'DE', 'note' => 'Germany'],
                ['old' => 'E', 'was' => '', 'is' => 'value', 'new' => ' '],
            ],
        ]);
        $table->assertSessionHas(
            'refused',
            '1 code kept. Somebody changed these meanwhile, so yours were not kept: X.',
        );
        self::assertSame(
            ['DE', 'Germany', 0],
            [
                $c->entries()->where('old_value', 'D')->value('new_value'),
                $c->entries()->where('old_value', 'D')->value('note'),
                $c->entries()->where('old_value', 'E')->count(),
            ],
        );
        $this->post("$codes/table", [
            'rows' => [['old' => 'D', 'was' => $was('D'), 'is' => 'reject', 'new' => 'DE']],
        ])->assertSessionHas('told');
        self::assertSame(
            [CodeDecision::Reject, null],
            [
                $c->entries()->where('old_value', 'D')->value('decision'),
                $c->entries()->where('old_value', 'D')->value('new_value'),
            ],
        );
        $c->entries()->where('old_value', 'D')->delete();
        $this->codesGoOutAndComeBack($codes, $c);
    }

    private function codesGoOutAndComeBack(string $codes, CodeCrosswalk $c): void
    {
        // To somebody else as a sheet, and back.
        $sheet = (string) $this->get("$codes/sheet")
            ->assertOk()
            ->streamedContent();
        self::assertStringStartsWith('PK', $sheet);
        $back = fn (string $csv) => $this->post("$codes/sheet", [
            'file' => UploadedFile::fake()->createWithContent('codes.csv', $csv),
        ]);
        self::assertStringContainsString(
            'no column "New value"',
            (string) $back("Old value,Neu\nUK,GB\n")->getSession()?->get('refused'),
        );
        $back(
            "Old value,New value,Decision\nUK,GB,value\nF,FR,\nX,,empty\nN,NO,\nN,NN,\ngb,,reject\n",
        )->assertRedirect();
        $list = ChangeList::query()->latest('id')->firstOrFail();
        self::assertSame(
            [
                ['c, F', '', 'value FR', 'open'],
                ['c, X', 'reject', 'empty', 'open'],
                ['c, N', '', 'value NO', 'open'],
                ['c, N', '', 'value NN', 'void'],
                ['c, gb', 'value GB', 'reject', 'open'],
            ],
            array_map(fn ($l) => [$l->where, $l->from, $l->to, $l->state->value], $list->changes),
        );
        $this->get("/m/{$this->migration->id}/changes/$list->id")
            ->assertSee('has two new values')
            ->assertSee('4 to be decided');
        $this->post("/m/{$this->migration->id}/changes/$list->id", ['do' => 'accept', 'accept' => [0, 1, 3]]);
        $this->post("/m/{$this->migration->id}/changes/$list->id", ['do' => 'refuse', 'accept' => [2, 4]]);
        $this->decidedAndInThePlan($codes, $c, $list);
    }

    private function decidedAndInThePlan(string $codes, CodeCrosswalk $c, ChangeList $list): void
    {
        self::assertSame(
            ['accepted', 'accepted', 'refused', 'void', 'refused'],
            array_map(fn ($c) => $c->state->value, $list->refresh()->changes),
        );
        self::assertEquals(
            ['UK' => 'GB', 'gb' => 'GB', 'X' => null, 'F' => 'FR'],
            $c->entries()->pluck('new_value', 'old_value')->all(),
        );
        $plan = (new PlanExporter)->export($this->migration);
        self::assertSame(
            ['value', 'FR'],
            [$plan['code_crosswalks'][0]['otherwise'], $plan['code_crosswalks'][0]['otherwise_value']],
        );
        $this->actingAs($this->user(Role::Reviewer))
            ->post("$codes/sheet", [
                'file' => UploadedFile::fake()->createWithContent('codes.csv', "Old value,New value\nUK,GB\n"),
            ])
            ->assertForbidden();
    }

    public function test_the_specification_goes_out_and_comes_back(): void
    {
        $this->small();
        $this->post("/m/{$this->migration->id}/mapping/extracts/{$this->load->extract_id}/columns", [
            'header' => 'no',
            'reason' => 'x',
        ]);
        $document = "/m/{$this->migration->id}/mapping/document";
        $this->get($document)
            ->assertOk()
            ->assertSee('left empty: never kept')
            ->assertSee('Sign-off')
            ->assertSee('not decided');
        $pdf = $this->get("$document.pdf?load={$this->load->id}")->assertOk();
        self::assertStringStartsWith('%PDF-', (string) $pdf->getContent());
        $this->get("$document.xlsx")->assertOk();
        $this->asAClientSendsItBack($document);
    }

    private function asAClientSendsItBack(string $document): void
    {
        // As a client sends it back: rules, notes and codes changed, a rule that cannot be understood, a row of their own.
        $path = sys_get_temp_dir().'/baggage-back.xlsx';
        $book = new WorkbookFile($path);
        $book->sheet('Read me', [['thanks']]);
        $book->sheet('Rules', [
            SpecificationWorkbook::RULES,
            ['L', 'name', '', 'tidy(name)', '', 'Names as people write them'],
            ['L', 'street', '', '', 'we never had it', ''],
            ['L', 'town', '', 'nmae', '', ''],
            ['L', 'colour', '', 'name', '', ''],
            ['L', 'country', '', "code('c', ctry)", '', ''],
        ]);
        $book->sheet('Codes', [
            SpecificationWorkbook::CODES,
            ['c', 'UK', 2, 'GB', 'value', ''],
            ['c', 'F', 1, 'FR', '', 'France'],
            ['d', 'F', 1, 'FR', '', ''],
        ]);
        $book->sheet('Columns', [SpecificationWorkbook::COLUMNS, ['L', 'S/file', 'no', 'a number of the old system']]);
        $book->save();
        $this->post($document, ['file' => new UploadedFile($path, 'back.xlsx', null, null, true)])->assertRedirect();
        $list = ChangeList::query()->firstOrFail();
        self::assertSame(
            [
                ['L, name', 'Rule', 'open'],
                ['L, name', 'Note', 'open'],
                ['L, street', 'Left empty because', 'open'],
                ['L, town', 'Rule', 'void'],
                ['Rules, row 5', 'Field', 'void'],
                ['c, F', 'New value', 'open'],
                ['c, F', 'Note', 'open'],
                ['Codes, row 4', 'Crosswalk', 'void'],
                ['file, no', 'Left behind because', 'open'],
            ],
            array_map(fn ($c) => [$c->where, $c->part, $c->state->value], $list->changes),
        );
        $this->decidedOneByOne($document, $path, $list);
    }

    private function decidedOneByOne(string $document, string $path, ChangeList $list): void
    {
        // One of them is overtaken meanwhile.
        $this->put("$this->at/fields/street", ['expression' => 'name', 'version' => 1])->assertOk();
        $this->post("/m/{$this->migration->id}/changes/$list->id", [
            'do' => 'accept',
            'accept' => array_keys($list->changes),
        ]);
        self::assertSame(
            ['accepted', 'accepted', 'void', 'void', 'void', 'accepted', 'accepted', 'void', 'accepted'],
            array_map(fn ($c) => $c->state->value, $list->refresh()->changes),
        );
        self::assertStringContainsString('changed here since', (string) $list->changes[2]->problem);
        self::assertSame(
            ['tidy(name)', 'Names as people write them'],
            [$this->expression('name'), Rule::query()->where('field', 'name')->value('note')],
        );
        self::assertSame(
            ['FR', 'France'],
            [
                DB::table('code_entries')->where('old_value', 'F')->value('new_value'),
                DB::table('code_entries')->where('old_value', 'F')->value('note'),
            ],
        );
        self::assertSame('a number of the old system', ColumnDecision::query()->value('reason'));
        // What we wrote ourselves changes nothing.
        SpecificationWorkbook::write(new Specification($this->migration), $path);
        $this->post($document, ['file' => new UploadedFile($path, 'same.xlsx', null, null, true)]);
        self::assertSame([], ChangeList::query()->latest('id')->firstOrFail()->changes);
        self::assertStringContainsString(
            'no sheet "Rules"',
            (string) $this->post($document, ['file' => UploadedFile::fake()->createWithContent('x.csv', "a,b\n1,2\n")])
                ->getSession()
                ?->get('refused'),
        );
    }

    public function test_rules_of_an_earlier_migration_are_suggested(): void
    {
        $this->small();
        $other = Migration::query()->create(['name' => 'Later', 'target_name' => 'x', 'installation' => 'test']);
        $extract = $this->load->extract
            ->replicate(['source_id'])
            ->fill(['source_id' => $other->sources()->create(['code' => 'S', 'name' => 'S'])->id]);
        $extract->save();
        $entity = $other
            ->entities()
            ->create(['name' => 'party', 'position' => 1, 'definition' => $this->load->entity->definition]);
        $load = $other
            ->loads()
            ->create([
                'name' => 'Again',
                'entity_id' => $entity->id,
                'extract_id' => $extract->id,
                'position' => 1,
                'key_columns' => ['no'],
            ]);
        $page = $this->get("/m/$other->id/mapping/party?load=$load->id");
        $page->assertSee('accepted in Small, L')->assertSee("code('c', ctry)");
        $this->post("/m/$other->id/mapping/loads/$load->id/suggested", [
            'fields' => ['country', 'street'],
        ])->assertSessionHas('told');
        self::assertSame(['country'], Rule::query()->where('load_id', $load->id)->pluck('field')->all());
    }

    public function test_every_stop_before_anything_is_frozen(): void
    {
        $migration = $this->app->make(Headless::class)->import(self::smallDemo().'/plan.yaml');
        $this->actingAs($this->user(Role::Lead));
        foreach (
            [
                'sources',
                'target',
                'mapping',
                'crosswalks',
                'order',
                'runs',
                'rejects',
                'reconciliation',
                'mapping/document',
                'target/tables',
                'sources/feeds',
                'sources/references',
            ] as $stop
        ) {
            $this->get("/m/$migration->id/$stop")->assertOk();
        }
        foreach (
            ['sources', 'target', 'mapping', 'crosswalks', 'order', 'runs', 'rejects', 'reconciliation'] as $stop
        ) {
            foreach (['vessel', 'party', 'country'] as $entity) {
                $this->get("/m/$migration->id/$stop/$entity")->assertOk();
            }
        }
        $load = Load::query()->where('name', 'Vessels')->firstOrFail();
        foreach (['text', 'history', 'check'] as $part) {
            $this->get("/m/$migration->id/mapping/loads/$load->id/$part")->assertOk();
        }
        $this->get("/m/$migration->id/mapping/loads/$load->id/record/1")->assertNotFound();
        foreach (array_keys(\App\Mapping\Samples::KINDS) as $kind) {
            $this->get(
                "/m/$migration->id/mapping/vessel?load=$load->id&pick=$kind&column=craft_name&value=x",
            )->assertOk();
        }
        $this->post("/m/$migration->id/runs/rounds", [
            'name' => 'r-1',
            'kind' => 'rehearsal',
            'target' => $migration->targets()->value('id'),
        ])->assertSessionHas('refused');
    }

    public function test_two_people_and_one_without_the_right(): void
    {
        $this->small();
        $other = User::query()->create([
            'name' => 'Other',
            'email' => 'other@example.test',
            'password' => 'x',
        ]);
        Membership::give($other, Migration::query()->firstOrFail(), Role::Consultant);
        $this->put("$this->at/fields/name", ['expression' => 'upper(name)', 'version' => 1])->assertOk();
        $this->actingAs($other)
            ->put("$this->at/fields/name", ['expression' => 'lower(name)', 'version' => 1])
            ->assertStatus(409)
            ->assertSee('upper(name)');
        self::assertSame('upper(name)', $this->expression('name'));
        $this->actingAs($this->user(Role::Auditor));
        foreach (['/undo' => ['version' => 1], '/text' => ['text' => 'name = no', 'since' => 99]] as $path => $form) {
            $this->post($this->at.$path, $form)->assertForbidden();
        }
        $this->get("$this->at/text")
            ->assertOk()
            ->assertDontSee('Keep all of it');
        $this->post("/m/{$this->migration->id}/mapping/parameters", [
            'name' => 'x',
            'prompt' => 'x',
        ])->assertForbidden();
        $this->post("/m/{$this->migration->id}/mapping/document", [
            'file' => UploadedFile::fake()->createWithContent('x.xlsx', 'PK'),
        ])->assertForbidden();
        self::assertSame('upper(name)', $this->expression('name'));
    }
}
