<?php

namespace Tests\Feature;

use App\Models\ColumnReference;
use App\Models\Extract;
use App\Models\Migration;
use App\Models\Role;
use App\Models\Take;
use App\Profiling\Study;
use App\Staging\StagedRows;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\DataProvider;
use Tests\TestCase;

/** Takes compared, corrections laid over rows and references found, against plain loops over the same random rows. */
final class TakesOracleTest extends TestCase
{
    private Migration $migration;

    protected function setUp(): void
    {
        parent::setUp();
        $this->migration = Migration::query()->create(['name' => 'M', 'target_name' => 'x', 'installation' => 'test']);
        $this->migration->sources()->create(['code' => 'S', 'name' => 'S']);
    }

    /** @return iterable<array{int}> */
    public static function seeds(): iterable
    {
        foreach (range(1, 8) as $seed) {
            yield "seed $seed" => [$seed];
        }
    }

    /** @param  list<list<string>>  $rows */
    private function freeze(string $name, array $rows): Take
    {
        return $this->frozen($this->migration, $name, implode('', array_map(fn ($r) => implode(',', $r)."\n", $rows)));
    }

    private function study(): void
    {
        $this->app->make(Study::class)->of($this->migration);
    }

    #[DataProvider('seeds')]
    public function test_rows_added_changed_and_gone(int $seed): void
    {
        mt_srand($seed);
        $before = $after = [];
        for ($i = 1; $i <= 300; $i++) {
            $before["K$i"] = "name $i";
        }
        $after = $before;
        foreach (array_keys($before) as $key) {
            match (mt_rand(0, 9)) {
                0 => ($after[$key] .= ' changed'),
                1 => ($after = array_diff_key($after, [$key => 0])),
                default => null,
            };
        }
        for ($i = 0, $new = mt_rand(0, 20); $i < $new; $i++) {
            $after["N$i"] = "new $i";
        }
        // The order of rows says nothing.
        $keys = array_keys($after);
        usort($keys, fn () => mt_rand(-1, 1));
        $rows = fn (array $names, array $keys) => [['no', 'name'], ...array_map(fn ($k) => [$k, $names[$k]], $keys)];
        $this->freeze('list', $rows($before, array_keys($before)));
        $this->study();
        $take = $this->freeze('list', $rows($after, $keys));
        $this->study();
        $this->comparedAsALoopCompares($before, $after, $keys, $take);
    }

    private function comparedAsALoopCompares(array $before, array $after, array $keys, Take $take): void
    {
        $compared = $take->refresh()->compared;
        self::assertSame(['no'], $compared['key'] ?? null);
        $changed = array_filter(
            $after,
            fn ($name, $key) => isset($before[$key]) && $before[$key] !== $name,
            ARRAY_FILTER_USE_BOTH,
        );
        self::assertSame(
            [count(array_diff_key($after, $before)), count(array_diff_key($before, $after)), count($changed)],
            [$compared['added'], $compared['gone'], $compared['changed']],
        );
        // The rows named are the right ones.
        $rows = DB::table('take_changes')->where('take_id', $take->id)->get()->groupBy('kind');
        $named = fn (string $kind, array $of, string $column = 'row_no') => collect($rows[$kind] ?? [])
            ->map(fn ($r) => $of[$r->$column - 1])
            ->all();
        self::assertEqualsCanonicalizing(array_keys(array_diff_key($after, $before)), $named('added', $keys));
        self::assertEqualsCanonicalizing(
            array_keys(array_diff_key($before, $after)),
            $named('gone', array_keys($before)),
        );
        self::assertEqualsCanonicalizing(array_keys($changed), $named('changed', $keys));
        self::assertSame(
            $named('changed', $keys),
            $named('changed', array_keys($before), 'was_row'),
            'each beside the row it was',
        );
    }

    #[DataProvider('seeds')]
    public function test_corrections_lie_over_exactly_the_cells_they_were_made_for(int $seed): void
    {
        mt_srand(100 + $seed);
        $cells = [];
        for ($i = 1; $i <= 200; $i++) {
            $cells[$i] = ["$i", 'v'.mt_rand(1, 5), 'w'.mt_rand(1, 5)];
        }
        $take = $this->freeze('cells', [['no', 'a', 'b'], ...array_values($cells)]);
        $extract = $take->extract()->firstOrFail();
        $expected = $cells;
        for ($n = 0; $n < 60; $n++) {
            $row = mt_rand(1, 200);
            $column = mt_rand(1, 2);
            $header = ['', 'a', 'b'][$column];
            if (
                DB::table('corrections')
                    ->where('row_no', $row)
                    ->whereIn('header', [$header, 'c'])
                    ->exists()
            ) {
                continue;
            }
            // Some were made for a value that is not there any more, or for a column that is gone: they have no effect.
            $stale = mt_rand(0, 3) === 0;
            DB::table('corrections')->insert([
                'extract_id' => $extract->id,
                'row_no' => $row,
                'header' => $stale && mt_rand(0, 1) ? 'c' : $header,
                'old_value' => $stale ? 'something else' : $cells[$row][$column],
                'new_value' => "new $n",
                'created_at' => now(),
                'updated_at' => now(),
            ]);
            if (! $stale) {
                $expected[$row][$column] = "new $n";
            }
        }
        $this->readWithCorrections($cells, $take, $extract, $expected);
    }

    private function readWithCorrections(array $cells, Take $take, Extract $extract, array $expected): void
    {
        $staged = new StagedRows($take->id, $extract->id, $extract->refresh()->tidyColumns()->byHeader());
        $read = [];
        for ($after = 0; ($page = $staged->after($after, 37)) !== []; $after = (int) array_key_last($page)) {
            $read += $page;
        }
        self::assertSame($expected, $read);
        $some = array_values(array_unique(array_map(fn () => mt_rand(1, 200), range(1, 20))));
        self::assertEquals(array_intersect_key($expected, array_flip($some)), $staged->numbered($some));
        self::assertSame([], $staged->numbered([]));
        // What was frozen stays what was read.
        self::assertSame(
            array_values($cells),
            DB::table('staged_rows')
                ->where('take_id', $take->id)
                ->orderBy('row_no')
                ->pluck('cells')
                ->map(fn ($c) => json_decode($c, true))
                ->all(),
        );
    }

    #[DataProvider('seeds')]
    public function test_orphans_are_counted_as_a_loop_counts_them(int $seed): void
    {
        mt_srand(200 + $seed);
        $parents = array_map(fn (int $i) => sprintf('P%04d', $i * 7 + $seed), range(1, 150));
        $children = [];
        for ($i = 1; $i <= 500; $i++) {
            $children[] = [
                (string) (90_000 + $i),
                match (true) {
                    mt_rand(0, 29) === 0 => '',
                    mt_rand(0, 49) === 0 => sprintf('Q%04d', $i),
                    default => $parents[array_rand($parents)],
                },
            ];
        }
        $this->freeze('parents', [['id', 'town'], ...array_map(fn ($p) => [$p, 'Orrin'], $parents)]);
        $this->freeze('children', [['no', 'parent'], ...$children]);
        $this->study();
        $child = Extract::query()->where('name', 'children')->firstOrFail();
        $reference = ColumnReference::query()
            ->where('extract_id', $child->id)
            ->get()
            ->first(fn (ColumnReference $r) => $r->columns === ['parent']);
        self::assertNotNull($reference);
        self::assertSame(['id'], $reference->parent_columns);
        $this->orphansOf($parents, $children, $child, $reference);
    }

    private function orphansOf(array $parents, array $children, Extract $child, ColumnReference $reference): void
    {
        $values = array_unique(array_filter(array_column($children, 1)));
        $known = array_intersect($values, $parents);
        $orphans = array_filter($children, fn ($c) => $c[1] !== '' && ! in_array($c[1], $parents, true));
        self::assertSame(
            [count($values), count($known), count($orphans)],
            [$reference->values_total, $reference->values_found, $reference->orphan_rows],
        );
        $rows = array_map(fn ($at) => $at + 1, array_keys($orphans));
        self::assertSame(
            $rows,
            DB::table('orphan_rows')->where('reference', $reference->number)->orderBy('row_no')->pluck('row_no')->all(),
        );
        $page = $this->actingAs($this->user(Role::Auditor))
            ->get("/m/{$this->migration->id}/sources/references?orphans=$reference->id")
            ->assertOk();
        foreach ($orphans as [$no]) {
            $page->assertSee($no);
        }
        // Studied again, the rows are written anew, not twice.
        Take::query()->update(['studied_at' => null]);
        $this->study();
        self::assertSame(
            count($rows),
            DB::table('orphan_rows')
                ->where('reference', ColumnReference::query()->where('extract_id', $child->id)->value('number'))
                ->count(),
        );
    }

    #[DataProvider('seeds')]
    public function test_rows_that_share_a_key_are_those_a_loop_finds(int $seed): void
    {
        mt_srand(300 + $seed);
        $rows = [];
        for ($i = 1; $i <= 3_000; $i++) {
            $rows[] = [
                match (true) {
                    mt_rand(0, 199) === 0 => ' ',
                    $i > 10 && mt_rand(0, 99) < 3 => $rows[mt_rand(0, min($i - 2, 200))][0],
                    default => sprintf('K%05d', $i * 3),
                },
                'text '.mt_rand(1, 9),
            ];
        }
        $take = $this->freeze('keys', [['no', 'what'], ...$rows]);
        $this->study();
        $key = DB::table('key_candidates')->where('take_id', $take->id)->where('columns', '["no"]')->first();
        self::assertNotNull($key);
        $groups = $blank = [];
        foreach ($rows as $i => [$no]) {
            trim($no) === '' ? ($blank[] = $i + 1) : ($groups[$no][] = $i + 1);
        }
        $shared = [];
        foreach ($groups as $of) {
            foreach (count($of) > 1 ? $of : [] as $row) {
                $shared[] = [$of[0], $row];
            }
        }
        sort($shared);
        self::assertSame(
            [count($rows) - count($groups) - count($blank), count($blank)],
            [$key->duplicate_rows, $key->blank_rows],
        );
        $this->keptAndOnPages($take, $key, $blank, $shared);
    }

    private function keptAndOnPages(Take $take, \stdClass $key, array $blank, array $shared): void
    {
        $kept = fn (string $compare) => DB::table('key_rows')
            ->where('key_id', $key->id)
            ->where('first_row', $compare, 0)
            ->orderBy('first_row')
            ->orderBy('row_no')
            ->get()
            ->map(fn ($r) => [$r->first_row, $r->row_no])
            ->all();
        self::assertSame($shared, $kept('>'));
        self::assertSame($blank, array_column($kept('='), 1));
        // All pages together hold each of them once.
        $this->actingAs($this->user(Role::Auditor));
        $at = "/m/{$this->migration->id}/sources/extracts/$take->extract_id?show=key&of=$key->id";
        foreach ([$at => array_column($shared, 1), "$at&blank=1" => $blank] as $next => $wanted) {
            $seen = [];
            while ($next !== null) {
                $html = (string) $this->get($next)->assertOk()->getContent();
                preg_match_all('~<tr[^>]*>\s*<td class="n">([\d,]+)</td>~', $html, $found);
                $seen = array_merge($seen, array_map(fn ($n) => (int) str_replace(',', '', $n), $found[1]));
                $next = preg_match('~href="([^"]+from=[\d-]+)">The\s+next\s+rows~', $html, $m) === 1 ? $m[1] : null;
            }
            self::assertSame($wanted, $seen);
        }
        $this->get("$at&of=0")->assertNotFound();
    }
}
