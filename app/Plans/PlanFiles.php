<?php

namespace App\Plans;

/** The files a plan names: only those below its own folder are opened. */
final class PlanFiles
{
    /** @return string|null the path, links followed; null where there is no file to be read below the folder */
    public static function below(string $folder, string $name): ?string
    {
        $folder = realpath($folder);
        $path = $folder === false || str_contains($name, "\0")
            ? false
            : realpath(str_starts_with($name, '/') ? $name : "$folder/$name");

        return $path !== false
            && str_starts_with($path, rtrim((string) $folder, '/').'/')
            && is_file($path)
            && is_readable($path)
            ? $path
            : null;
    }
}
