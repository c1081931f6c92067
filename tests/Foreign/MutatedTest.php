<?php

namespace Tests\Foreign;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Symfony\Component\Process\Process;
use Tests\Support\Mutants;

/** Good files of every kind with bytes changed, forty of each; any number by tests/Support/mutate.php. Never a fatal, never for long. */
final class MutatedTest extends TestCase
{
    private const EACH = 40;

    /** @return iterable<string, array{string}> */
    public static function kinds(): iterable
    {
        foreach (Mutants::KINDS as $kind) {
            yield $kind => [$kind];
        }
    }

    #[DataProvider('kinds')]
    public function test_what_is_damaged_is_read_or_refused(string $kind): void
    {
        $first = 1;
        $ended = 0;
        do {
            $left = self::EACH + 1 - $first;
            $run = new Process(
                [PHP_BINARY, '-d', 'memory_limit=160M', 'tests/Support/mutate.php', $kind, (string) $first, (string) $left],
                dirname(__DIR__, 2),
                timeout: 60,
            );
            $code = $run->run();
            $isMemory = str_contains($run->getErrorOutput(), 'Allowed memory size');
            // A length that became enormous asks for more memory than there is: the process is told so, and ends alone.
            self::assertTrue($code === 0 || ($kind === 'xls' && $isMemory), "$kind: {$run->getErrorOutput()}");
            preg_match('/^(?:\d+ )*(\d+) /', $run->getErrorOutput(), $last);
            $first = (int) ($last[1] ?? 0) + 1;
            $ended += $code === 0 ? 0 : 1;
            $told = array_filter(explode("\n", $run->getOutput()), fn (string $line) => $line !== '' && ! str_starts_with($line, 'done'));
            self::assertSame([], array_values($told));
        } while ($code !== 0 && $first <= self::EACH);
        self::assertSame(self::EACH, $first - 1, 'all of them');
        self::assertLessThan(5, $ended);
    }

    /** What is changed is changed alike each time, and the good ones are read. */
    public function test_good_ones_are_good_and_changes_are_the_same_for_the_same_number(): void
    {
        $good = Mutants::good('csv');
        self::assertSame(Mutants::of($good, 7), Mutants::of($good, 7));
        self::assertNotSame(Mutants::of($good, 7), Mutants::of($good, 8));
        self::assertCount(40, array_unique(array_map(fn (int $seed) => Mutants::of($good, $seed), range(1, 40))));
    }
}
