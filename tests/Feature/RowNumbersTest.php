<?php

namespace Tests\Feature;

use App\Models\Migration;
use App\Models\Take;
use App\Plans\Headless;
use Illuminate\Support\Facades\DB;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Symfony\Component\Yaml\Yaml;
use Tests\TestCase;

/** Rows keep their numbers from take to take, whatever was done to the file between them. Held against what each number said before. */
final class RowNumbersTest extends TestCase
{
    private Migration $migration;

    private string $folder;

    private Randomizer $random;

    protected function setUp(): void
    {
        parent::setUp();
        $this->random = new Randomizer(new Mt19937(7));
        $this->folder = self::work('row-numbers');
        @mkdir($this->folder, 0777, true);
    }

    /** @param  list<array{string, string}>  $rows */
    private function freeze(array $rows, bool $isFirst = false): void
    {
        $lines = array_map(fn (array $r) => implode(',', $r)."\n", $rows);
        file_put_contents("$this->folder/keyed.csv", "no,name\n".implode('', $lines));
        file_put_contents("$this->folder/plain.csv", "a,b\n".implode('', array_map(fn (array $r) => "$r[1],x\n", $rows)));
        if ($isFirst) {
            file_put_contents("$this->folder/plan.yaml", Yaml::dump([
                'baggage' => 1, 'migration' => 'Numbers', 'target' => self::partiesAndBoats(),
                'sources' => [['code' => 'S', 'name' => 'S', 'extracts' => [
                    ['name' => 'keyed', 'file' => 'keyed.csv', 'row_key' => ['no']], ['name' => 'plain', 'file' => 'plain.csv'],
                ]]],
            ], 8));
            $this->migration = $this->app->make(Headless::class)->import("$this->folder/plan.yaml");
        }
        $this->app->make(Headless::class)->freeze($this->migration, "$this->folder/plan.yaml", fn () => null);
    }

    /** @return array<int, string> number → what the row says, of the newest take */
    private function says(string $extract): array
    {
        $take = Take::query()->whereHas('extract', fn ($q) => $q->where('name', $extract))->latest('id')->firstOrFail();
        self::assertSame('frozen', $take->state->value, (string) $take->error);

        return DB::table('staged_rows')->where('take_id', $take->id)->orderBy('row_no')->pluck('cells', 'row_no')->all();
    }

    /**
     * @param  array<int, string>  $before  number → what it said in the take before
     * @param  int  $used  the highest number there ever was
     * @return array<int, string>
     */
    private function holds(string $extract, array $before, int &$used): array
    {
        $now = $this->says($extract);
        foreach (array_diff_key($now, $before) as $number => $cells) {
            self::assertGreaterThan($used, $number, 'a number nobody had');
        }
        $used = max($used, ...array_keys($now));
        // A text that was there and is there is the same row, as often as it was.
        [$olds, $news] = [array_count_values($before), array_count_values($now)];
        $kept = array_count_values(array_intersect_assoc($now, $before));
        foreach ($extract === 'plain' ? array_intersect_key($olds, $news) : [] as $cells => $n) {
            self::assertSame(min($n, $news[$cells]), $kept[$cells] ?? 0, "rows that say $cells");
        }
        $keys = fn (array $of) => array_filter(
            array_count_values(array_map(fn (string $cells) => json_decode($cells)[0], $of)),
            fn (int $n) => $n === 1,
        );
        $number = fn (array $of, string $key) => array_search($key, array_map(fn (string $cells) => json_decode($cells)[0], $of), true);
        foreach ($extract === 'keyed' && count($now) < 1000 ? array_intersect_key($keys($before), $keys($now)) : [] as $key => $n) {
            self::assertSame($number($before, (string) $key), $number($now, (string) $key), "key $key");
        }

        return $now;
    }

    public function test_rows_keep_their_numbers_through_any_edits(): void
    {
        $rows = array_map(fn (int $i) => ["K$i", 'n'.$this->random->getInt(1, 9)], range(1, 30));
        $this->freeze($rows, true);
        [$keyed, $plain, $ofKeyed, $ofPlain] = [$this->says('keyed'), $this->says('plain'), 30, 30];
        for ($take = 2, $next = 31; $take < 12; $take++) {
            for ($edits = $this->random->getInt(0, 6); $edits > 0; $edits--) {
                $at = $this->random->getInt(0, count($rows) - 1);
                $of = $this->random->getInt(0, count($rows) - 1);
                match ($this->random->getInt(0, 4)) {
                    0 => $rows[$at][1] = 'm'.$this->random->getInt(1, 9),
                    1 => array_splice($rows, $at, 0, [['K'.$next++, 'n'.$this->random->getInt(1, 9)]]),
                    2 => count($rows) > 5 ? array_splice($rows, $at, 1) : null,
                    3 => [$rows[$at], $rows[$of]] = [$rows[$of], $rows[$at]],
                    4 => array_unshift($rows, ['K'.$next++, 'top']),
                };
            }
            $this->freeze($rows);
            $keyed = $this->holds('keyed', $keyed, $ofKeyed);
            $plain = $this->holds('plain', $plain, $ofPlain);
            $said = array_map(fn (array $r) => json_encode($r), $rows);
            self::assertEqualsCanonicalizing($said, array_values($keyed));
        }
    }

    public function test_long_files_where_rows_came_went_and_changed(): void
    {
        $rows = array_map(fn (int $i) => ["K$i", "n$i"], range(1, 45_000));
        $this->freeze($rows, true);
        [$keyed, $plain, $ofKeyed, $ofPlain] = [$this->says('keyed'), $this->says('plain'), 45_000, 45_000];
        $edited = $rows;
        $edited[20_000][1] = $edited[20_001][1] = 'changed';
        // More than is looked ahead to.
        array_splice($edited, 30_000, 0, array_map(fn (int $i) => ["N$i", "new $i"], range(1, 400)));
        array_splice($edited, 10_000, 3);
        array_unshift($edited, ['T1', 'top']);
        $this->freeze($edited);
        $now = $this->holds('keyed', $keyed, $ofKeyed);
        $this->holds('plain', $plain, $ofPlain);
        self::assertSame(['["K1","n1"]', '["K10000","n10000"]', '["K45000","n45000"]'], [$now[1], $now[10_000], $now[45_000]]);
        self::assertSame(['["K20001","changed"]', '["K30001","n30001"]', 45_398], [$now[20_001], $now[30_001], count($now)]);
        self::assertArrayNotHasKey(10_002, $now);
        // And back, which moves all of them again.
        $this->freeze($rows);
        self::assertSame(array_slice($keyed, 0, 10_000, true), array_slice($this->says('keyed'), 0, 10_000, true));
    }
}
