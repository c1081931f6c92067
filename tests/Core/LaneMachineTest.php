<?php

namespace Tests\Core;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Tests\Support\LaneMachine;

/**
 * Random sequences of passes, kills between any two steps, targets that do not answer, new takes, changed rules and codes, repairs,
 * resumes and further rounds, driven through the core with ports in memory. After every step the law of conservation holds, other
 * rounds are as they were, and what is finished equals what plain loops make of the same rows.
 */
final class LaneMachineTest extends TestCase
{
    /** @return iterable<string, array{int}> */
    public static function seeds(): iterable
    {
        // bench/machine.php runs any number of them.
        foreach (range(0, 180, 20) as $from) {
            yield "seeds from $from" => [$from];
        }
    }

    #[DataProvider('seeds')]
    public function test_whatever_happens_every_row_is_accounted_for(int $from): void
    {
        $steps = $kills = 0;
        foreach (range($from, $from + 19) as $seed) {
            $machine = new LaneMachine($seed);
            for ($i = 0; $i < 26; $i++) {
                $machine->step();
                self::assertSame([], $machine->broken(), "seed $seed, after ".implode(', ', $machine->done));
            }
            $machine->finish();
            self::assertSame([], $machine->broken(), "seed $seed, after ".implode(', ', $machine->done));
            $steps += count($machine->done);
            $kills += $machine->kills;
        }
        self::assertGreaterThan(300, $steps);
        self::assertGreaterThan(20, $kills);
    }
}
