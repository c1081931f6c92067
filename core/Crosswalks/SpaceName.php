<?php

namespace Baggage\Core\Crosswalks;

/** Names of key spaces: those a plan gives, and those of rows that stand for no key of the space they read ("NAME#load"). */
final class SpaceName
{
    /** The one the rows of a reading load are told apart in; a plan cannot give it. */
    public static function ofRows(string $reads, int $load): string
    {
        return "$reads#$load";
    }

    public static function isOfRows(string $name): bool
    {
        return str_contains($name, '#');
    }

    /** The space a plan gave: the name itself, or of a reading load the one it reads. */
    public static function given(string $name): string
    {
        return explode('#', $name, 2)[0];
    }
}
