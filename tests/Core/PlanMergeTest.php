<?php

namespace Tests\Core;

use Baggage\Core\Plan\Conflict;
use Baggage\Core\Plan\Items;
use Baggage\Core\Plan\Merge;
use Baggage\Core\Plan\PlanReader;
use Baggage\Core\Plan\PlanWriter;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/** What the file and a screen changed since the plan was last applied (SEMANTICS 25). */
final class PlanMergeTest extends TestCase
{
    /** @return array<string, mixed> */
    private function demo(): array
    {
        return (new PlanReader)->read((string) file_get_contents(__DIR__.'/../../demo/plan.yaml'), 'plan.yaml')->plan;
    }

    public function test_a_plan_taken_apart_and_put_together_says_the_same(): void
    {
        $items = Items::of($this->demo());
        self::assertGreaterThan(200, count($items->all));
        $again = $items->plan('Harbour office');
        self::assertSame($items->all, Items::of($again)->all);
        // And it is a plan.
        $read = (new PlanReader)->read((new PlanWriter)->write($again), 'again.yaml')->plan;
        self::assertSame($items->all, Items::of($read)->all);
    }

    public function test_the_same_said_in_another_way_is_no_change(): void
    {
        $plan = fn (array $load, array $more = []) => Items::of($more + [
            'target' => ['application' => 'x', 'connections' => [['name' => 'r', 'host' => 'h', 'database' => 'd', 'username' => 'u']]],
            'sources' => [['code' => 'A', 'name' => 'A', 'extracts' => [['name' => 'x', 'reader' => ['delimiter' => ',']]]]],
            'loads' => [$load + ['name' => 'L', 'entity' => 'party', 'from' => 'A/x', 'key' => ['no']]],
        ]);
        $short = $plan(['fields' => ['name' => 'trim(name)'], 'match' => ['name' => 'exact']])->all;
        $long = $plan(
            ['fields' => ['name' => ['rule' => 'trim(name)']], 'match' => ['name'], 'policy' => 'create', 'key_compared' => 'trim'],
            ['match_rules' => [['entity' => 'party', 'name' => 'name', 'on' => ['name' => 'exact']]], 'target' => [
                'application' => 'x',
                'connections' => [['name' => 'r', 'host' => 'h', 'port' => 3306, 'username' => 'u', 'database' => 'd']],
            ]],
        )->all;
        ksort($short);
        ksort($long);
        self::assertSame($long, $short);
    }

    /** Every item by itself: who changed it since decides, and where both did the two are told. */
    public function test_each_item_against_a_table_of_cases(): void
    {
        $random = new Randomizer(new Mt19937(7));
        $value = fn () => [null, 'a', 'b', ['x' => 1, 'y' => 2], ['y' => 2, 'x' => 1]][$random->getInt(0, 4)];
        $seen = [];
        for ($n = 0; $n < 300; $n++) {
            $of = ['base' => [], 'file' => [], 'screen' => []];
            foreach (range(1, 12) as $i) {
                foreach (array_keys($of) as $whose) {
                    $is = $value();
                    if ($is !== null) {
                        $of[$whose]["parameters\0p$i"] = $is;
                    }
                }
            }
            $merge = Merge::of(...array_map(Items::from(...), array_values($of)));
            $conflicts = array_column($merge->conflicts, null, 'path');
            foreach (range(1, 12) as $i) {
                $path = "parameters\0p$i";
                [$base, $file, $screen] = array_map(fn ($o) => $o[$path] ?? null, array_values($of));
                // Compared as PHP compares maps: the order of names says nothing.
                [$fileDid, $screenDid] = [$file != $base, $screen != $base];
                $expected = ! $fileDid && $screenDid ? $screen : $file;
                self::assertSame($expected, $merge->result->all[$path] ?? null);
                self::assertSame(! $fileDid && $screenDid, in_array($path, $merge->kept, true));
                self::assertSame($fileDid && $screenDid && $file != $screen, isset($conflicts[$path]));
                $seen[($fileDid ? 'f' : '-').($screenDid ? 's' : '-').($file == $screen ? '=' : '!')] = true;
                if (isset($conflicts[$path])) {
                    self::assertSame($screen, $merge->with([$path])->all[$path] ?? null);
                    self::assertSame($file, $merge->with([])->all[$path] ?? null);
                }
            }
        }
        self::assertCount(5, $seen);
    }

    /** Random edits of the demo's plan, of the file and of the screen: different items merge, one item edited by both is told. */
    public function test_edits_of_different_items_merge_and_nothing_is_lost(): void
    {
        $random = new Randomizer(new Mt19937(3));
        $base = Items::of($this->demo());
        for ($n = 0; $n < 60; $n++) {
            $paths = array_values(array_filter(array_keys($base->all), fn ($p) => ! str_ends_with($p, 'is there')));
            $picked = array_map(fn ($i) => $paths[$i], (array) $random->pickArrayKeys($paths, 8));
            [$file, $screen] = [$base->all, $base->all];
            foreach ($picked as $i => $path) {
                $edited = $random->getInt(0, 3) === 0 ? null : (is_array($base->all[$path]) ? ['rule' => "trim(x$n)"] : "edited $n");
                if ($i % 2 === 0) {
                    $file = self::edited($file, $path, $edited);
                } else {
                    $screen = self::edited($screen, $path, $edited);
                }
            }
            $both = $picked[0];
            $merge = Merge::of($base, Items::from($file), Items::from($screen));
            self::assertSame([], $merge->conflicts);
            foreach ($base->all + $file + $screen as $path => $was) {
                $expected = ($file[$path] ?? null) !== $was ? $file[$path] ?? null : $screen[$path] ?? null;
                self::assertSame($expected, $merge->result->all[$path] ?? null, Items::shown($path));
            }
            $told = Merge::of($base, Items::from($file), Items::from(self::edited($screen, $both, ['rule' => 'otherwise'])));
            self::assertSame([$both], array_map(fn (Conflict $c) => $c->path, $told->conflicts));
            self::assertStringContainsString('otherwise', $told->conflicts[0]->text());
        }
    }

    /**
     * @param  array<string, mixed>  $items
     * @return array<string, mixed>
     */
    private static function edited(array $items, string $path, mixed $value): array
    {
        unset($items[$path]);

        return $value === null ? $items : $items + [$path => $value];
    }

    /** What belonged to a load the file removed goes with it, unless somebody worked on it meanwhile; and the other way round. */
    public function test_a_load_goes_as_a_whole(): void
    {
        $plan = $this->demo();
        $without = $plan;
        $gone = array_pop($without['loads']);
        $noted = $plan;
        $noted['loads'][count($plan['loads']) - 1]['note'] = 'noted since';
        [$base, $less, $more] = array_map(Items::of(...), [$plan, $without, $noted]);
        $left = fn (Items $items): int => count(
            array_filter(array_keys($items->all), fn ($p) => str_starts_with($p, "loads\0$gone[name]\0")),
        );
        // Removed by one and left alone by the other.
        foreach ([Merge::of($base, $less, $base), Merge::of($base, $base, $less)] as $merge) {
            self::assertSame([0, []], [$left($merge->result), $merge->conflicts]);
        }
        // Removed by one and changed by the other: told, and whole whatever is chosen.
        foreach ([[$less, $more, 0], [$more, $less, $left($more)]] as [$file, $screen, $stays]) {
            $merge = Merge::of($base, $file, $screen);
            $path = "loads\0$gone[name]\0is there";
            self::assertSame([[$path], []], [array_map(fn (Conflict $c) => $c->path, $merge->conflicts), $merge->kept]);
            self::assertSame($stays, $left($merge->with([])));
            self::assertSame($left($more) - $stays, $left($merge->with([$path])));
        }
    }
}
