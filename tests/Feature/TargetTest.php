<?php

namespace Tests\Feature;

use App\Models\ChangeList;
use App\Models\Entity;
use App\Models\Migration;
use App\Models\Role;
use App\Plans\Headless;
use App\Plans\PlanExporter;
use App\Targets\OtherSchemas;
use Baggage\Core\Targets\Field;
use Illuminate\Http\UploadedFile;
use Tests\TestCase;

final class TargetTest extends TestCase
{
    private Migration $migration;

    protected function setUp(): void
    {
        parent::setUp();
        $plan = $this->smallPlan(
            "no,name,born,sum,note\n1,a,2003-02-28,1.50,paid\n2,b,1999-12-31,2.25,open\n",
            '{code: no, name: name}',
        );
        $headless = $this->app->make(Headless::class);
        $headless->freeze($this->migration = $headless->import($plan), $plan, fn () => null);
        $this->actingAs($this->user(Role::Consultant));
    }

    /** @return array<string, string> */
    private static function said(\Baggage\Core\Targets\Entity $entity): array
    {
        return array_map(fn (Field $f) => $f->describe().($f->assigned ? ', assigned' : ''), $entity->fields);
    }

    public function test_a_description_is_compared_taken_over_and_its_tables_are_made(): void
    {
        $m = "/m/{$this->migration->id}";
        $sheet = 'Entity,Field,Type,Length,Required,Unique,References,Allowed '
                ."values,Default,Note\nharbour,id,assigned,,,key,,,,\nharbour,code,text,8,yes,yes,,,,\n"
                ."harbour,title,text,80,yes,,,,,was name\nquay,code,text,12,yes,yes,,,,\n"
                ."quay,harbour,,,yes,,harbour,,,\nquay,kind,,,,,,stone;timber,stone,\nquay,part_of,,,,,quay,,,\nquay,built,date,,,,,,,\n";
        $this->post("$m/target/describe", [
            'from' => 'file',
            'file' => UploadedFile::fake()->createWithContent('target.csv', $sheet),
        ])->assertRedirect();
        self::assertNotContains(
            'removed',
            array_column(
                array_filter(ChangeList::query()->firstOrFail()->changes, fn ($c) => $c->data['field'] === null),
                'part',
            ),
            'what the file does not speak of stays',
        );
        $this->post("$m/target/describe", [
            'from' => 'file',
            'whole' => 1,
            'file' => UploadedFile::fake()->createWithContent('target.csv', $sheet),
        ])->assertRedirect();
        self::assertContains(
            'removed',
            array_column(
                array_filter(
                    ChangeList::query()->latest('id')->firstOrFail()->changes,
                    fn ($c) => $c->data['field'] === null,
                ),
                'part',
            ),
        );
        $this->takenOverAsAWhole($m);
    }

    private function takenOverAsAWhole(string $m): void
    {
        $list = ChangeList::query()->firstOrFail();
        $page = $this->get("$m/changes/$list->id");
        $page
            ->assertSee('harbour, name')
            ->assertSee('L, name')
            ->assertSee('quay')
            ->assertSee('Take the description over');
        self::assertNull(Entity::query()->where('name', 'quay')->first(), 'nothing counts before it is taken over');
        $this->post("$m/changes/$list->id")->assertSessionHas('told');
        $this->post("$m/changes/$list->id")->assertSessionHas('refused');
        self::assertSame(
            [
                'id' => 'whole number, assigned',
                'code' => 'text 12, required',
                'harbour' => 'harbour, required',
                'kind' => 'one of 2, default stone',
                'part_of' => 'quay',
                'built' => 'date',
            ],
            self::said(Entity::query()->where('name', 'quay')->firstOrFail()->described()),
        );
        $this->get("$m/mapping/harbour")->assertSee('has no field', false);
        $this->tablesAreMade($m);
    }

    private function tablesAreMade(string $m): void
    {
        // What the database does not have is made, the statements shown first.
        $this->get("$m/target/tables?prefix=new_")
            ->assertSee('CREATE TABLE `new_quay`', false)
            ->assertSee('FOREIGN KEY', false);
        $this->actingAs($this->user(Role::Auditor))
            ->post("$m/target/tables", ['target' => 1, 'entities' => ['quay']])
            ->assertForbidden();
        $this->actingAs($this->user(Role::Consultant));
        $target = $this->migration->targets()->value('id');
        $this->post("$m/target/tables", [
            'target' => $target,
            'entities' => ['quay'],
            'prefix' => 'new_',
        ])->assertSessionHas('told');
        self::assertNotNull(Entity::query()->where('name', 'new_quay')->first());
        // What the database says of them is what was described.
        $this->post("$m/target/read")->assertRedirect("$m/changes/".ChangeList::query()->max('id'));
        $this->post("$m/changes/".ChangeList::query()->max('id'))->assertSessionHas('told');
        $this->post("$m/target/read")->assertSessionHas('told');
        self::assertSame(
            [
                'id' => 'whole number, assigned',
                'code' => 'text 12, required',
                'harbour' => 'harbour, required',
                'kind' => 'one of 2, default stone',
                'part_of' => 'new_quay',
                'built' => 'date',
            ],
            self::said(Entity::query()->where('name', 'new_quay')->firstOrFail()->described()),
        );
        $this->target()->exec(
            "INSERT INTO harbour (code, name) VALUES ('A', 'a'); INSERT INTO new_quay (code, harbour) VALUES ('q', 1)",
        );
        self::assertSame([['stone']], $this->targetRows('SELECT kind FROM new_quay'));
        $this->target()->exec('DROP TABLE new_quay');
    }

    public function test_a_failing_statement_leaves_nothing_behind(): void
    {
        $m = "/m/{$this->migration->id}";
        $long = str_repeat('x', 63);
        $sheet = "Entity,Field,References\none,a,\ntwo,$long,\ntwo,b{$long}y,one\n";
        $this->post("$m/target/describe", [
            'from' => 'file',
            'file' => UploadedFile::fake()->createWithContent('target.csv', $sheet),
        ])->assertSessionHas('refused');
        $many = "Entity,Field,Type,Length\none,a,,\n"
            .implode("\n", array_map(fn ($i) => "two,f$i,text,4000", range(1, 8)))."\n";
        $this->post("$m/target/describe", [
            'from' => 'file',
            'file' => UploadedFile::fake()->createWithContent('target.csv', $many),
        ]);
        $this->post("$m/changes/".ChangeList::query()->value('id'));
        $this->post("$m/target/tables", [
            'target' => $this->migration->targets()->value('id'),
            'entities' => ['one', 'two'],
        ])->assertSessionHas('refused');
        self::assertSame([], $this->targetRows("SHOW TABLES LIKE 'one'"));
    }

    public function test_the_shape_of_an_extract(): void
    {
        $m = "/m/{$this->migration->id}";
        $extract = \App\Models\Extract::query()->value('id');
        $this->post("$m/target/describe", [
            'from' => 'extract',
            'extract' => $extract,
            'name' => 'Not So',
        ])->assertSessionHasErrors('name');
        $this->post("$m/target/describe", [
            'from' => 'extract',
            'extract' => $extract,
            'name' => 'archive',
        ])->assertRedirect();
        $list = ChangeList::query()->firstOrFail();
        self::assertSame(['archive'], array_column($list->changes, 'where'), 'what is there already stays');
        $this->post("$m/changes/$list->id");
        self::assertSame(
            [
                'id' => 'whole number, assigned',
                'no' => 'whole number',
                'name' => 'text 40',
                'born' => 'date',
                'sum' => 'decimal 18,4',
                'note' => 'text 40',
            ],
            self::said(Entity::query()->where('name', 'archive')->firstOrFail()->described()),
        );
    }

    public function test_files_that_describe_nothing(): void
    {
        $m = "/m/{$this->migration->id}/target/describe";
        foreach (
            [
                'x.json' => ['{"a":', 'x.json is not JSON'],
                'y.json' => ['{"info":{}}', 'no object with properties'],
                'z.yaml' => ["a: [1\n", 'z.yaml is not YAML'],
                'a.csv' => ["Thing,Field\na,b\n", 'no column "Entity"'],
                'b.csv' => ["Entity,Field,Type\na,b,hue\n", '"hue" is no type'],
                'c.csv' => ['', 'empty'],
            ] as $name => [$text, $says]
        ) {
            self::assertStringContainsString(
                $says,
                (string) $this->post($m, [
                    'from' => 'file',
                    'file' => UploadedFile::fake()->createWithContent($name, $text),
                ])
                    ->getSession()
                    ?->get('refused'),
                $name,
            );
        }
        $this->post($m, ['from' => 'pgsql', 'host' => '127.0.0.1', 'port' => '9', 'database' => 'x'])->assertSessionHas(
            'refused',
        );
        self::assertSame(0, ChangeList::query()->count());
    }

    public function test_a_plan_names_the_file_that_describes_the_target(): void
    {
        $plan = $this->smallPlan("no,name\n1,a\n", '{code: no, title: name}', 'quay');
        $folder = dirname($plan);
        file_put_contents(
            "$folder/target.csv",
            "Entity,Field,Type,Length,Required\nquay,code,text,8,yes\nquay,title,text,80,\n",
        );
        file_put_contents(
            $plan,
            str_replace(
                ['migration: Small', 'application: x'],
                ['migration: Described', 'application: x, description: target.csv'],
                (string) file_get_contents($plan),
            ),
        );
        $headless = $this->app->make(Headless::class);
        $migration = $headless->import($plan);
        self::assertSame(
            ['id' => 'whole number, assigned', 'code' => 'text 8, required', 'title' => 'text 80'],
            self::said($migration->entities()->where('name', 'quay')->firstOrFail()->described()),
        );
        self::assertSame('target.csv', (new PlanExporter)->export($migration)['target']['description']);
        file_put_contents("$folder/target.csv", "Entity,Field,Type\nquay,code,colour\n");
        $this->expectExceptionMessage('target.csv describes no entities');
        $headless->import($plan);
    }

    /** The schema as SQLite itself keeps it. */
    public function test_an_sqlite_schema(): void
    {
        $path = sys_get_temp_dir().'/baggage-target.sqlite';
        @unlink($path);
        (new \PDO("sqlite:$path"))
            ->exec("CREATE TABLE harbour (code VARCHAR(8) PRIMARY KEY NOT NULL, name TEXT NOT NULL);
            CREATE TABLE berth (id INTEGER PRIMARY KEY, harbour VARCHAR(8) NOT NULL REFERENCES harbour (code), code
            VARCHAR(12) NOT NULL, kind TEXT NOT NULL DEFAULT 'fixed'
            CHECK (kind IN ('fixed', 'swinging')), length DECIMAL(5,2), metered BOOLEAN NOT NULL DEFAULT 0, built
            DATE, UNIQUE (harbour, code));
            CREATE TABLE pair (a INTEGER, b INTEGER, PRIMARY KEY (a, b))");
        $schema = OtherSchemas::ofFile($path, 'x.sqlite');
        self::assertSame(['harbour', 'berth'], array_keys($schema->entities));
        self::assertSame(
            [
                'id' => 'whole number, assigned',
                'harbour' => 'harbour, required',
                'code' => 'text 12, required',
                'kind' => 'one of 2, default fixed',
                'length' => 'decimal 5,2',
                'metered' => 'yes or no, default 0',
                'built' => 'date',
            ],
            self::said($schema->entities['berth']),
        );
        self::assertSame([['harbour', 'code']], $schema->entities['berth']->uniques);
    }
}
