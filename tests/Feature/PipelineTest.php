<?php

namespace Tests\Feature;

use App\Loading\PassRunner;
use App\Loading\Rounds;
use App\Mapping\LoadChecker;
use App\Models\Load;
use App\Models\LoadCheck;
use App\Models\Migration;
use App\Models\PassKind;
use App\Models\Round;
use App\Plans\Headless;
use App\Reconciling\Proofs;
use PHPUnit\Framework\Attributes\DataProvider;
use Symfony\Component\Yaml\Yaml;
use Tests\TestCase;

/**
 * Random parents and children with random defects, loaded, repaired at random and loaded again. What must become of every row is
 * worked out here by plain loops over the files, without any code of the application.
 */
final class PipelineTest extends TestCase
{
    private const TYPES = ['person', 'organisation', 'nobody', ''];

    /** @var list<array{no: string, name: string, kind: string, payer: string}> */
    private array $people = [];

    /** @var list<array{no: string, owner: string, name: string, kind: string, built: string}> */
    private array $boats = [];

    /** @return iterable<array{int}> */
    public static function seeds(): iterable
    {
        for ($seed = 1; $seed <= 6; $seed++) {
            yield "seed $seed" => [$seed];
        }
    }

    private function oneOf(array $values): string
    {
        return $values[array_rand($values)];
    }

    private function invent(int $seed): Migration
    {
        mt_srand($seed);
        srand($seed);
        $n = mt_rand(30, 80);
        for ($i = 1; $i <= $n; $i++) {
            $this->people[] = [
                'no' => $seed % 2 === 0 && mt_rand(0, 19) === 0 ? 'P'.mt_rand(1, $n) : "P$i",
                'name' => mt_rand(0, 14) === 0 ? $this->oneOf(['', '  ', str_repeat('x', 61)]) : "Person $i",
                'kind' => mt_rand(0, 9) === 0 ? $this->oneOf(self::TYPES) : 'person',
                'payer' => mt_rand(0, 4) === 0 ? 'P'.mt_rand(1, $n + 3) : '',
            ];
        }
        $m = mt_rand(40, 120);
        for ($i = 1; $i <= $m; $i++) {
            $this->boats[] = [
                'no' => $seed % 2 === 0 && mt_rand(0, 24) === 0 ? 'B'.mt_rand(1, $m) : "B$i",
                'owner' => mt_rand(0, 24) === 0 ? '' : 'P'.mt_rand(1, $n + 2),
                'name' => mt_rand(0, 19) === 0 ? '' : "Boat $i",
                'kind' => mt_rand(0, 14) === 0 ? 'raft' : $this->oneOf(['sail', 'motor']),
                'built' => mt_rand(0, 9) === 0 ? $this->oneOf(['31/02/2003', 'old', '']) : '04/07/1988',
            ];
        }

        return $this->frozenPlan($seed);
    }

    private function frozenPlan(int $seed): Migration
    {
        $folder = self::work('pipeline');
        @mkdir($folder, 0777, true);
        $csv = fn (array $rows) => implode(',', array_keys($rows[0]))."\n"
            .implode('', array_map(fn ($r) => implode(',', $r)."\n", $rows));
        file_put_contents("$folder/people.csv", $csv($this->people));
        file_put_contents("$folder/boats.csv", $csv($this->boats));
        $plan = [
            'baggage' => 1,
            'migration' => "Pipeline $seed",
            'target' => self::targetOfPlan(),
            'sources' => [
                [
                    'code' => 'S',
                    'name' => 'S',
                    'extracts' => [
                        ['name' => 'people', 'file' => 'people.csv'],
                        ['name' => 'boats', 'file' => 'boats.csv'],
                    ],
                ],
            ],
            'loads' => [
                [
                    'name' => 'Boats',
                    'entity' => 'vessel',
                    'from' => 'S/boats',
                    'key' => ['no'],
                    'scope' => "kind != 'raft'",
                    'scope_reason' => 'rafts stay',
                    'fields' => [
                        'name' => 'name',
                        'owner' => 'parent(owner)',
                        'type' => 'kind',
                        'built' => "date(built, 'd/m/Y')",
                    ],
                ],
                [
                    'name' => 'People',
                    'entity' => 'party',
                    'from' => 'S/people',
                    'key' => ['no'],
                    'fields' => ['kind' => 'kind', 'name' => 'name', 'country' => "'GB'", 'bill_to' => 'parent(payer)'],
                ],
            ],
        ];
        file_put_contents("$folder/plan.yaml", Yaml::dump($plan, 9));
        $headless = $this->app->make(Headless::class);
        $migration = $headless->import("$folder/plan.yaml");
        $headless->freeze($migration, "$folder/plan.yaml", fn () => null);

        return $migration;
    }

    /** @return array{people: array<int, string>, boats: array<int, string>} row → outcome */
    private function expected(): array
    {
        $keys = array_fill_keys(array_column($this->people, 'no'), true);
        $people = $holders = [];
        foreach ($this->people as $i => $p) {
            $good = in_array($p['kind'], ['person', 'organisation'], true)
                && trim($p['name']) !== ''
                && strlen($p['name']) <= 60
                && ($p['payer'] === '' || isset($keys[$p['payer']]));
            // A key stands for one record: the first sound row that has it.
            $people[$i + 1] = $good && ! isset($holders[$p['no']]) ? 'loaded' : 'rejected';
            if ($people[$i + 1] === 'loaded') {
                $holders[$p['no']] = true;
            }
        }
        $boats = $taken = [];
        foreach ($this->boats as $i => $b) {
            $sound = $b['name'] !== '' && in_array($b['built'], ['', '04/07/1988', '28/02/2003'], true);
            $boats[$i + 1] = match (true) {
                $b['kind'] === 'raft' => 'excluded',
                ! $sound, $b['owner'] === '', ! isset($keys[$b['owner']]) => 'rejected',
                ! isset($holders[$b['owner']]) => 'held',
                isset($taken[$b['no']]) => 'rejected',
                default => 'loaded',
            };
            if ($boats[$i + 1] === 'loaded') {
                $taken[$b['no']] = true;
            }
        }

        return ['people' => $people, 'boats' => $boats];
    }

    private function agree(Round $round, string $when): void
    {
        $expected = $this->expected();
        foreach (['People' => 'people', 'Boats' => 'boats'] as $load => $file) {
            $found = $this->lines()
                ->where('round_id', $round->id)
                ->where('load_id', Load::query()->where('name', $load)->value('id'))
                ->orderBy('row_no')
                ->pluck('outcome', 'row_no')
                ->all();
            self::assertSame($expected[$file], $found, "$load, $when");
        }
        $proofs = Proofs::of($round);
        foreach ($proofs->entities() as $entity => $proof) {
            self::assertTrue($proof->holds(), "$entity, $when");
        }
        $count = fn (array $outcomes) => count(array_keys($outcomes, 'loaded', true));
        self::assertSame([[(string) $count($expected['boats'])]], $this->targetRows('SELECT COUNT(*) FROM vessel'));
        // Five parties are in the target from the start.
        self::assertSame(
            [[(string) ($count($expected['people']) + 5)]],
            $this->targetRows('SELECT COUNT(*) FROM party'),
        );
        // Every boat hangs on the record its owner's key became.
        foreach (
            $this->targetRows('SELECT v.name, p.name FROM vessel v JOIN party p ON p.id = v.owner') as [$boat, $owner]
        ) {
            $row = array_values(array_filter($this->boats, fn ($b) => $b['name'] === $boat))[0];
            $holder = array_values(
                array_filter(
                    $this->people,
                    fn ($p, $i) => $p['no'] === $row['owner'] && $expected['people'][$i + 1] === 'loaded',
                    ARRAY_FILTER_USE_BOTH,
                ),
            )[0];
            self::assertSame($holder['name'], $owner, $boat);
        }
    }

    /** What the check of a load says before anything is written, against what the run rejects by itself. */
    #[DataProvider('seeds')]
    public function test_a_check_foretells_what_a_run_rejects(int $seed): void
    {
        $migration = $this->invent($seed);
        $foretold = [];
        foreach (['People', 'Boats'] as $name) {
            $check = LoadCheck::query()->create([
                'load_id' => Load::query()->where('name', $name)->value('id'),
                'state' => 'queued',
                'hash' => '',
                'rows_total' => 0,
                'rows_done' => 0,
            ]);
            (new LoadChecker)->run($check);
            self::assertSame('done', $check->refresh()->state->value, (string) $check->error);
            $foretold[$name] = $check->result;
        }
        self::assertSame([['0']], $this->targetRows('SELECT COUNT(*) FROM vessel'), 'a check writes nothing');
        $round = $this->load($migration);
        foreach ($foretold as $name => $result) {
            $this->foretold($round, $name, $result);
        }
    }

    private function foretold(Round $round, string $name, array $result): void
    {
        $load = Load::query()->where('name', $name)->value('id');
        $rejected = fn (array $stages) => $this->lines('o')
            ->join('causes as c', 'c.id', '=', 'o.cause_id')
            ->where('o.round_id', $round->id)
            ->where('o.load_id', $load)
            ->where('o.outcome', 'rejected')
            ->whereIn('c.stage', $stages)
            ->count();
        self::assertSame(
            $rejected(['reading', 'scope', 'mapping', 'checks']),
            $result['failing'],
            "$name: rows that fail by themselves",
        );
        self::assertSame(
            $this->lines()
                ->where('round_id', $round->id)
                ->where('load_id', $load)
                ->where('outcome', 'excluded')
                ->count(),
            $result['excluded'],
            $name,
        );
        self::assertSame(
            $result['rows'],
            $this->lines()->where('round_id', $round->id)->where('load_id', $load)->count(),
        );
        // An orphan is one whatever else is wrong with its row, so the check may find more of them, never fewer.
        $orphans = array_sum(array_column(array_filter($result['others'], fn ($o) => $o['code'] === 'orphan'), 'n'));
        self::assertGreaterThanOrEqual($rejected(['parents']), $orphans, $name);
    }

    #[DataProvider('seeds')]
    public function test_every_row_comes_out_as_worked_out_by_hand_also_after_repairs(int $seed): void
    {
        config(['baggage.batch' => [7, 25, 2000][$seed % 3]]);
        $migration = $this->invent($seed);
        $round = $this->load($migration);
        $this->agree($round, 'first pass');

        // Somebody corrects names, dates and kinds of rejected rows; the files here are changed alike.
        $repaired = 0;
        foreach (
            ['people' => ['People', 'name', 'Corrected'], 'boats' => ['Boats', 'built', '28/02/2003']] as $file => [$load, $header, $new]
        ) {
            foreach ($this->expected()[$file] as $row => $outcome) {
                $old = $this->{$file}[$row - 1][$header];
                $bad = $header === 'name'
                    ? trim($old) === '' || strlen($old) > 60
                    : ! in_array($old, ['', '04/07/1988'], true);
                if ($outcome === 'rejected' && $bad && mt_rand(0, 2) > 0) {
                    $this->app
                        ->make(\App\Rejects\Repairs::class)
                        ->correctCell(
                            $round,
                            Load::query()->where('name', $load)->firstOrFail(),
                            $row,
                            $header,
                            $new === 'Corrected' ? "Corrected $row" : $new,
                            'by telephone',
                        );
                    $this->{$file}[$row - 1][$header] = $new === 'Corrected' ? "Corrected $row" : $new;
                    $repaired++;
                }
            }
        }
        $this->alsoAfterRepairs($round, $repaired);
    }

    private function alsoAfterRepairs(Round $round, int $repaired): void
    {
        self::assertGreaterThan(0, $repaired);
        $pass = $this->app->make(Rounds::class)->pass($round, PassKind::Retry);
        PassRunner::of($pass, 0)->work();
        self::assertSame('finished', $pass->refresh()->state->value, (string) $pass->error);
        self::assertTrue(Proofs::of($round)->entities()['party']->holds());
        self::assertTrue(Proofs::of($round)->entities()['vessel']->holds());
        self::assertSame(0, $this->lines()->where('round_id', $round->id)->where('outcome', 'pending')->count());
        // A row that was loaded stays the holder of its key, so what is worked out anew holds for all but repeated keys.
        $repeated = fn (array $rows) => array_keys(
            array_filter(array_count_values(array_column($rows, 'no')), fn ($n) => $n > 1),
        );
        if ($repeated($this->people) === [] && $repeated($this->boats) === []) {
            $this->agree($round, 'after the repairs');
        }
    }
}
