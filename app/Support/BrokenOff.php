<?php

namespace App\Support;

/** Work that cannot go on for a reason somebody can do something about: no room on the disk, a process of it that was ended. */
final class BrokenOff extends \RuntimeException
{
    public static function noRoom(string $folder): self
    {
        return new self("The temporary folder $folder cannot be written: is the disk full?");
    }

    public static function notTaken(string $table, int $written, int $expected, string $why): self
    {
        return new self($written === $expected
            ? "A value does not fit into $table, and nothing is cut: $why"
            : "Only $written of $expected rows went into $table: $why");
    }

    public static function helper(string $why): self
    {
        return new self($why === '' ? 'A process that helps reading ended early; freeze it again.' : $why);
    }

    public static function olderData(): self
    {
        return new self(
            'This data folder was made by an earlier version, whose tables are others, and nothing in it was changed. Begin a new '
                .'one: bin/start --fresh makes the demo anew. That earlier version can write every migration down as a plan first.',
        );
    }
}
