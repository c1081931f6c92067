<?php

namespace App\View;

use App\Models\Load;

/** Which row, or which record of the target, keeps a row out by having its key or a value that must be unique: as its cause says. */
final class InTheWay
{
    /** @return array{load: int, row: int}|null */
    public static function row(Page $page, Load $load, ?string $message): ?array
    {
        if (preg_match('/(?:used|taken) by (?:.*, )?row (\d+)(?: of (.+))?$/', (string) $message, $m) !== 1) {
            return null;
        }
        $of = isset($m[2]) ? $page->all()->firstWhere('name', $m[2])?->id : $load->id;

        return $of === null ? null : ['load' => $of, 'row' => (int) $m[1]];
    }

    /** @return string|null target key of a record the target had before */
    public static function record(?string $message): ?string
    {
        return preg_match('/^Already taken by record (.+), which the target had before/', (string) $message, $m) === 1 ? $m[1] : null;
    }
}
