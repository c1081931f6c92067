<?php

namespace Tests\Core;

use Baggage\Core\Plan\Places;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Symfony\Component\Yaml\Yaml;

/** Where everything in a YAML text stands. */
final class PlacesTest extends TestCase
{
    public function test_every_style_a_plan_is_written_in(): void
    {
        $yaml = <<<'YAML'
        # a comment
        one: 1
        "two words": {a: b, 'c d': [x, "y, z", {e: f}],
            New York: NY, g: }
        list:
        - name: first   # behind it
          rule: |
            name: not a key
            - nor an item
          more: >
            text
        - - nested
          - 2001-01-01
        -
          name: third
          deep:
            - {k: 007, url: http://x:1/y}
        after: "quoted: on
          two lines: still"
        'it''s': [1,
          2, 3]
        last: +5
        YAML;
        $places = Places::of($yaml);
        foreach (
            [
                [['one'], 2, 1],
                [['two words'], 3, 1],
                [['two words', 'a'], 3, 15],
                [['two words', 'c d', 2, 'e'], 3, 41],
                [['two words', 'New York'], 4, 5],
                [['list', 0, 'rule'], 7, 3],
                [['list', 0, 'more'], 10, 3],
                [['list', 1, 1], 13, 3],
                [['list', 2, 'name'], 15, 3],
                [['list', 2, 'deep', 0, 'url'], 17, 16],
                [['after'], 18, 1],
                [["it's", 2], 21, 6],
                [['last'], 22, 1],
                // What is not there is where it would be looked for.
                [['list', 2, 'deep', 0, 'nothing', 4], 17, 5],
            ] as [$path, $line, $column]
        ) {
            self::assertSame([$line, $column], $places->find($path), implode('.', $path));
        }
        self::assertSame(['a', 'c d', 'New York', 'g'], $places->keys(['two words']));
        self::assertSame(['one', 'two words', 'list', 'after', "it's", 'last'], $places->keys([]));
        self::assertSame(['name', 'rule', 'more'], $places->keys(['list', 0]));
        self::assertSame(['2001-01-01', '007', '+5', null], [
            $places->plain(['list', 1, 1]),
            $places->plain(['list', 2, 'deep', 0, 'k']),
            $places->plain(['last']),
            $places->plain(['after']),
        ]);
        self::assertSame([null, 0], [$places->find(['nowhere']), $places->aliases]);
    }

    /** symfony/yaml writes in any mixture of block and flow style, and its reader tells what is in it. */
    public function test_it_finds_all_that_the_yaml_reader_finds(): void
    {
        $random = new Randomizer(new Mt19937(12));
        $texts = [
            'plain', 'two words', 'with: colon', "it's", 'a "quote"', '- dash', '#no', "two\nlines", '007', 'null', '', 'x, y', '{z}',
            "tab\tin",
        ];
        $make = function (int $depth) use (&$make, $random, $texts): mixed {
            $kind = $depth === 0 ? 0 : $random->getInt(0, 3);
            $some = $random->getInt(1, 4);
            if ($kind < 2) {
                return [$texts[$random->getInt(0, count($texts) - 1)], $random->getInt(-9, 999), true, null][$random->getInt(0, 3)];
            }
            $made = [];
            for ($i = 0; $i < $some; $i++) {
                $made[$kind === 2 ? $i : $texts[$random->getInt(0, 7)].$i] = $make($depth - 1);
            }

            return $made;
        };
        for ($n = 0; $n < 400; $n++) {
            $data = ['first' => $make(4), 'second' => [$make(3), $make(2)], 'last' => 'x'];
            $yaml = Yaml::dump($data, $random->getInt(1, 6), [2, 4][$n % 2], Yaml::DUMP_MULTI_LINE_LITERAL_BLOCK);
            $this->agrees(Places::of($yaml), Yaml::parse($yaml), [], explode("\n", $yaml), $yaml);
            // JSON is YAML too; what it escapes stands otherwise there.
            $json = (string) json_encode($data, JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES);
            self::assertSame(array_keys($data), Places::of($json)->keys([]));
            self::assertNotNull(Places::of($json)->find(['second', 1]));
        }
    }

    /**
     * @param  array<mixed>  $data
     * @param  list<string|int>  $path
     * @param  list<string>  $lines
     */
    private function agrees(Places $places, array $data, array $path, array $lines, string $yaml): void
    {
        if ($data !== [] && ! array_is_list($data)) {
            self::assertSame(array_map(strval(...), array_keys($data)), $places->keys($path), $yaml);
        }
        foreach ($data as $key => $value) {
            [$line, $column] = $places->find([...$path, $key]) ?? [0, 0];
            self::assertNotSame($places->find($path), [$line, $column], implode('.', [...$path, $key])." in\n$yaml");
            if (is_string($key)) {
                self::assertStringContainsString(substr($key, 0, 3), substr($lines[$line - 1], $column - 1), $yaml);
            }
            if (is_array($value)) {
                $this->agrees($places, $value, [...$path, $key], $lines, $yaml);
            }
        }
    }
}
