<?php

namespace Tests\Feature;

use App\Decisions\CorrectionBook;
use App\Decisions\Following;
use App\Models\ColumnReference;
use App\Models\Extract;
use App\Models\Migration;
use App\Models\Role;
use App\Models\Take;
use App\Profiling\Study;
use App\Rejects\CorrectionList;
use App\Rejects\Repairs;
use App\Staging\StagedRows;
use Baggage\Core\Rows\CorrectionState;
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
        foreach (range(1, max(5, (int) getenv('SEEDS'))) as $seed) {
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
        // Rows keep their numbers; in its file a row stands below the head.
        $now = DB::table('staged_rows')->where('take_id', $take->id)->pluck('line', 'row_no');
        $named = fn (string $kind, array $of, string $column = 'row_no') => collect($rows[$kind] ?? [])
            ->map(fn ($r) => $of === $keys ? $of[$now[$r->$column] - 2] : $of[$r->$column - 1])
            ->all();
        foreach ($now as $number => $line) {
            self::assertSame(array_search($keys[$line - 2], array_keys($before), true) + 1, isset($before[$keys[$line - 2]]) ? $number : 1);
        }
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

    /** SEMANTICS 4 and 5, against loops: rows inserted, moved, gone and changed, columns swapped, keys repeated and blank. */
    #[DataProvider('seeds')]
    public function test_corrections_follow_their_rows_into_the_next_take(int $seed): void
    {
        mt_srand(100 + $seed);
        $before = [];
        for ($i = 1; $i <= 120; $i++) {
            $key = mt_rand(0, 9) === 0 ? ['', 'K1', 'K2'][mt_rand(0, 2)] : "K$i";
            $before[$i] = ['no' => $key, 'a' => 'v'.mt_rand(1, 5), 'b' => 'w'.mt_rand(1, 5)];
        }
        $first = $this->freeze('cells', [['no', 'a', 'b'], ...array_map(array_values(...), $before)]);
        $first->extract?->update(['row_key' => ['no']]);
        $made = [];
        foreach (range(1, 40) as $n) {
            [$row, $column] = [mt_rand(1, 120), ['a', 'b', 'no'][mt_rand(0, 5) % 3]];
            $made["$row $column"] = [$row, $column, $column === 'no' ? "C$row" : "new $n"];
            $this->app->make(CorrectionBook::class)->cells($first, [$row], $column, $made["$row $column"][2], '');
        }
        $after = [];
        foreach ($before as $row => $is) {
            $is['no'] = isset($made["$row no"]) && mt_rand(0, 2) === 0 ? $made["$row no"][2] : $is['no'];
            $is['a'] = mt_rand(0, 3) === 0 ? ['v9', $made["$row a"][2] ?? 'v8'][mt_rand(0, 1)] : $is['a'];
            $after = [...$after, ...array_fill(0, [1, 1, 1, 1, 1, 1, 0, 2][mt_rand(0, 7)], $is)];
        }
        $after = array_map(fn ($at) => $after[$at], (array) array_rand($after, count($after)));
        array_unshift($after, ['no' => 'N1', 'a' => 'v1', 'b' => 'w1']);
        $order = $seed % 2 === 0 ? ['b', 'no', 'a'] : ['no', 'a', 'b'];
        $second = $this->freeze('cells', [$order, ...array_map(fn ($r) => array_map(fn ($c) => $r[$c], $order), $after)]);
        // In the order of their numbers.
        $lines = DB::table('staged_rows')->where('take_id', $second->id)->orderBy('row_no')->pluck('line', 'row_no');
        $after = $lines->map(fn ($line) => array_values($after)[$line - 2])->all();
        $this->followedAsALoopFollows($before, $after, array_values($made), $first, $second);
    }

    private function followedAsALoopFollows(array $before, array $after, array $made, Take $first, Take $second): void
    {
        Following::complete($second);
        $states = [];
        $laid = $after;
        foreach ($made as [$row, $column, $new]) {
            $was = $before[$row];
            $unique = $was['no'] !== '' && count(array_keys(array_column($before, 'no'), $was['no'], true)) === 1;
            $place = count(array_filter($before, fn ($r, $n) => $r === $was && $n <= $row, ARRAY_FILTER_USE_BOTH));
            $found = array_keys(array_filter($after, fn ($r) => $unique ? $r['no'] === $was['no'] : $r === $was));
            // Where columns stand in another order the whole row is another one, so only its key can tell.
            $at = match (true) {
                $unique => count($found) === 1 ? $found[0] : null,
                default => $second->headers() === ['no', 'a', 'b'] && isset($found[$place - 1]) ? $found[$place - 1] : null,
            };
            $moved = array_keys(array_column($after, 'no'), $new, true);
            $states[] = match (true) {
                $at === null => $unique && $column === 'no' && count($moved) === 1 ? 'confirmed' : 'without_row',
                $after[$at][$column] === $was[$column] => 'carried',
                $after[$at][$column] === $new => 'confirmed',
                default => 'contradicted',
            };
            if ($at !== null && end($states) === 'carried') {
                $laid[$at][$column] = $new;
            }
        }
        $kept = DB::table('correction_places as p')
            ->join('corrections as c', 'c.id', '=', 'p.correction_id')
            ->where('p.take_id', $second->id)
            ->where('c.ended', 0)
            ->pluck('p.state');
        self::assertEqualsCanonicalizing($states, $kept->all());
        $laid = $this->decidedAtRandom($laid, $made, $states, $second);
        $this->lieOverRows($laid, $after, $made, $first, $second);
    }

    /** Contradicted ones are put over the newer value, or not; what is put over it lies there like any other. */
    private function decidedAtRandom(array $laid, array $made, array $states, Take $second): array
    {
        $repairs = $this->app->make(Repairs::class);
        foreach (CorrectionList::waiting($this->migration, 1000) as $line) {
            $again = $line->state === CorrectionState::Contradicted && mt_rand(0, 1) === 1;
            $repairs->decide(CorrectionList::among($this->migration, [(int) $line->id]), $again);
            if ($again) {
                $laid[(int) $line->row_no][$line->header] = $line->new_value;
            }
        }
        self::assertSame(0, CorrectionList::countWaiting($this->migration));
        self::assertCount(count($made), $states);

        return $laid;
    }

    private function lieOverRows(array $laid, array $after, array $made, Take $first, Take $second): void
    {
        $read = (new StagedRows($second->id))->after(0, 1000);
        self::assertSame(array_map(fn ($r) => array_map(fn ($c) => $r[$c], $second->headers()), $laid), $read);
        // What was frozen stays what was read, and the take they were made in has all of them.
        $asRead = array_map(fn ($r) => array_map(fn ($c) => $r[$c], $second->headers()), $after);
        self::assertSame(array_values($asRead), StagedRows::sample($second->id, 1000));
        $own = (new StagedRows($first->id))->after(0, 1000);
        foreach ($made as [$row, $column, $new]) {
            self::assertSame($new, $own[$row][['no' => 0, 'a' => 1, 'b' => 2][$column]]);
        }
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
