<?php

namespace Tests\Core;

use PHPUnit\Framework\TestCase;
use Symfony\Component\Process\Process;

/** Some sixty plans that were made to do harm, under limits lowered for them: none takes longer than a second or more than 32 MB. */
final class HostilePlansTest extends TestCase
{
    /** What means no harm to whoever reads it: where a file may lie is asked when it is opened. */
    private const READ = ['yes', 'directions', 'a path upwards', 'an address', 'a protocol'];

    /** What is said of some of them; of all others at least in which file. */
    private const SAYS = [
        'half a letter' => 'not UTF-8',
        'indents' => 'line 65: What stands here is nested more than 64 deep',
        'dashes' => 'line 1: What stands here is nested more than 64 deep',
        'a long plan' => 'at most 0.3 MB',
        'tabs' => 'indented with a tab',
        'an alias bomb' => 'its aliases make more of them',
        'a wide alias bomb' => 'Its aliases make more of it',
        'a deep alias bomb' => 'its aliases make more of them',
        'many aliases' => 'its aliases make more of them',
        'an alias of itself' => 'names itself',
        'an alias of nothing' => 'an anchor that is not there',
        'infinity' => 'line 2, column 1, migration: infinity',
        'a version that is infinity' => 'line 1, column 1, baggage: infinity',
        'a huge number' => 'migration: Must be at most 200 characters',
        'the same key twice' => 'a second time',
        'parentheses' => 'Unclosed "("',
        'nots' => 'nested too deeply',
        'pluses' => 'nested too deeply',
        'a long rule' => 'at most 4000 characters',
        'a power' => 'cannot be used in rules',
        'a call of PHP' => 'no function "system"',
    ];

    public function test_each_is_told_in_time_and_little_memory(): void
    {
        $run = new Process([PHP_BINARY, '-d', 'memory_limit=32M', 'tests/Support/hostile-plans.php'], dirname(__DIR__, 2));
        self::assertSame(0, $run->run(), $run->getOutput().$run->getErrorOutput());
        $said = [];
        foreach (explode("\n", trim($run->getOutput())) as $line) {
            [$name, $bytes, $length, $text] = json_decode($line, true, 512, JSON_THROW_ON_ERROR);
            self::assertLessThan(400_000, $bytes);
            self::assertLessThan(4000, $length, $name);
            $said[$name] = $text;
        }
        self::assertGreaterThan(50, count($said));
        self::assertSame(self::READ, array_keys($said, 'read', true));
        foreach (array_diff_key($said, array_flip(self::READ)) as $name => $text) {
            self::assertStringStartsWith('plan.yaml', $text, $name);
            self::assertStringContainsString(self::SAYS[$name] ?? 'plan.yaml', $text, $name);
        }
        self::assertSame([], array_diff_key(self::SAYS, $said));
    }
}
