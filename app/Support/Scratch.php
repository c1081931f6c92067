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

    /**
     * A file that is written, opened and gone: what is still read of it is nowhere when its reader ends, however that is.
     *
     * @param  \Closure(string): void  $write  to a path
     * @return resource
     */
    public static function file(\Closure $write)
    {
        $folder = self::make();
        try {
            $write("$folder/file");

            return fopen("$folder/file", 'rb') ?: throw BrokenOff::noRoom($folder);
        } finally {
            self::drop($folder);
        }
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
