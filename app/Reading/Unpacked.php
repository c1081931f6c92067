<?php

namespace App\Reading;

use Baggage\Core\Reading\ReadingError;

/** How many bytes there are to read in a file. */
final class Unpacked
{
    /**
     * @param  string|null  $member  of an archive
     *
     * @throws ReadingError
     */
    public static function bytes(string $path, ?string $member = null): int
    {
        if (file_get_contents($path, false, null, 0, 4) !== "PK\x03\x04") {
            return (int) filesize($path);
        }
        $zip = ZipMembers::of($path);

        return array_sum(array_map($zip->size(...), $member === null ? $zip->names() : [$member]));
    }
}
