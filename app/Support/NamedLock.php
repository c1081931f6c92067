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

    /** @return bool whether it is held now; by this process it may be held several times */
    public function take(int $wait = 0): bool
    {
        return (int) DB::scalar('SELECT GET_LOCK(?, ?)', [$this->name, $wait]) === 1;
    }

    public function leave(): void
    {
        DB::scalar('SELECT RELEASE_LOCK(?)', [$this->name]);
    }

    /** Of this process: a worker that goes on to other work must not keep the rest of its last one from others. */
    public static function leaveAll(): void
    {
        DB::scalar('SELECT RELEASE_ALL_LOCKS()');
    }

    /**
     * @template T
     *
     * @param  \Closure(): T  $do
     * @return T|null null when somebody else held it all that time
     */
    public function during(\Closure $do, int $wait = 0): mixed
    {
        if (! $this->take($wait)) {
            return null;
        }
        try {
            return $do();
        } finally {
            $this->leave();
        }
    }

    public function isHeld(): bool
    {
        return DB::scalar('SELECT IS_USED_LOCK(?)', [$this->name]) !== null;
    }
}
