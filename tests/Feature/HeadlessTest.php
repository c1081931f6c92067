<?php

namespace Tests\Feature;

use App\Models\Migration;
use App\Plans\PlanExporter;
use Baggage\Core\Plan\PlanReader;
use Baggage\Core\Plan\PlanWriter;
use Illuminate\Support\Facades\Artisan;
use Symfony\Component\Process\Process;
use Tests\TestCase;

final class HeadlessTest extends TestCase
{
    /** @return array<string, mixed> what must be equal in two installations */
    private function figures(string $json): array
    {
        $result = json_decode($json, true, 512, JSON_THROW_ON_ERROR);

        return [
            'proofs' => $result['proofs_hold'],
            'open' => $result['open_rows'],
            'links' => $result['links'],
            'entities' => $result['entities'],
            'loads' => array_map(fn ($l) => array_diff_key($l, ['seconds' => 0]), $result['loads']),
        ];
    }

    public function test_a_plan_goes_out_and_comes_in_without_loss(): void
    {
        $migration = $this->demoMigration($folder = self::smallDemo(), true, true);
        $exported = (new PlanExporter)->export($migration);
        $yaml = (new PlanWriter)->write($exported);
        $original = (new PlanReader)->read((string) file_get_contents("$folder/plan.yaml"), 'a')->plan;
        // Said otherwise, meant alike: what is left at its default need not be written.
        $meant = fn (array $plan) => json_encode($plan);
        file_put_contents("$folder/exported.yaml", $yaml);
        $first = sys_get_temp_dir().'/first.json';
        self::assertSame(1, Artisan::call('baggage:run', ['plan' => "$folder/plan.yaml", '--json' => $first]));
        $figures = $this->figures((string) file_get_contents($first));

        $this->rewrittenFromTheDocumentation($folder, $figures);
        // An empty installation.
        $this->tearDown();
        $this->setUp();
        $second = sys_get_temp_dir().'/second.json';
        self::assertSame(1, Artisan::call('baggage:run', ['plan' => "$folder/exported.yaml", '--json' => $second]));
        self::assertSame($figures, $this->figures((string) file_get_contents($second)));
        self::assertSame(
            $yaml,
            (new PlanWriter)->write((new PlanExporter)->export(Migration::query()->firstOrFail())),
        );
        self::assertSame(array_column($original['loads'], 'name'), array_column($exported['loads'], 'name'));
        self::assertSame(
            $meant($original['code_crosswalks']),
            $meant((array) json_decode((string) json_encode($exported['code_crosswalks']), true)),
        );
        self::assertSame(
            1,
            Artisan::call('baggage:reconcile', ['plan' => "$folder/exported.yaml", '--json' => $second]),
        );
        self::assertSame($figures, $this->figures((string) file_get_contents($second)));
    }

    /**
     * The same data by a plan that was written by hand from the documentation, as differently as it allows.
     *
     * @param  array<string, mixed>  $figures
     */
    private function rewrittenFromTheDocumentation(string $folder, array $figures): void
    {
        $this->tearDown();
        $this->setUp();
        copy(base_path('tests/Fixtures/harbours-rewritten.yaml'), "$folder/rewritten.yaml");
        $third = sys_get_temp_dir().'/third.json';
        self::assertSame(1, Artisan::call('baggage:run', ['plan' => "$folder/rewritten.yaml", '--json' => $third]));
        $again = $this->figures((string) file_get_contents($third));
        $plain = fn (array $of): array => collect($of)->sortBy('entity')->values()->all();
        self::assertSame($plain($figures['entities']), $plain($again['entities']));
        $byEntity = fn (array $of): array => array_map(
            fn ($l) => array_intersect_key($l, array_flip(['entity', 'source_rows', 'feed_rows', 'outcomes', 'unaccounted', 'wave'])),
            $plain($of),
        );
        self::assertSame($byEntity($figures['loads']), $byEntity($again['loads']));
        $causes = fn (array $of): array => array_map(
            fn ($l) => array_map(fn ($c) => [$c['code'], $c['field'], $c['rows']], $l['causes']),
            $plain($of),
        );
        self::assertSame($causes($figures['loads']), $causes($again['loads']));
    }

    public function test_exit_codes_and_pure_json_on_standard_output(): void
    {
        $plan = $this->smallPlan("no,name\n1,a\n2,b\n", '{code: no, name: name}');
        $run = new Process([PHP_BINARY, 'artisan', 'baggage:run', $plan, '--round=r1', '--json=-'], base_path());
        self::assertSame(0, $run->run(), $run->getOutput().$run->getErrorOutput());
        $result = json_decode($run->getOutput(), true, 512, JSON_THROW_ON_ERROR);
        self::assertSame(
            [2, 0, true],
            [$result['loads'][0]['outcomes']['loaded'], $result['open_rows'], $result['proofs_hold']],
        );
        // Running it again finds nothing to do, and doubles nothing.
        self::assertSame(0, $run->run());
        self::assertSame([['2']], $this->targetRows('SELECT COUNT(*) FROM harbour'));

        file_put_contents($plan, str_replace('entity: harbour', 'entty: harbour', (string) file_get_contents($plan)));
        self::assertSame(2, $run->run());
        self::assertStringContainsString('plan.yaml, line 5, column 19, loads.0.entty: unknown field "entty"', $run->getErrorOutput());
        $errors = json_decode($run->getOutput(), true, 512, JSON_THROW_ON_ERROR)['errors'];
        self::assertSame([[5, 'loads.0.entity'], [5, 'loads.0.entty']], array_map(fn ($e) => [$e['line'], $e['field']], $errors));
        self::assertSame(2, Artisan::call('baggage:run', ['plan' => '/nowhere/plan.yaml']));
        $missing = $this->smallPlan("no,name\n1,a\n", '{code: no, name: name}');
        unlink(dirname($missing).'/file.csv');
        self::assertSame(2, Artisan::call('baggage:run', ['plan' => $missing, '--round' => 'r2']));
        self::assertSame(2, Artisan::call('baggage:reconcile', ['plan' => $missing, '--round' => 'nobody']));
    }
}
