<?php

namespace Tests\Core;

use Baggage\Core\Plan\PlanError;
use Baggage\Core\Plan\PlanReader;
use Baggage\Core\Plan\PlanWriter;
use Baggage\Core\Reconciling\CountProof;
use Baggage\Core\Rows\Outcome;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Symfony\Component\Yaml\Yaml;

final class PlanTest extends TestCase
{
    private function demo(): string
    {
        return (string) file_get_contents(__DIR__.'/../../demo/plan.yaml');
    }

    public function test_what_is_written_reads_the_same(): void
    {
        $plan = (new PlanReader)->read($this->demo(), 'plan.yaml')->plan;
        self::assertSame($plan, (new PlanReader)->read((new PlanWriter)->write($plan), 'again.yaml')->plan);
        // JSON is YAML too, and so is a file with a byte order mark and other ends of lines.
        $json = json_encode($plan, JSON_UNESCAPED_UNICODE | JSON_THROW_ON_ERROR);
        self::assertEquals($plan, (new PlanReader)->read($json, 'plan.json')->plan);
        $other = "\xEF\xBB\xBF".str_replace("\n", "\r\n", $this->demo());
        self::assertSame($plan, (new PlanReader)->read($other, 'other.yaml')->plan);
    }

    /** @return iterable<array{string, string, string}> */
    public static function mistakes(): iterable
    {
        yield ['policy: create_or_update', 'polcy: create_or_update', 'line %d, column %c, loads.3.polcy: unknown field "polcy"'];
        yield ['empty: The sheets', 'emty: The sheets', 'line %d, column %c, loads.4.fields.bill_to.emty: unknown field "emty"'];
        yield ['from: BB/craft', 'from: BB/crafts', 'line %d, column %c, loads.6.from: no source has the extract "BB/crafts"'];
        yield [
            'reader: {delimiter: ";", encoding: UTF-8}',
            'reader: {delimiter: ";", encoding: UTF8}',
            'line %d, column %c, sources.1.extracts.0.reader.encoding',
        ];
        yield ['key: [ref]', 'key: ref', 'line %d, column %c, loads.4.key'];
        yield ['from: BB/craft', 'from: craft', 'line %d, column %c, loads.6.from: must be a source and its extract, as BB/craft'];
        yield ['key: [ref]', "key: [ref]\n    key_space: 'A#1'", 'loads.4.key_space: must be 1 to 12 letters, digits, hyphens or'];
        yield [
            "    scope_reason: Cancelled agreements stay in the archive\n",
            '',
            'loads.7.scope: a scope needs a scope_reason',
        ];
        yield ['loads:', 'loads: ]', 'line '];
        yield ['- name: Vessels', '- name: Agreements', 'there are two loads named "Agreements"'];
    }

    #[DataProvider('mistakes')]
    public function test_a_mistake_is_named_with_file_line_and_field(string $old, string $new, string $says): void
    {
        self::assertStringContainsString($old, $this->demo());
        $line = substr_count(substr($this->demo(), 0, (int) strpos($this->demo(), $old)), "\n") + 1;
        try {
            (new PlanReader)->read(str_replace($old, $new, $this->demo()), 'plan.yaml');
            self::fail('read');
        } catch (PlanError $e) {
            self::assertStringContainsString('plan.yaml', $e->getMessage());
            $pattern = str_replace(['%d', '%c'], [(string) $line, '\d+'], preg_quote($says, '/'));
            self::assertMatchesRegularExpression("/$pattern/", $e->getMessage());
        }
    }

    public function test_loads_that_share_keys_compare_them_alike(): void
    {
        $load = fn (string $name, string $from, string $more = '') => "  - {name: $name, entity: party, from: $from, key: [no]$more, "
            ."fields: {}}\n";
        $plan = fn (string ...$loads) => "baggage: 1\nmigration: M\ntarget: {application: x, connections: [{name: r, host: h, "
            ."database: d, username: u}]}\nsources:\n  - {code: A, name: A, extracts: [{name: x}, {name: y}]}\n"
            ."  - {code: B, name: B, extracts: [{name: z}]}\nloads:\n".implode('', $loads);
        $number = ', key_compared: number';
        $good = $plan($load('One', 'A/x', $number), $load('Two', 'A/y', $number), $load('Three', 'B/z'));
        self::assertCount(3, (new PlanReader)->read($good, 'p')->plan['loads']);
        $this->expectException(PlanError::class);
        $this->expectExceptionMessageMatches(
            '/^p, line 9, column 54, loads.1.key_compared: .* party in A .*"number" here and by "trim" in line 8/',
        );
        (new PlanReader)->read($plan($load('One', 'A/x'), $load('Two', 'A/y', $number)), 'p');
    }

    public function test_every_pattern_of_the_schema_has_words(): void
    {
        preg_match_all('/"pattern": ("[^"]*")/', (string) file_get_contents(PlanReader::SCHEMA), $patterns);
        $words = (new \ReflectionClassConstant(PlanReader::class, 'PATTERNS'))->getValue();
        self::assertSame([], array_diff(array_map(json_decode(...), $patterns[1]), array_keys($words)));
    }

    /** An editor completes from it, so nothing in it is without words. */
    public function test_everything_in_the_schema_is_described(): void
    {
        $bare = [];
        $walk = function (array $part, string $at) use (&$walk, &$bare): void {
            foreach ($part['properties'] ?? [] as $name => $property) {
                if (! isset($property['description'])) {
                    $bare[] = "$at/$name";
                }
                $walk($property, "$at/$name");
            }
            foreach (['items', 'additionalProperties'] as $inner) {
                is_array($part[$inner] ?? null) ? $walk($part[$inner], "$at/$inner") : null;
            }
            foreach ($part['anyOf'] ?? [] as $i => $alternative) {
                $walk($alternative, "$at/$i");
            }
        };
        $schema = json_decode((string) file_get_contents(PlanReader::SCHEMA), true, 512, JSON_THROW_ON_ERROR);
        $walk($schema, '#');
        foreach ($schema['definitions'] as $name => $definition) {
            $walk($definition, "#/definitions/$name");
        }
        self::assertSame([], $bare);
    }

    public function test_the_schema_published_in_the_documentation_is_the_one_in_force(): void
    {
        $page = (string) file_get_contents(__DIR__.'/../../docs/plan-file.md');
        preg_match_all('/```yaml\n(baggage: 1.*?)```/s', $page, $examples);
        self::assertNotEmpty($examples[1]);
        foreach ($examples[1] as $example) {
            self::assertSame(Yaml::parse($example), (new PlanReader)->read($example, 'docs/plan-file.md')->plan);
        }
    }

    public function test_the_conservation_law(): void
    {
        $proof = new CountProof(100, 100, ['loaded' => 80, 'merged' => 5, 'rejected' => 4, 'held' => 1], 10, 5, 87, 2, 80);
        self::assertSame([0, 0, 0], [$proof->unaccounted(), $proof->lostInReading(), $proof->targetGap()]);
        self::assertTrue($proof->holds());
        self::assertSame([10, 15], [$proof->count(Outcome::Pending), $proof->open()]);
        self::assertSame(
            [3, 2, -1],
            [
                (new CountProof(100, 98, ['loaded' => 95], 0))->unaccounted(),
                (new CountProof(100, 98, [], 98))->lostInReading(),
                (new CountProof(9, 9, ['loaded' => 9], 0, 0, 8, 0, 9))->targetGap(),
            ],
        );
        $both = CountProof::sum($proof, new CountProof(2, 2, ['loaded' => 2], 0, 5, 87));
        self::assertSame([82, 102], [$both->count(Outcome::Loaded), $both->feedRows]);
    }
}
