<?php

namespace App\Support;

use Illuminate\Support\Facades\File;
use Illuminate\Support\Str;

/** Folders for what is only needed while something is read. They go with whoever made them, and at the latest when it is looked. */
final class Scratch
{
    /** @return string path of a folder nobody else may look into */
    public static function make(): string
    {
        $path = self::root().'/'.getmypid().'-'.Str::random(12);
        mkdir($path, 0700, true);

        return $path;
    }

    /** @return string path of a folder that goes when the answer has been given */
    public static function ofAnswer(): string
    {
        $path = self::make();
        app()->terminating(fn () => self::drop($path));

        return $path;
    }

    public static function drop(string $path): void
    {
        File::deleteDirectory($path);
    }

    /** Removes those whose makers are no more. */
    public static function sweep(): void
    {
        foreach (glob(self::root().'/*-*', GLOB_ONLYDIR) ?: [] as $path) {
            // A number may be another process's by now: what is a day old goes too.
            if (! is_dir('/proc/'.(int) basename($path)) || (int) @filemtime($path) < time() - 86_400) {
                self::drop($path);
            }
        }
    }

    private static function root(): string
    {
        return (string) config('baggage.scratch');
    }
}
