<?php

namespace App\Support;

use Illuminate\Support\Facades\DB;

/** A lock of the database that ends with its connection, however the process that holds it ends. */
final readonly class NamedLock
{
    private function __construct(private string $name)
    {
    }

    public static function of(string $what): self
    {
        return new self(DB::connection()->getDatabaseName().":$what");
    }

    /**
     * @template T
     *
     * @param  \Closure(): T  $do
     * @return T|null null when somebody else held it all that time
     */
    public function during(\Closure $do, int $wait = 0): mixed
    {
        if ((int) DB::scalar('SELECT GET_LOCK(?, ?)', [$this->name, $wait]) !== 1) {
            return null;
        }
        try {
            return $do();
        } finally {
            DB::scalar('SELECT RELEASE_LOCK(?)', [$this->name]);
        }
    }

    public function isHeld(): bool
    {
        return DB::scalar('SELECT IS_USED_LOCK(?)', [$this->name]) !== null;
    }
}
