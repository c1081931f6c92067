<?php

namespace Tests\Core;

use Baggage\Core\Crosswalks\KeyNormalisation;
use Baggage\Core\Loading\PlanVersion;
use Baggage\Core\Mapping\LoadDefinition;
use Baggage\Core\Mapping\WritePolicy;
use Baggage\Core\Matching\MatchRule;
use Baggage\Core\Rows\Outcome;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Field;
use Baggage\Core\Targets\Types\TextType;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Tests\Support\Crew;
use Tests\Support\Killed;
use Tests\Support\MemoryLane;
use Tests\Support\MemoryTarget;
use Tests\Support\PlainFirst;

/**
 * The first in row order stands (SEMANTICS of the first), whatever the stretches, workers and kills, over two loads that fill one
 * entity side by side; a refused row leaves what it wanted to the next; a repaired earlier row takes over.
 */
final class FirstTest extends TestCase
{
    private const LOADS = [1 => 'A', 2 => 'B'];

    /** @return iterable<string, array{bool, bool, bool, bool}> */
    public static function kinds(): iterable
    {
        foreach ([[false, true], [true, false], [true, true]] as [$isMatched, $isUnique]) {
            foreach ($isMatched ? [[false, false], [true, false], [true, true]] : [[false, false]] as [$others, $updates]) {
                $name = ($isMatched ? 'matched ' : '').($isUnique ? 'unique ' : '').($others ? 'others ' : '').($updates ? 'updates' : '');
                yield trim($name) => [$isMatched, $isUnique, $others, $updates];
            }
        }
    }

    #[DataProvider('kinds')]
    public function test_the_first_stands(bool $isMatched, bool $isUnique, bool $hasOthers, bool $updates): void
    {
        $refused = $merged = $taken = $again = 0;
        // SEEDS=2000 makes it long.
        $seeds = (int) (getenv('SEEDS') ?: 50);
        for ($seed = 0; $seed < $seeds; $seed++) {
            $random = new Randomizer(new Mt19937($seed));
            [$lane, $target] = [new MemoryLane, new MemoryTarget];
            $others = $hasOthers ? $this->others($random, $lane, $target) : [];
            $rows = ['A' => $this->rows($random, false), 'B' => $this->rows($random, $isUnique)];
            $plan = $this->plan($isMatched, $isUnique, $updates);
            $this->work($plan, $lane, $target, $rows, 1, false, $random);
            $plain = new PlainFirst($isMatched, $isUnique, $updates, $others);
            $plain->run($rows);
            self::assertSame($this->plain($plain), $this->state($lane, $target), "seed $seed");
            $merged += count(array_keys($plain->outcomes, 'merged', true));
            $refused += count(array_keys($plain->outcomes, 'rejected', true));

            // Some rows are repaired and go again: without values that must be unique it ends as a fresh pass over the repaired rows would.
            $repaired = $this->repair($rows, $lane, $random);
            $this->work($plan, $lane, $target, $repaired, 2, true, $random);
            $fresh = new PlainFirst($isMatched, $isUnique, $updates, $others);
            $fresh->run($repaired);
            if (! $isUnique && ! $hasOthers && ! $this->isKeptByLater($lane)) {
                $this->assertAsIfFresh($fresh, $lane, $target, "seed $seed, again");
                $again += (int) ($fresh->on !== $plain->on);
            }
            $this->assertLaw($lane, $target, "seed $seed");
            $taken += (int) ($fresh->outcomes !== $plain->outcomes);
        }
        self::assertGreaterThan($seeds, $refused);
        self::assertGreaterThan($isMatched ? $seeds / 3 : -1, $merged);
        self::assertGreaterThan($isUnique || $hasOthers ? -1 : $seeds / 4, $again);
        self::assertGreaterThan($seeds / 4, $taken);
    }

    /**
     * Whether a repaired earlier row is another row's duplicate while a later one has its key and a record of its own: nobody would be left
     * to stand on that, so the later one keeps it.
     */
    private function isKeptByLater(MemoryLane $lane): bool
    {
        $stands = [];
        foreach ($lane->lines as $load => $lines) {
            foreach ($lines as $row => $line) {
                $stands += $line['target'] === null ? [] : [$line['key'] => [$load, $row]];
            }
        }
        foreach ($lane->lines as $load => $lines) {
            foreach ($lines as $row => $line) {
                if ($line['cause']?->code === 'duplicate_key' && $stands[$line['key']] > [$load, $row]) {
                    return true;
                }
            }
        }

        return false;
    }

    /** @return array<string, array{name: string, mail: string|null}> */
    private function others(Randomizer $random, MemoryLane $lane, MemoryTarget $target): array
    {
        $others = [];
        foreach (['Ann', 'bo', 'Zoe'] as $n => $name) {
            $mail = $random->getInt(0, 1) === 0 ? null : "m$n@x";
            $others["other $n"] = ['name' => $name, 'mail' => $mail];
            $target->records['party']["T$n"] = ['id' => "T$n", 'name' => $name, 'mail' => $mail];
            $lane->matches['party '.self::rule()->key(['name' => $name])] = "T$n";
        }
        $lane->others['party'] = 3;

        return $others;
    }

    /** @return array<int, array{no: string, name: string, mail: string}> */
    private function rows(Randomizer $random, bool $few): array
    {
        $any = fn (array $of) => $of[$random->getInt(0, count($of) - 1)];
        $rows = [];
        for ($n = $random->getInt(0, $few ? 4 : 9), $i = 1; $i <= $n; $i++) {
            $rows[$i] = [
                'no' => $any(['', 'K1', 'K2', 'K3', 'K4', "N$i", 'X'.$random->getInt(1, 999), ' K1 ']),
                'name' => $any(['', 'Ann', 'ANN', 'Bo', 'Cy!', 'Di', 'D-i', 'Eve', "F$i", 'G'.$random->getInt(1, 999)]),
                'mail' => $any(['', '', 'm1@x', 'M1@X', 'm2@x', "p$i@x", 'q'.$random->getInt(1, 999)]),
            ];
        }

        return $rows;
    }

    private static function rule(): MatchRule
    {
        return MatchRule::fromArray(['name' => 'by name', 'on' => ['name' => 'letters']]);
    }

    private function plan(bool $isMatched, bool $isUnique, bool $updates): PlanVersion
    {
        $party = new Entity('party', 'id', [
            new Field('id', new TextType(20), false, true),
            new Field('name', new TextType(40), true),
            new Field('mail', new TextType(40)),
        ], $isUnique ? [['mail']] : []);
        $of = fn (int $n) => new LoadDefinition(
            $n,
            self::LOADS[$n],
            $party,
            'S',
            'S',
            ['no'],
            KeyNormalisation::Trim,
            ['name' => 'trim(name)', 'mail' => 'trim(mail)'],
            policy: $updates ? WritePolicy::CreateOrUpdate : WritePolicy::Create,
            matches: $isMatched ? [self::rule()] : [],
        );

        return new PlanVersion([$of(1), $of(2)], [], [], []);
    }

    /** @param  array<string, array<int, array{no: string, name: string, mail: string}>>  $rows */
    private function work(
        PlanVersion $plan,
        MemoryLane $lane,
        MemoryTarget $target,
        array $rows,
        int $pass,
        bool $isRetry,
        Randomizer $random,
    ): void {
        $takes = array_map(fn (array $r) => ['headers' => ['no', 'name', 'mail'], 'rows' => $r], $rows);
        $crew = new Crew($plan, $lane, $target, $takes, $pass, $isRetry, [], $random, $random->getInt(1, 5));
        do {
            $at = $random->getInt(1, 20);
            $target->fault = $lane->fault = function () use (&$at) {
                if (--$at === 0) {
                    throw new Killed('kill -9');
                }
            };
        } while (! $crew->go($random->getInt(1, 30)));
        $target->fault = $lane->fault = null;
    }

    /**
     * @param  array<string, array<int, array{no: string, name: string, mail: string}>>  $rows
     * @return array<string, array<int, array{no: string, name: string, mail: string}>>
     */
    private function repair(array $rows, MemoryLane $lane, Randomizer $random): array
    {
        $lane->due = [];
        foreach (self::LOADS as $load => $name) {
            foreach ($lane->rows($load, Outcome::Rejected) as $row) {
                if ($random->getInt(0, 2) > 0) {
                    $is = &$rows[$name][$row];
                    $is['no'] = trim($is['no']) === '' ? 'K'.$random->getInt(1, 4) : $is['no'];
                    $is['name'] = trim($is['name']) === '' ? 'Ann' : str_replace('!', '', $is['name']);
                    unset($is);
                }
                // Whatever failed is tried again: what it met may have gone.
                $lane->due[$load][] = $row;
            }
        }

        return $rows;
    }

    /** @return array<string, array{string, string|null, array<string, string|null>|null}> load and row → outcome, record, its contents */
    private function state(MemoryLane $lane, MemoryTarget $target): array
    {
        $state = [];
        $by = [];
        foreach (self::LOADS as $load => $name) {
            $lines = $lane->lines[$load] ?? [];
            ksort($lines);
            foreach ($lines as $row => $line) {
                if ($line['target'] !== null && $line['outcome'] !== Outcome::Merged) {
                    $by[$line['target']] = str_starts_with($line['target'], 'T') ? 'other '.substr($line['target'], 1) : "$name $row";
                }
                $state["$name $row"] = [$line['outcome']->value, $line['target']];
            }
        }

        return array_map(function (array $s) use ($by, $target) {
            $record = $s[1] === null ? null : array_diff_key($target->records['party'][$s[1]], ['id' => 1]);

            return [$s[0], $s[1] === null ? null : $by[$s[1]] ?? "nobody stands on $s[1]", $record];
        }, $state);
    }

    /** @return array<string, array{string, string|null, array<string, string|null>|null}> */
    private function plain(PlainFirst $plain): array
    {
        $state = [];
        foreach ($plain->outcomes as $at => $outcome) {
            $on = $plain->on[$at] ?? null;
            $state[$at] = [$outcome, $on, $on === null ? null : $plain->records[$on]];
        }

        return $state;
    }

    private function assertAsIfFresh(PlainFirst $fresh, MemoryLane $lane, MemoryTarget $target, string $which): void
    {
        self::assertSame($this->plain($fresh), $this->state($lane, $target), $which);
    }

    /** Every key stands once, every record has somebody who stands on it, and no row waits. */
    private function assertLaw(MemoryLane $lane, MemoryTarget $target, string $which): void
    {
        $keys = $stood = [];
        foreach (array_keys(self::LOADS) as $load) {
            self::assertSame([], $lane->rows($load, Outcome::Pending), $which);
            foreach ($lane->lines[$load] ?? [] as $line) {
                if ($line['target'] !== null) {
                    $keys[] = $line['key'];
                    $stood[$line['target']] = $line['outcome'] === Outcome::Merged ? $stood[$line['target']] ?? false : true;
                }
            }
        }
        self::assertSame(count($keys), count(array_unique($keys)), $which);
        $made = array_filter($target->records['party'] ?? [], fn ($key) => ! str_starts_with((string) $key, 'T'), ARRAY_FILTER_USE_KEY);
        self::assertSame([], array_diff_key($made, array_filter($stood)), "$which: nobody stands on it");
    }
}
