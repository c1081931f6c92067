<?php

namespace App\Reading;

use PhpOffice\PhpSpreadsheet\Reader\IReadFilter;

/** Lets only the first rows of a sheet through, for a preview. */
final class FirstRows implements IReadFilter
{
    private const ROWS = 120;

    public function readCell(string $columnAddress, int $row, string $worksheetName = ''): bool
    {
        return $row <= self::ROWS;
    }
}
