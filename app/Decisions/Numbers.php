<?php

namespace App\Decisions;

use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\DB;

/** Numbers of what people decide about rows, and about what makes records of them: a pass keeps the last one it saw. */
final class Numbers
{
    /** @var list<int>|null those given while somebody notes them */
    private static ?array $noted = null;

    public static function next(int $migration, string $kind): int
    {
        $number = DB::table('decisions')->insertGetId(['migration_id' => $migration, 'user_id' => Auth::id(), 'kind' => $kind]);
        if (self::$noted !== null) {
            self::$noted[] = $number;
        }

        return $number;
    }

    /**
     * @template T
     *
     * @param  \Closure(): T  $do
     * @return array{T, list<int>} what it gives, and the numbers given meanwhile
     */
    public static function noting(\Closure $do): array
    {
        $before = self::$noted;
        self::$noted = [];
        try {
            return [$do(), self::$noted];
        } finally {
            self::$noted = $before === null ? null : [...$before, ...self::$noted];
        }
    }

    public static function last(int $migration): int
    {
        return (int) DB::table('decisions')->where('migration_id', $migration)->max('id');
    }
}
