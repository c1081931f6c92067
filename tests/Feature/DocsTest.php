<?php

namespace Tests\Feature;

use App\Plans\Headless;
use App\Reconciling\Report;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Symfony\Component\Process\Process;
use Tests\TestCase;

/** What the documentation shows is run, and what it lists is all there is. */
final class DocsTest extends TestCase
{
    private function page(string $name): string
    {
        return (string) file_get_contents(base_path("docs/$name.md"));
    }

    /** What the complete example needs, as the page describes it. */
    private function shop(string $database, string $folder): string
    {
        DB::unprepared("CREATE TABLE $database.customer (id INT AUTO_INCREMENT PRIMARY KEY, name VARCHAR(60) NOT NULL, country CHAR(2), "
            .'fax VARCHAR(20))');
        DB::unprepared("CREATE TABLE $database.bill (id INT AUTO_INCREMENT PRIMARY KEY, number VARCHAR(20) NOT NULL UNIQUE, customer INT "
            ."NOT NULL, issued DATE, total DECIMAL(9,2), FOREIGN KEY (customer) REFERENCES $database.customer (id))");
        @mkdir($folder, 0777, true);
        file_put_contents(
            "$folder/customers.csv",
            "CUST_NO;NAME;COUNTRY;FAX\n1;J\xFCrgen's;D;12\n2;SHOP  TWO;UK;\n3;Three;-;\n4;Four;FR;\n",
        );
        file_put_contents(
            "$folder/bills.csv",
            "Year,No,Cust No,Bill Dt,Amount,Status\n98,1,1,04/07/1998,\"12,50-\",ok\n98,2,2,5/8/98,\"1.000,00\",ok\n98,3,9,5/8/98,1,ok\n"
                ."98,4,1,5/8/98,2,void\n",
        );
        preg_match('/```yaml\n(baggage: 1.*?)```/s', $this->page('plan-file'), $m);
        file_put_contents("$folder/plan.yaml", strtr($m[1], [
            'port: "3306"' => 'port: "${HARBOUR_OFFICE_PORT}"',
            'database: till' => "database: $database",
            'username: loader' => 'username: harbour',
        ]));

        return "$folder/plan.yaml";
    }

    public function test_the_example_of_the_plan_file_runs(): void
    {
        $plan = $this->shop($database = self::emptyOther(), self::work('docs'));
        $run = new Process(
            [PHP_BINARY, 'artisan', 'baggage:run', $plan, '--round=rehearsal-1', '--json=-'],
            base_path(),
            ['BAGGAGE_SECRET_TILL' => (string) getenv('HARBOUR_OFFICE_PASSWORD')],
        );
        self::assertSame(1, $run->run(), $run->getErrorOutput());
        $result = json_decode($run->getOutput(), true, 512, JSON_THROW_ON_ERROR);
        $rejected = fn (array $load) => collect($load['causes'])->firstWhere('outcome', 'rejected')['code'];
        self::assertSame(['no_new_value', 'orphan'], array_map($rejected, $result['loads']));
        $rows = fn (string $sql) => array_map(fn ($r) => array_values((array) $r), DB::select($sql));
        self::assertSame(
            [["Jürgen's", 'DE', null], ['Shop Two', 'GB', null], ['Three', null, null]],
            $rows("SELECT name, country, fax FROM $database.customer ORDER BY id"),
        );
        self::assertSame(
            [['98-1', '1998-07-04', '-12.50'], ['98-2', '1998-08-05', '1000.00']],
            $rows("SELECT number, issued, total FROM $database.bill ORDER BY id"),
        );
    }

    public function test_every_field_of_the_result_is_described(): void
    {
        $plan = $this->smallPlan("no,name\n1,a\n2,\n", '{code: no, name: name}');
        $headless = $this->app->make(Headless::class);
        $migration = $headless->import($plan);
        $headless->freeze($migration, $plan, fn () => null);
        $result = $this->app->make(Report::class)->of($headless->run($migration, 'r1', null)) + ['kept_from_screen' => [], 'errors' => []];
        $page = $this->page('running');
        $fields = [];
        foreach ($result as $name => $value) {
            $fields[] = $name;
            if (in_array($name, ['loads', 'entities'], true)) {
                $fields = [...$fields, ...array_keys($value[0])];
            }
        }
        [$cause] = $result['loads'][0]['causes'];
        $fields = [...$fields, ...array_keys($cause), ...array_keys($cause['values'][0])];
        foreach (array_unique($fields) as $field) {
            self::assertMatchesRegularExpression("/`$field(?:\\[\\])?`/", $page, $field);
        }
    }

    public function test_commands_and_options_are_those_there_are(): void
    {
        $commands = Artisan::all();
        $pages = implode("\n", array_map($this->page(...), ['plan-file', 'running', 'operating', 'mapping', 'functions']));
        preg_match_all('/baggage:[a-z-]+/', $pages, $named);
        self::assertSame([], array_values(array_diff(array_unique($named[0]), array_keys($commands))));
        $run = $commands['baggage:run']->getDefinition();
        foreach (array_keys($run->getOptions()) as $option) {
            self::assertStringContainsString("`--$option", $this->page('running'), "--$option");
        }
        [$running, $back] = explode('## Taking back', explode('## Without bin/start', $this->page('running'))[0]);
        foreach ([[$running, $run], [$back, $commands['baggage:back-out']->getDefinition()]] as [$text, $of]) {
            preg_match_all('/`--([a-z-]+)/', $text, $options);
            foreach (array_unique($options[1]) as $option) {
                self::assertTrue($of->hasOption($option), "--$option");
            }
        }
        preg_match_all("/env\\('(BAGGAGE_\\w+)'/", (string) file_get_contents(config_path('baggage.php')), $variables);
        foreach ($variables[1] as $variable) {
            self::assertStringContainsString("`$variable`", $pages, $variable);
        }
    }

    /** What is said to be met is held by a test there is, and every chapter of the standard is there. */
    public function test_every_test_that_the_page_on_security_names_is_there(): void
    {
        $page = $this->page('security');
        preg_match_all('/`(\w+Test)`/', $page, $names);
        foreach (array_unique($names[1]) as $name) {
            self::assertNotSame([], glob(base_path("tests/*/$name.php")), $name);
        }
        foreach (explode("\n", $page) as $line) {
            $cells = array_map(trim(...), explode('|', $line));
            if (($cells[2] ?? '') === 'met' && preg_match('/`\w+Test`|`docs\//', $line) !== 1) {
                self::assertMatchesRegularExpression('/^\| 11\./', $line, 'met, but by what?');
            }
        }
        preg_match_all('/\bV(\d+)\b/', $page, $chapters);
        self::assertEqualsCanonicalizing(range(1, 17), array_map(intval(...), array_unique($chapters[1])));
    }
}
