<?php

namespace Tests\Feature;

use App\Decisions\CorrectionBook;
use App\Models\Extract;
use App\Models\Migration;
use App\Models\Role;
use App\Models\Take;
use App\Plans\Headless;
use App\Plans\PlanExporter;
use Baggage\Core\Feeds\Arithmetic;
use Baggage\Core\Feeds\Combination;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\DataProvider;
use Symfony\Component\Yaml\Yaml;
use Tests\TestCase;

final class FeedsTest extends TestCase
{
    private function feeds(): Migration
    {
        $this->actingAs($this->user(Role::Consultant));

        return $this->migration('A');
    }

    /** @param  list<list<string|null>>  $rows */
    private function extract(Migration $migration, string $name, string $header, array $rows): Extract
    {
        $lines = array_map(fn ($r) => implode(',', array_map(strval(...), $r))."\n", $rows);

        return $this->frozen($migration, $name, "$header\n".implode('', $lines))->extract()->firstOrFail();
    }

    /** @return list<list<string|null>> */
    private function cells(Extract $extract): array
    {
        return DB::table('staged_rows')
            ->where('take_id', $extract->refresh()->take_id)
            ->orderBy('row_no')
            ->pluck('cells')
            ->map(fn ($c) => json_decode($c, true))
            ->all();
    }

    private function feed(string $name): Extract
    {
        return Extract::query()->where('name', $name)->firstOrFail();
    }

    /** Against SQLite's own LEFT JOIN of the same rows. */
    public function test_a_join_is_the_left_join_of_a_database_and_its_sum_comes_out(): void
    {
        mt_srand(7);
        $left = $right = [];
        for ($i = 1; $i <= 2_500; $i++) {
            $left[] = ["L$i", $i % 50 === 0 ? '' : ' K'.mt_rand(1, 900).' '];
        }
        for ($i = 1; $i <= 800; $i++) {
            $right[] = ['K'.($i % 40 === 0 ? $i - 1 : $i), "name $i"];
        }
        $sqlite = new \PDO('sqlite::memory:');
        $sqlite->exec('CREATE TABLE l (no, k); CREATE TABLE r (k, name)');
        foreach (['l' => $left, 'r' => $right] as $table => $rows) {
            $insert = $sqlite->prepare("INSERT INTO $table VALUES (?, ?)");
            array_map(fn ($r) => $insert->execute($r), $rows);
        }
        $migration = $this->feeds();
        $l = $this->extract($migration, 'jobs', 'no,k', $left);
        $r = $this->extract($migration, 'people', 'k,name', $right);
        $this->get("/m/$migration->id/sources/feeds?combined=join&of[]=$l->id&of[]=$r->id")
            ->assertOk()
            ->assertSee('jobs with people');
        $this->post("/m/$migration->id/sources/feeds", [
            'name' => 'both',
            'combined' => 'join',
            'of' => [$l->id, $r->id],
            'left' => ['k'],
            'right' => ['k'],
            'compared' => 'trim',
        ])->assertRedirect();
        $this->multipliesOnlyWhenAccepted($sqlite, $migration);
    }

    private function multipliesOnlyWhenAccepted(\PDO $sqlite, Migration $migration): void
    {
        // It multiplies rows, so it asks first and keeps nothing.
        $feed = $this->feed('both');
        $many = (int) $sqlite->query('SELECT COUNT(*) FROM l LEFT JOIN r ON trim(l.k) = r.k')->fetchColumn();
        self::assertNull($feed->take_id);
        $take = $feed->takes()->firstOrFail();
        self::assertSame('failed', $take->state->value);
        self::assertStringContainsString(
            'would have '.number_format($many).' rows instead of 2,500',
            (string) $take->error,
        );
        $this->get("/m/$migration->id/sources/extracts/$feed->id")->assertSee(
            'Accept it: make '.number_format($many).' rows',
        );
        $this->post("/m/$migration->id/sources/extracts/$feed->id/multiply")->assertRedirect();
        $this->acceptedItMultiplies($sqlite, $migration, $feed, $many);
    }

    private function acceptedItMultiplies(\PDO $sqlite, Migration $migration, Extract $feed, $many): void
    {
        $expected = $sqlite
            ->query(
                'SELECT l.no, l.k, r.k, r.name, (SELECT COUNT(*) FROM r x WHERE x.k = trim(l.k)) FROM l '
                    .'LEFT JOIN r ON trim(l.k) = r.k ORDER BY l.rowid, r.rowid',
            )
            ->fetchAll(\PDO::FETCH_NUM);
        $expected = array_map(fn ($row) => array_map(fn ($c) => $c === null ? null : (string) $c, $row), $expected);
        self::assertSame($expected, $this->cells($feed));
        self::assertSame(
            ['no', 'k', 'people k', 'people name', 'people matches'],
            array_column($feed->refresh()->columns ?? [], 'header'),
        );
        $sum = $feed->take->arithmetic ?? [];
        self::assertSame(2_500, ($sum['matched'] ?? 0) + ($sum['multiplied'] ?? 0) + ($sum['alone'] ?? 0));
        self::assertSame(
            [
                $many,
                50,
                (int) $sqlite->query('SELECT COUNT(*) FROM r WHERE k NOT IN (SELECT trim(k) FROM l)')->fetchColumn(),
            ],
            [$sum['rows'], $sum['blank'], $sum['unused']],
        );
        self::assertSame([$many, $many], [$feed->take?->rows, $feed->take?->source_rows]);
        // A new take of what it is made of makes it again.
        $this->extract($migration, 'people', 'k,name', [['K1', 'only']]);
        self::assertSame([3, 2_500], [$feed->refresh()->take?->number, $feed->take?->rows]);
    }

    public function test_stacked_side_by_side_and_distinct(): void
    {
        $migration = $this->feeds();
        $a = $this->extract($migration, 'old', 'no,town', [['1', 'Orrin'], ['2', 'orrin '], ['3', ''], ['4', 'Holm']]);
        $b = $this->extract($migration, 'new', 'town,tel', [['Holm', '1'], ['Skerry', '2']]);
        $base = "/m/$migration->id/sources/feeds";
        $this->post($base, ['name' => 'all', 'combined' => 'stack', 'of' => [$a->id, $b->id]])->assertRedirect();
        self::assertSame(
            [
                ['A/old', '1', 'Orrin', null],
                ['A/old', '2', 'orrin ', null],
                ['A/old', '3', '', null],
                ['A/old', '4', 'Holm', null],
                ['A/new', null, 'Holm', '1'],
                ['A/new', null, 'Skerry', '2'],
            ],
            $this->cells($this->feed('all')),
        );
        self::assertSame(
            ['4 (A/old) + 2 (A/new) = 6 rows.'],
            Arithmetic::say(Combination::Stack, $this->feed('all')->take->arithmetic ?? []),
        );
        $this->sideBySideAndDistinct($migration, $a, $b, $base);
    }

    private function sideBySideAndDistinct(Migration $migration, Extract $a, Extract $b, string $base): void
    {
        $this->post($base, ['name' => 'beside', 'combined' => 'position', 'of' => [$a->id, $b->id]]);
        self::assertSame(
            [
                ['1', 'Orrin', 'Holm', '1'],
                ['2', 'orrin ', 'Skerry', '2'],
                ['3', '', null, null],
                ['4', 'Holm', null, null],
            ],
            $this->cells($this->feed('beside')),
        );
        $this->post($base, [
            'name' => 'towns',
            'combined' => 'distinct',
            'of' => [$a->id],
            'distinct' => ['town'],
            'compared' => 'letters',
        ]);
        self::assertSame([['Orrin', '2'], ['Holm', '1']], $this->cells($this->feed('towns')));
        self::assertSame(
            ['4 rows of A/old: 2 different values; 2 rows repeat one or have none (1 have none).'],
            Arithmetic::say(Combination::Distinct, $this->feed('towns')->take->arithmetic ?? []),
        );
        $this->feedsOfFeeds($migration, $a, $b, $base);
    }

    private function feedsOfFeeds(Migration $migration, Extract $a, Extract $b, string $base): void
    {
        // A feed of a feed; and a correction of a row below it counts when it is made again.
        $this->post($base, [
            'name' => 'town rows',
            'combined' => 'join',
            'of' => [$this->feed('towns')->id, $b->id],
            'left' => ['town'],
            'right' => ['town'],
        ]);
        self::assertSame(
            [['Orrin', '2', null, null, '0'], ['Holm', '1', 'Holm', '1', '1']],
            $this->cells($this->feed('town rows')),
        );
        $again = $this->app->make(CorrectionBook::class)->cells($b->refresh()->take, [1], 'town', 'Orrin', '');
        self::assertContains('town rows', array_column($again, 'name'), 'a feed joined by the column has to be made again');
        $this->post("/m/$migration->id/sources/extracts/{$this->feed('town rows')->id}/again")->assertRedirect();
        self::assertSame('Orrin', $this->cells($this->feed('town rows'))[0][2]);
        $this->feedsThatCannotBe($a, $b, $base);
    }

    private function feedsThatCannotBe(Extract $a, Extract $b, string $base): void
    {
        foreach (
            [
                [['name' => 'x', 'combined' => 'join', 'of' => [$a->id, $b->id]], 'needs the columns'],
                [
                    [
                        'name' => 'x',
                        'combined' => 'join',
                        'of' => [$a->id, $a->id],
                        'left' => ['no'],
                        'right' => ['no'],
                    ],
                    'each extract once',
                ],
                [
                    [
                        'name' => 'x',
                        'combined' => 'join',
                        'of' => [$a->id, $b->id],
                        'left' => ['colour'],
                        'right' => ['town'],
                    ],
                    'has no column "colour"',
                ],
                [['name' => 'towns', 'combined' => 'distinct', 'of' => [$a->id], 'distinct' => ['town']], 'already'],
                [['name' => 'x', 'combined' => 'stack', 'of' => [$a->id]], '2 to 20 extracts'],
            ] as [$form, $says]
        ) {
            self::assertStringContainsString($says, (string) $this->post($base, $form)->getSession()?->get('refused'));
        }
        $this->actingAs($this->user(Role::Auditor))
            ->post($base, ['name' => 'x', 'combined' => 'stack', 'of' => [$a->id, $b->id]])
            ->assertForbidden();
    }

    /** @return iterable<array{int}> */
    public static function seeds(): iterable
    {
        foreach (range(1, 3) as $seed) {
            yield "seed $seed" => [$seed];
        }
    }

    /** Random extracts against loops over the same rows: every way to combine them, compared in every way that differs. */
    #[DataProvider('seeds')]
    public function test_feeds_are_what_loops_make_of_the_rows(int $seed): void
    {
        mt_srand($seed);
        $value = fn () => ['Orrin', ' orrin', 'ORRIN', 'Holm', '', '007', '7', 'Ærø'][mt_rand(0, 7)];
        $left = $right = [];
        for ($i = 1, $n = mt_rand(5, 60); $i <= $n; $i++) {
            $left[] = ["L$i", $value(), (string) mt_rand(1, 3)];
        }
        for ($i = 1, $n = mt_rand(5, 40); $i <= $n; $i++) {
            $right[] = [$value(), "R$i"];
        }
        $migration = $this->feeds();
        $a = $this->extract($migration, "left$seed", 'no,town,class', $left);
        $b = $this->extract($migration, "right$seed", 'town,code', $right);
        // An empty cell at the end of a line is still a cell, so rows come back as they were written.
        self::assertSame($left, $this->cells($a));
        $base = "/m/$migration->id/sources/feeds";
        $plain = [
            'trim' => fn (string $v) => trim($v),
            'capitals' => fn (string $v) => mb_strtoupper(trim($v)),
            'number' => fn (string $v) => trim($v) === '' ? '' : (ltrim(mb_strtoupper(trim($v)), '0') ?: '0'),
        ];
        foreach ($plain as $compared => $key) {
            $this->joinedAndDistinctAsALoop($migration, $compared, $key, $left, $right, $a, $b, $base);
        }
        $this->alsoSideBySideAndStacked($seed, $left, $right, $a, $b, $base);
    }

    private function joinedAndDistinctAsALoop(
        Migration $migration,
        string $compared,
        \Closure $key,
        array $left,
        array $right,
        Extract $a,
        Extract $b,
        string $base,
    ): void {
        $name = "join $compared";
        $this->post($base, [
            'name' => $name,
            'combined' => 'join',
            'of' => [$a->id, $b->id],
            'left' => ['town'],
            'right' => ['town'],
            'compared' => $compared,
        ]);
        if ($this->feed($name)->take_id === null) {
            $this->post("/m/$migration->id/sources/extracts/{$this->feed($name)->id}/multiply");
        }
        $expected = [];
        foreach ($left as $row) {
            $partners = $key($row[1]) === ''
                ? []
                : array_values(array_filter($right, fn ($r) => $key($r[0]) === $key($row[1])));
            foreach ($partners === [] ? [[null, null]] : $partners as $partner) {
                $expected[] = [...$row, ...$partner, (string) count($partners)];
            }
        }
        self::assertSame($expected, $this->cells($this->feed($name)), $name);

        $this->distinctAsALoop($compared, $key, $left, $a, $base);
    }

    private function distinctAsALoop(string $compared, \Closure $key, array $left, Extract $a, string $base): void
    {
        $this->post($base, [
            'name' => "values $compared",
            'combined' => 'distinct',
            'of' => [$a->id],
            'distinct' => ['town'],
            'compared' => $compared,
        ]);
        $firsts = $counts = [];
        foreach ($left as $row) {
            $k = $key($row[1]);
            if ($k !== '') {
                $firsts["~$k"] ??= $row[1];
                $counts["~$k"] = ($counts["~$k"] ?? 0) + 1;
            }
        }
        self::assertSame(
            array_map(null, array_values($firsts), array_map(strval(...), array_values($counts))),
            $this->cells($this->feed("values $compared")),
            "values $compared",
        );
    }

    private function alsoSideBySideAndStacked(int $seed, array $left, array $right, Extract $a, Extract $b, string $base): void
    {
        $this->post($base, ['name' => 'beside', 'combined' => 'position', 'of' => [$a->id, $b->id]]);
        $expected = [];
        for ($i = 0; $i < max(count($left), count($right)); $i++) {
            $expected[] = [...$left[$i] ?? [null, null, null], ...$right[$i] ?? [null, null]];
        }
        self::assertSame($expected, $this->cells($this->feed('beside')));
        $this->post($base, ['name' => 'stacked', 'combined' => 'stack', 'of' => [$b->id, $a->id]]);
        $expected = [
            ...array_map(fn ($r) => ["A/right$seed", $r[0], $r[1], null, null], $right),
            ...array_map(fn ($r) => ["A/left$seed", $r[1], null, $r[0], $r[2]], $left),
        ];
        self::assertSame($expected, $this->cells($this->feed('stacked')));
        // Every sum comes out: the rows of the feed are those its arithmetic says.
        foreach (Extract::query()->where('reader->kind', 'feed')->with('take')->get() as $feed) {
            self::assertSame($feed->take?->rows, $feed->take?->arithmetic['rows'] ?? null, $feed->name);
            self::assertSame($feed->take?->rows, count($this->cells($feed)), $feed->name);
        }
    }

    public function test_a_plan_says_feeds_and_back(): void
    {
        $folder = self::work('feeds');
        @mkdir($folder, 0777, true);
        file_put_contents("$folder/jobs.csv", "no,who\n1,Ann Lie\n2,Bo Ek\n3,ann  lie\n");
        file_put_contents("$folder/people.csv", "id,name\n7,\"Lie, Ann\"\n8,Cy Dahl\n");
        $feed = [
            'name' => 'jobs of people',
            'reader' => [
                'kind' => 'feed',
                'combined' => 'join',
                'of' => ['S/jobs', 'S/people'],
                'on' => ['who' => 'name'],
                'compared' => 'person',
            ],
        ];
        // The feed stands before what it is made of.
        $plan = [
            'baggage' => 1,
            'migration' => 'Feeds',
            'target' => self::targetOfPlan(),
            'sources' => [
                [
                    'code' => 'S',
                    'name' => 'S',
                    'extracts' => [
                        $feed,
                        ['name' => 'jobs', 'file' => 'jobs.csv'],
                        ['name' => 'people', 'file' => 'people.csv'],
                    ],
                ],
            ],
        ];
        file_put_contents("$folder/plan.yaml", Yaml::dump($plan, 8));
        $headless = $this->app->make(Headless::class);
        $migration = $headless->import("$folder/plan.yaml");
        $headless->freeze($migration, "$folder/plan.yaml", fn () => null);
        self::assertSame(
            [
                ['1', 'Ann Lie', '7', 'Lie, Ann', '1'],
                ['2', 'Bo Ek', null, null, '0'],
                ['3', 'ann  lie', '7', 'Lie, Ann', '1'],
            ],
            $this->cells($this->feed('jobs of people')),
        );
        $headless->freeze($migration, "$folder/plan.yaml", fn () => self::fail('nothing has changed'));
        file_put_contents("$folder/people.csv", "id,name\n9,Bo Ek\n");
        $made = [];
        $headless->freeze($migration, "$folder/plan.yaml", function (Extract $e, Take $t) use (&$made) {
            $made[] = $e->name;
        });
        self::assertSame(['people', 'jobs of people'], $made);
        self::assertSame(
            $feed,
            json_decode((string) json_encode((new PlanExporter)->export($migration)), true)['sources'][0][
                'extracts'
            ][0],
        );
        $this->expectExceptionMessage('joined by key is made of 2 extracts, not of 1');
        $plan['sources'][0]['extracts'][0]['reader']['of'] = ['S/jobs'];
        file_put_contents("$folder/plan.yaml", Yaml::dump($plan, 8));
        $headless->import("$folder/plan.yaml");
    }
}
