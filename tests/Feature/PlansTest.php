<?php

namespace Tests\Feature;

use App\Mapping\RuleBook;
use App\Models\AuditEntry;
use App\Models\ChangeList;
use App\Models\CodeCrosswalk;
use App\Models\Extract;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Role;
use App\Models\Rule;
use App\Plans\Headless;
use App\Plans\PlanConflicts;
use App\Plans\PlanExporter;
use App\Rejects\Repairs;
use Baggage\Core\Plan\PlanError;
use Baggage\Core\Plan\PlanReader;
use Baggage\Core\Plan\PlanWriter;
use Illuminate\Http\UploadedFile;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Symfony\Component\Process\Process;
use Symfony\Component\Yaml\Yaml;
use Tests\Core\WrongPlansTest;
use Tests\TestCase;

/** Plans: refused whole, never over newer work, the same out and in again. */
final class PlansTest extends TestCase
{
    private function plan(string $csv = "no,name,kind\n1,Ardmore,A\n2,Bressay,B\n"): string
    {
        $plan = $this->smallPlan($csv, '{code: no, name: trim(name)}');
        file_put_contents($plan, "code_crosswalks: [{name: kinds, entries: {A: one, B: two}}]\n", FILE_APPEND);

        return $plan;
    }

    private function edit(string $plan, string $old, string $new): void
    {
        $text = (string) file_get_contents($plan);
        self::assertStringContainsString($old, $text);
        file_put_contents($plan, str_replace($old, $new, $text));
    }

    /** @return array{int, array<string, mixed>, string} exit code, result and standard error */
    private function run_(string $plan, string ...$options): array
    {
        $run = new Process([PHP_BINARY, 'artisan', 'baggage:run', $plan, '--round=r1', '--json=-', ...$options], base_path());
        $code = $run->run();

        return [$code, json_decode($run->getOutput(), true, 512, JSON_THROW_ON_ERROR), $run->getErrorOutput()];
    }

    private function onScreen(string $field, string $expression): void
    {
        $load = Load::query()->firstOrFail();
        $rule = Rule::query()->where('field', $field)->first();
        $this->app->make(RuleBook::class)->write($load, $field, $rule->version ?? 0, $expression, null, null, $this->user(Role::Lead));
    }

    public function test_a_rule_written_on_a_screen_outlives_the_plan_by_night(): void
    {
        $plan = $this->plan();
        self::assertSame(0, $this->run_($plan)[0]);
        $this->onScreen('name', 'upper(name)');
        $this->edit($plan, 'code: no', 'code: trim(no)');
        [$code, $result] = $this->run_($plan);
        self::assertSame([0, ['load L, field name']], [$code, $result['kept_from_screen']]);
        self::assertSame(
            ['code' => 'trim(no)', 'name' => 'upper(name)'],
            Rule::query()->orderBy('field')->pluck('expression', 'field')->all(),
        );
        // Now the file says otherwise too.
        $this->edit($plan, 'name: trim(name)', 'name: lower(name)');
        [$code, $result, $error] = $this->run_($plan);
        self::assertSame(2, $code);
        self::assertStringContainsString('load L, field name: the file says "lower(name)", the screen "upper(name)"', $error);
        self::assertSame([['load L, field name', ['rule' => 'lower(name)'], ['rule' => 'upper(name)']]], array_map(
            fn ($e) => [$e['field'], $e['in_file'], $e['on_screen']],
            $result['errors'],
        ));
        self::assertSame('upper(name)', Rule::query()->where('field', 'name')->value('expression'));
        self::assertSame(0, $this->run_($plan, '--overwrite')[0]);
        $rule = Rule::query()->where('field', 'name')->firstOrFail();
        self::assertSame(['lower(name)', 3], [$rule->expression, $rule->version]);
        // And from then on there is nothing to tell.
        [$code, $result] = $this->run_($plan);
        self::assertSame([0, []], [$code, $result['kept_from_screen']]);
        $audit = AuditEntry::query()->where('what', 'read a plan file')->orderBy('id')->get()->map(fn ($e) => $e->detail)->all();
        self::assertStringStartsWith('the command line, as ', $audit[0]['on']);
        self::assertSame(['load L, field name'], $audit[1]['kept from the screen']);
        self::assertSame(['load L, field name'], $audit[2]['over the screen']);
    }

    public function test_what_the_file_removes_goes_and_what_a_screen_adds_stays(): void
    {
        $plan = $this->plan();
        $headless = $this->app->make(Headless::class);
        $migration = $headless->import($plan);
        $migration->codeCrosswalks()->create(['name' => 'added'])->entries()->create(['old_value' => 'X', 'new_value' => 'Y']);
        $this->app->make(Repairs::class)->mapCode($migration, CodeCrosswalk::query()->where('name', 'kinds')->firstOrFail(), 'C', 'three');
        $this->edit($plan, 'B: two', 'D: four');
        $read = $headless->apply($headless->read($plan));
        self::assertSame(
            ['code crosswalk kinds, code C', 'code crosswalk added', 'code crosswalk added, code X'],
            $read->kept,
        );
        $kinds = CodeCrosswalk::query()->where('name', 'kinds')->firstOrFail();
        self::assertEquals(['A' => 'one', 'C' => 'three', 'D' => 'four'], $kinds->entries()->pluck('new_value', 'old_value')->all());
        // What the screen changed and the file removes is told.
        $this->app->make(Repairs::class)->mapCode($migration, $kinds, 'A', 'first');
        $this->edit($plan, 'A: one, ', '');
        try {
            $headless->import($plan);
            self::fail('imported');
        } catch (PlanConflicts $e) {
            self::assertStringContainsString('kinds, code A: the file says nothing, the screen "first"', $e->getMessage());
        }
        self::assertSame('first', $kinds->entries()->where('old_value', 'A')->value('new_value'));
        // The history of a code: what it was, what it became, by whom, and the way back.
        $said = fn (string $old) => DB::table('code_versions')->where('old_value', $old)->orderBy('id')->pluck('new_value')->all();
        self::assertSame([['one', 'first'], ['three'], ['two', null]], [$said('A'), $said('C'), $said('B')]);
        $this->codesGoBack($migration, $kinds);
    }

    private function codesGoBack(Migration $migration, CodeCrosswalk $kinds): void
    {
        $this->actingAs($this->user(Role::Reviewer));
        $history = "/m/$migration->id/crosswalks/codes/$kinds->id/history";
        $this->get($history)->assertOk()->assertReads('no entry');
        $first = fn (string $old) => DB::table('code_versions')->where('old_value', $old)->min('id');
        foreach (['A', 'B'] as $value) {
            $this->post("$history/".$first($value))->assertRedirect($history);
        }
        self::assertEquals(
            ['A' => 'one', 'B' => 'two', 'C' => 'three', 'D' => 'four'],
            $kinds->entries()->pluck('new_value', 'old_value')->all(),
        );
        $this->get("$history?old=A")->assertOk()->assertReads('kinds, "A": what the codes said');
        $other = CodeCrosswalk::query()->where('name', 'added')->value('id');
        $this->post("/m/$migration->id/crosswalks/codes/$other/history/".$first('A'))->assertNotFound();
    }

    public function test_a_name_in_other_capitals_is_a_new_name_to_rules(): void
    {
        $plan = $this->plan("no,name,Name,kind\n1,Ardmore,x,A\n");
        $this->edit($plan, 'name: trim(name)', "name: \"code('kinds', kind)\"");
        $this->edit($plan, 'file: file.csv', 'file: file.csv, allow_empty: false, left_behind: {name: first, Name: second}');
        $headless = $this->app->make(Headless::class);
        $headless->import($plan);
        self::assertSame([], $headless->apply($headless->read($plan))->kept);
        self::assertSame(2, DB::table('column_decisions')->count());
        $names = ['name: kinds' => 'name: Kinds', "code('kinds'" => "code('Kinds'", 'name: L,' => 'name: l,', 'name: file' => 'name: File'];
        foreach ($names as $old => $new) {
            $this->edit($plan, $old, $new);
        }
        $this->edit($plan, 'S/file', 'S/File');
        self::assertSame([], $headless->apply($headless->read($plan))->kept);
        self::assertSame(0, $this->run_($plan)[0]);
        self::assertSame([['one']], $this->targetRows('SELECT name FROM harbour'));
    }

    public function test_a_plan_with_mistakes_changes_nothing_and_names_them_all(): void
    {
        $plan = $this->plan();
        $headless = $this->app->make(Headless::class);
        $migration = $headless->import($plan);
        $before = (new PlanWriter)->write((new PlanExporter)->export($migration));
        $this->edit($plan, 'code: no', 'code: upper(nr)');
        $this->edit($plan, 'name: trim(name)', "name: \"code('kids', kind)\"");
        $this->edit($plan, 'A: one', 'A: uno');
        [$code, $result, $error] = $this->run_($plan);
        self::assertSame(2, $code);
        self::assertSame(
            [[5, 'loads.0.fields.code'], [5, 'loads.0.fields.name']],
            array_map(fn ($e) => [$e['line'], $e['field']], $result['errors']),
        );
        self::assertSame([70, 87], array_map(fn ($e) => $e['column'], $result['errors']), $error);
        self::assertSame($before, (new PlanWriter)->write((new PlanExporter)->export($migration->refresh())));
        self::assertSame([0, 0], [DB::table('takes')->count(), DB::table('rounds')->count()]);
        // A file that cannot be opened for its header is told when it is frozen; columns nobody knew are looked at before the pass.
        $this->edit($plan, 'upper(nr)', 'no');
        $this->edit($plan, "\"code('kids', kind)\"", 'trim(colour)');
        file_put_contents(dirname($plan).'/file.csv', '');
        self::assertSame(2, $this->run_($plan)[0]);
        self::assertSame(0, DB::table('rounds')->count());
    }

    public function test_a_feed_whose_columns_are_not_known_yet_is_looked_at_before_anything_is_written(): void
    {
        $plan = $this->plan();
        $this->edit($plan, '{name: file, file: file.csv}', '{name: file, file: file.csv}, {name: kinds, reader: {kind: feed, combined: '
            .'distinct, of: [S/file], distinct: [kind]}}');
        $this->edit($plan, 'from: S/file, key: [no], fields: {code: no,', 'from: S/kinds, key: [kind], fields: {code: no,');
        [$code, $result] = $this->run_($plan);
        self::assertSame([2, 'loads.0.fields.code'], [$code, $result['errors'][0]['field']], json_encode($result) ?: '');
        self::assertSame([0, [['0']]], [DB::table('rounds')->count(), $this->targetRows('SELECT COUNT(*) FROM harbour')]);
    }

    public function test_another_reader_makes_a_new_take_of_the_same_bytes(): void
    {
        $plan = $this->plan("no,name,kind\n1,M\xB3ller,A\n");
        $this->edit($plan, 'file: file.csv}', 'file: file.csv, reader: {encoding: CP437}}');
        $this->run_($plan);
        self::assertSame([['M│ller']], $this->targetRows('SELECT name FROM harbour'));
        $this->edit($plan, 'CP437', 'ISO-8859-2');
        [$code, $result] = $this->run_($plan);
        self::assertSame([1, 2], [$code, DB::table('takes')->count()]);
        self::assertSame('S/file', $result['newer_takes'][0]['name']);
        $this->target()->exec('DELETE FROM harbour');
        $this->run_($plan, '--round=r2');
        self::assertSame([['Młller']], $this->targetRows('SELECT name FROM harbour'));
        $this->run_($plan, '--round=r2');
        self::assertSame(2, DB::table('takes')->count());
    }

    public function test_an_extract_without_rows_is_right_where_the_plan_says_so(): void
    {
        $plan = $this->plan("no,name,kind\n");
        [$code, , $error] = $this->run_($plan);
        self::assertSame(2, $code);
        self::assertStringContainsString('no rows', $error);
        $this->edit($plan, 'file: file.csv}', 'file: file.csv, allow_empty: true}');
        [$code, $result] = $this->run_($plan);
        self::assertSame([0, 0, true], [$code, $result['loads'][0]['feed_rows'], $result['proofs_hold']]);
        self::assertTrue(Extract::query()->firstOrFail()->allow_empty);
        $exported = (new PlanExporter)->export(Migration::query()->firstOrFail());
        self::assertStringContainsString('allow_empty: true', (new PlanWriter)->write($exported));
    }

    public function test_standard_output_is_json_whatever_happens(): void
    {
        $plan = $this->plan();
        foreach (
            [
                [['/nowhere/plan.yaml'], 'there is no such file'],
                [[$plan, '--workers=9'], '--workers is a number from 1 to 8'],
                [[$plan, '--target=nowhere'], 'no connection named "nowhere"'],
                [[$plan, '--set=x'], 'write --set=name=value'],
                [[$plan, '--without=nobody'], 'no load named "nobody"'],
                [[$plan, '--nothing'], 'option does not exist'],
                [[], 'missing: "plan"'],
            ] as [$arguments, $says]
        ) {
            $run = new Process([PHP_BINARY, 'artisan', 'baggage:run', ...$arguments, '--json=-'], base_path());
            self::assertSame(2, $run->run());
            $result = json_decode($run->getOutput(), true, 512, JSON_THROW_ON_ERROR);
            self::assertStringContainsString($says, $result['errors'][0]['message']);
            self::assertStringContainsString($says, $run->getErrorOutput());
        }
    }

    /** What somebody typed on a screen is never sent the secret the file names, nor filled in from the environment. */
    public function test_a_connection_changed_on_a_screen_gets_no_secret_of_the_file(): void
    {
        $plan = $this->plan();
        $headless = $this->app->make(Headless::class);
        $migration = $headless->import($plan);
        $target = $migration->targets()->firstOrFail();
        $this->actingAs($this->user(Role::Consultant));
        $way = ['name' => 'r', 'port' => '3306', 'database' => 'x', 'username' => 'u', 'password' => ''];
        $this->post("/m/$migration->id/connections/$target->id", ['host' => '127.0.0.9'] + $way)->assertRedirect();
        $typed = fn (): array => array_values($target->refresh()->only(['host', 'password_env', 'from_command_line']));
        self::assertSame(['127.0.0.9', null, false], $typed());
        [$code, , $error] = $this->run_($plan);
        self::assertSame(2, $code, 'the target that was typed does not answer');
        self::assertStringNotContainsString((string) getenv('HARBOUR_OFFICE_PASSWORD'), $error);
        self::assertSame(['127.0.0.9', null, false], $typed());
        $target->forceFill(['host' => '${HARBOUR_OFFICE_PASSWORD}.example'])->saveQuietly();
        self::assertSame(2, $this->run_($plan)[0]);
        self::assertSame(['${HARBOUR_OFFICE_PASSWORD}.example', null, false], $typed());
    }

    public function test_a_connection_the_file_no_longer_has_goes_and_one_of_the_screen_stays(): void
    {
        $plan = $this->plan();
        $headless = $this->app->make(Headless::class);
        $migration = $headless->import($plan);
        $migration->targets()->create(['name' => 'typed', 'host' => 'h', 'port' => '3306', 'database' => 'd', 'username' => 'u']);
        $one = 'password_env: HARBOUR_OFFICE_PASSWORD}]';
        $two = 'password_env: HARBOUR_OFFICE_PASSWORD}, {name: second, host: h, database: d, username: u}]';
        $this->edit($plan, $one, $two);
        $headless->import($plan);
        self::assertSame(['r', 'typed', 'second'], $migration->targets()->orderBy('id')->pluck('name')->all());
        $this->edit($plan, $two, $one);
        self::assertSame(['target, connection typed'], $headless->apply($headless->read($plan))->kept);
        self::assertSame(['r', 'typed'], $migration->targets()->orderBy('id')->pluck('name')->all());
    }

    public function test_a_migration_begun_on_a_screen_goes_out_and_comes_in(): void
    {
        $this->actingAs($this->user(Role::Lead));
        $migration = $this->demoMigration(dirname($this->plan()), true);
        $migration->targets()->create(
            ['name' => 'by hand', 'host' => 'db', 'port' => '3306', 'database' => 'x', 'username' => 'u', 'password' => 'secret'],
        );
        $migration->sources()->create(['code' => 'A-B', 'name' => 'On a screen']);
        $yaml = (new PlanWriter)->write((new PlanExporter)->export($migration));
        self::assertStringNotContainsString('secret', $yaml);
        $said = (new PlanReader)->read($yaml, 'exported.yaml')->plan;
        self::assertSame('BAGGAGE_SECRET_BY_HAND', $said['target']['connections'][1]['password_env']);
        $this->tearDown();
        $this->setUp();
        file_put_contents($path = self::work('small').'/exported.yaml', $yaml);
        $this->app->make(Headless::class)->import($path);
        self::assertSame($yaml, (new PlanWriter)->write((new PlanExporter)->export(Migration::query()->firstOrFail())));
    }

    /** Random plans over the stand-in's entities: out, in and out again are the same bytes. */
    public function test_random_plans_go_out_and_come_in_byte_by_byte(): void
    {
        $headless = $this->app->make(Headless::class);
        $random = new Randomizer(new Mt19937(5));
        for ($n = 0, $most = (int) (getenv('SEEDS') ?: 5); $n < $most; $n++) {
            $plan = $this->random($random, $n);
            $folder = self::work("random-$n");
            @mkdir($folder, 0777, true);
            file_put_contents("$folder/a.csv", "no,name,kind,Owner No.\n1,x,A,7\n");
            file_put_contents("$folder/plan.yaml", Yaml::dump($plan, 6));
            $migration = $headless->import("$folder/plan.yaml");
            $yaml = (new PlanWriter)->write((new PlanExporter)->export($migration));
            $again = str_replace("migration: 'Random $n'", "migration: 'Again $n'", $yaml);
            self::assertNotSame($yaml, $again);
            file_put_contents("$folder/again.yaml", $again);
            $other = $headless->import("$folder/again.yaml");
            self::assertSame($again, (new PlanWriter)->write((new PlanExporter)->export($other)));
            // And the file it came from finds nothing to do.
            self::assertSame([], $headless->apply($headless->read("$folder/plan.yaml"))->kept);
            self::assertSame($yaml, (new PlanWriter)->write((new PlanExporter)->export($migration->refresh())));
        }
    }

    /** @return array<string, mixed> */
    private function random(Randomizer $random, int $n): array
    {
        $maybe = fn (mixed $value) => $random->getInt(0, 1) === 1 ? $value : null;
        $texts = ['plain', 'two words', 'with: colon', "it's", '"quoted"', "two\nlines", '007', 'null', 'yes', '# no', 'ø Å'];
        $text = fn () => $texts[$random->getInt(0, 10)];
        $codes = [];
        for ($i = $random->getInt(0, 6); $i > 0; $i--) {
            $codes[$text()." $i"] = $maybe($text());
        }
        $otherwise = [null, 'empty', 'value'][$random->getInt(0, 2)];

        return self::filled([
            'baggage' => 1,
            'migration' => "Random $n",
            'target' => self::targetOfPlan(),
            'sources' => [self::filled([
                'code' => 'S-1',
                'name' => $text(),
                'notes' => $maybe($text()),
                ...$this->randomWays($maybe, $text),
            ])],
            'code_crosswalks' => [self::filled([
                'name' => 'codes',
                'entries' => $codes,
                'rejected' => $maybe([$text().' 99']),
                'otherwise' => $otherwise,
                'otherwise_value' => $otherwise === 'value' ? $text() : null,
                'note' => $maybe($text()),
            ])],
            'parameters' => $maybe(['day' => self::filled(['prompt' => $text(), 'default' => $maybe($text())])]),
            'match_rules' => [['entity' => 'harbour', 'name' => 'by code', 'on' => ['code' => 'digits']]],
            'loads' => array_map(fn (string $name) => $this->randomLoad($random, $name, $maybe, $text), ['One', 'Two', 'Three']),
        ]);
    }

    /**
     * Extracts with what they are read through and what they refer to.
     *
     * @param  \Closure(mixed): mixed  $maybe
     * @param  \Closure(): string  $text
     * @return array<string, mixed>
     */
    private function randomWays(\Closure $maybe, \Closure $text): array
    {
        $old = ['name' => 'old', 'driver' => 'mysql', 'host' => 'depot', 'port' => $maybe(3307), 'database' => 'd', 'username' => 'u'];
        $ways = $maybe([
            self::filled($old + ['password_env' => $maybe('BAGGAGE_SECRET_OLD'), 'notes' => $maybe($text())]),
            ['name' => 'web', 'driver' => 'http', 'host' => 'http://127.0.0.1:9/x'],
        ]);
        $paged = ['kind' => 'http', 'connection' => 'web', 'path' => '/y', 'paging' => 'number', 'page_parameter' => 'p'];

        return [
            'connections' => $ways,
            'references' => $maybe([self::filled(
                ['from' => 'a', 'columns' => ['Owner No.'], 'to' => 'S-1/a', 'key' => ['no'], 'is' => $maybe('dismissed')],
            )]),
            'extracts' => [
                $this->randomExtract($maybe, $text),
                ['name' => 'made', 'reader' => ['kind' => 'feed', 'combined' => 'distinct', 'of' => ['S-1/a'], 'distinct' => ['kind']]],
                ...$ways === null ? [] : [
                    ['name' => 'table', 'reader' => ['kind' => 'database', 'connection' => 'old', 'table' => 'x']],
                    ['name' => 'paged', 'reader' => $paged],
                ],
            ],
        ];
    }

    /**
     * @param  \Closure(mixed): mixed  $maybe
     * @param  \Closure(): string  $text
     * @return array<string, mixed>
     */
    private function randomExtract(\Closure $maybe, \Closure $text): array
    {
        return self::filled([
            'name' => 'a',
            'file' => 'a.csv',
            'reader' => $maybe(['delimiter' => ',', 'encoding' => 'UTF-8']),
            'row_key' => $maybe(['no']),
            'left_behind' => $maybe(['name' => $text()]),
            'not_loaded' => $maybe($text()),
            'findings' => $maybe([
                ['finding' => 'round_count', 'is' => 'accepted'],
                ['finding' => 'x', 'column' => 'no', 'is' => 'by_rule'],
            ]),
        ]);
    }

    /**
     * @param  \Closure(mixed): mixed  $maybe
     * @param  \Closure(): string  $text
     * @return array<string, mixed>
     */
    private function randomLoad(Randomizer $random, string $name, \Closure $maybe, \Closure $text): array
    {
        $scope = $maybe("kind != 'x'");

        return self::filled([
            'name' => $name,
            'entity' => 'harbour',
            'from' => 'S-1/a',
            'key' => [['no'], ['name', 'no'], ['Owner No.']][$random->getInt(0, 2)],
            'key_space' => "K$name",
            'key_compared' => $maybe('capitals'),
            'scope' => $scope,
            'scope_reason' => $scope === null ? null : $text(),
            'policy' => [null, 'create', 'create_or_update'][$random->getInt(0, 2)],
            'match' => [null, ['by code'], ['code' => 'exact'], ['name' => 'letters']][$random->getInt(0, 3)],
            'note' => $maybe($text()),
            'fields' => [
                'code' => $maybe('no') ?? ['rule' => "row['Owner No.']", 'note' => $text()],
                'name' => "code('codes', kind)",
            ],
        ]);
    }

    /**
     * @param  array<string, mixed>  $a
     * @return array<string, mixed>
     */
    private static function filled(array $a): array
    {
        return array_filter($a, fn ($v) => $v !== null);
    }

    public function test_a_plan_read_on_a_screen_is_looked_at_change_by_change(): void
    {
        $lead = $this->user(Role::Lead);
        $this->actingAs($lead);
        $plan = $this->plan();
        $headless = $this->app->make(Headless::class);
        $migration = $headless->import($plan);
        $headless->freeze($migration, $plan, fn () => null);
        $this->onScreen('name', 'upper(name)');
        $this->edit($plan, '{code: no, name: trim(name)}', '{code: trim(no), name: lower(name)}');
        $this->edit($plan, 'B: two', 'B: second, C: third');
        $send = fn () => $this->post('/plans', [
            'plan' => UploadedFile::fake()->createWithContent('p.yaml', (string) file_get_contents($plan)),
        ]);
        $send()->assertRedirect("/m/$migration->id/changes/1");
        $list = ChangeList::query()->findOrFail(1);
        self::assertSame(
            [
                ['load L', 'field code', 'no', 'trim(no)'],
                ['load L', 'field name (changed here too)', 'upper(name)', 'lower(name)'],
                ['code crosswalk kinds', 'code B', 'two', 'second'],
                ['code crosswalk kinds', 'code C', '', 'third'],
            ],
            array_map(fn ($c) => [$c->where, $c->part, $c->from, $c->to], $list->changes),
        );
        $this->get("/m/$migration->id/changes/1")->assertOk()->assertReads('4 changes, 4 to be decided');
        $this->decidedWhileAnotherChangesACode($migration, $list, $send);
        self::assertSame($lead->id, AuditEntry::query()->where('what', 'read a plan file')->latest('id')->value('user_id'));
        $this->actingAs($this->user(Role::Auditor));
        $this->post("/m/$migration->id/changes/1", ['do' => 'accept', 'accept' => [1]])->assertForbidden();
        $send()->assertForbidden();
    }

    private function decidedWhileAnotherChangesACode(Migration $migration, ChangeList $list, \Closure $send): void
    {
        $kinds = CodeCrosswalk::query()->firstOrFail();
        $this->app->make(Repairs::class)->mapCode($migration, $kinds, 'B', 'deux');
        $this->post("/m/$migration->id/changes/1", ['do' => 'accept', 'accept' => [0, 2, 3]])->assertSessionHas('told', '2 changes made.');
        self::assertSame(
            ['code' => 'trim(no)', 'name' => 'upper(name)'],
            Rule::query()->orderBy('field')->pluck('expression', 'field')->all(),
        );
        self::assertEquals(['A' => 'one', 'B' => 'deux', 'C' => 'third'], $kinds->entries()->pluck('new_value', 'old_value')->all());
        self::assertSame(
            ['accepted', 'refused', 'void', 'accepted'],
            array_map(fn ($c) => $c->state->value, $list->refresh()->changes),
        );
        $this->post("/m/$migration->id/changes/1", ['do' => 'accept', 'accept' => [1]])->assertSessionHas('refused');
        // What was refused is the screen's from now on: the file has said its word, and says it again in vain.
        $send();
        self::assertSame([], ChangeList::query()->findOrFail(2)->changes);
    }

    public function test_a_long_plan_is_read_by_a_worker_in_the_name_of_who_sent_it(): void
    {
        $lead = $this->user(Role::Lead);
        $this->actingAs($lead);
        $plan = $this->plan();
        $migration = $this->app->make(Headless::class)->import($plan);
        $entries = implode(', ', array_map(fn ($i) => "K$i: a value of number $i", range(1, 9_000)));
        $this->edit($plan, 'B: two', "B: two, $entries");
        $send = fn (string $text) => $this->post('/plans', ['plan' => UploadedFile::fake()->createWithContent('p.yaml', $text)]);
        $send((string) file_get_contents($plan))->assertSessionHas('told');
        $list = ChangeList::query()->firstOrFail();
        self::assertSame(['9,000 entries as in p.yaml'], array_map(fn ($c) => $c->to, $list->changes));
        $this->get('/')->assertOk()->assertReads('p.yaml was read: its changes are listed.');
        $this->post("/m/$migration->id/changes/$list->id", ['do' => 'accept', 'accept' => [0]])->assertSessionHas('told');
        self::assertSame(9_002, DB::table('code_entries')->count());
        $this->get('/')->assertReads('p.yaml was applied: 1 changes made.');
        self::assertSame($lead->id, AuditEntry::query()->where('what', 'read a plan file')->latest('id')->value('user_id'));
        $send((string) file_get_contents($plan).'(')->assertSessionHas('told');
        $this->get('/')->assertReads('p.yaml, line');
    }

    public function test_thousands_of_codes_are_applied_in_bulk(): void
    {
        $plan = $this->plan();
        $entries = '';
        for ($i = 0; $i < 6_000; $i++) {
            $entries .= "      K$i: new value $i\n";
        }
        file_put_contents($plan, str_replace(
            'code_crosswalks: [{name: kinds, entries: {A: one, B: two}}]',
            "code_crosswalks:\n  - name: kinds\n    entries:\n$entries",
            (string) file_get_contents($plan),
        ));
        $headless = $this->app->make(Headless::class);
        $queries = 0;
        DB::listen(function () use (&$queries) {
            $queries++;
        });
        $headless->import($plan);
        self::assertSame(6_000, DB::table('code_entries')->count());
        self::assertLessThan(120, $queries);
        $this->edit($plan, 'K7: new value 7', 'K7: another');
        $headless->import($plan);
        self::assertSame(['new value 7', 'another'], DB::table('code_versions')->orderBy('id')->pluck('new_value')->all());
    }

    public function test_causes_of_the_result_are_grouped_with_all_their_rows(): void
    {
        $rows = '';
        for ($i = 1; $i <= 60; $i++) {
            $rows .= sprintf("%d,%s,%s\n", $i, $i % 10 === 0 ? '' : "Name $i", $i % 2 === 0 ? 'A' : "Z$i");
        }
        $plan = $this->plan("no,name,kind\n$rows");
        $this->edit($plan, 'code: no', "code: \"code('kinds', kind) ~ no\"");
        [$code, $result] = $this->run_($plan);
        self::assertSame(1, $code);
        $causes = $result['loads'][0]['causes'];
        self::assertSame(
            [['no_new_value', 'code', 30, 20, 10], ['required', 'name', 6, 1, 0]],
            array_map(fn ($c) => [$c['code'], $c['field'], $c['rows'], count($c['values']), $c['more_values']], $causes),
        );
        self::assertSame($result['loads'][0]['outcomes']['rejected'], array_sum(array_column($causes, 'rows')));
    }

    /** @return array{string, string} the plan of tests/Core/WrongPlansTest for a target that is there, and the folder of its files */
    private function shop(string $database): array
    {
        foreach (
            [
                'customer (id INT AUTO_INCREMENT PRIMARY KEY, name VARCHAR(60) NOT NULL, country VARCHAR(60), since DATE)',
                'bill (id INT AUTO_INCREMENT PRIMARY KEY, number VARCHAR(60) NOT NULL, customer INT NOT NULL, issued DATE, '
                    ."note VARCHAR(60), FOREIGN KEY (customer) REFERENCES $database.customer (id))",
                'line (id INT AUTO_INCREMENT PRIMARY KEY, bill INT NOT NULL, amount VARCHAR(60), '
                    ."FOREIGN KEY (bill) REFERENCES $database.bill (id))",
                'pairs (a INT, b INT, PRIMARY KEY (a, b))',
            ] as $table
        ) {
            DB::unprepared("CREATE TABLE $database.$table");
        }
        $folder = self::work('wrong');
        @mkdir($folder, 0777, true);
        file_put_contents("$folder/customers.csv", "NO;NAME;COUNTRY;SINCE;FAX;TOWN\n1;a;D;01/02/1999;;X\n");
        file_put_contents("$folder/bills.csv", "x\nx\nYEAR,NO,LINE,CUST,DAY,STATUS\n1,1,1,1,01.02.99,ok\n");
        $plan = strtr(WrongPlansTest::PLAN, [
            'port: 3306' => 'port: '.getenv('HARBOUR_OFFICE_PORT'),
            'database: till' => "database: $database",
            'username: loader' => 'username: harbour',
            'BAGGAGE_SECRET_TILL' => 'HARBOUR_OFFICE_PASSWORD',
        ]);

        return [$plan, $folder];
    }

    /** Each of tests/Core/WrongPlansTest, by the command: exit code 2, and nothing is otherwise afterwards. */
    public function test_a_hundred_wrong_plans_change_nothing(): void
    {
        [$plan, $folder] = $this->shop($database = self::emptyOther());
        file_put_contents("$folder/plan.yaml", $plan);
        $migration = $this->app->make(Headless::class)->import("$folder/plan.yaml");
        $says = fn () => [(new PlanWriter)->write((new PlanExporter)->export($migration->refresh())), AuditEntry::query()->count()];
        $before = $says();
        $more = [['entity: line', 'entity: pairs', 'its primary key has 2 columns']];
        foreach ([...WrongPlansTest::edits(), ...$more] as [$old, $new, $why]) {
            if (str_contains($plan, $old)) {
                file_put_contents("$folder/plan.yaml", substr_replace($plan, $new, (int) strpos($plan, $old), strlen($old)));
                $json = "$folder/result.json";
                self::assertSame(2, Artisan::call('baggage:run', ['plan' => "$folder/plan.yaml", '--json' => $json]), "$old => $new");
                $told = implode("\n", array_column(json_decode((string) file_get_contents($json), true)['errors'], 'message'));
                self::assertStringContainsStringIgnoringCase($why, $told);
            }
        }
        self::assertSame($before, $says());
        self::assertSame([0, 0], [DB::table('takes')->count(), DB::table('rounds')->count()]);
    }

    public function test_a_wrong_plan_on_a_screen_is_a_message_and_no_fault(): void
    {
        $this->actingAs($this->user(Role::Lead));
        foreach (['(((((', 'baggage: .inf', "a: &a [x]\nb: [*a]", '{New York: NY}', "\xFF\xFE", '[]', str_repeat('[', 5000)] as $bytes) {
            $this->post('/plans', ['plan' => UploadedFile::fake()->createWithContent('p.yaml', $bytes)])->assertRedirect();
            self::assertNotEmpty(session('refused') ?? session('errors'), $bytes);
        }
        self::assertSame(0, Migration::query()->count());
        $this->expectException(PlanError::class);
        $this->app->make(Headless::class)->import('/etc/hostname');
    }
}
