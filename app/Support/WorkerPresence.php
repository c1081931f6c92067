<?php

namespace App\Support;

use Illuminate\Support\Facades\DB;

/** Shows that a worker is alive by a named lock of the database, which ends with its connection, however the worker ends. */
final class WorkerPresence
{
    private const SEATS = 8;

    private ?string $held = null;

    private function __construct(private readonly string $what)
    {
    }

    public static function of(string $what): self
    {
        return new self(DB::connection()->getDatabaseName().":$what");
    }

    public function enter(): void
    {
        for ($seat = 1; $seat <= self::SEATS && $this->held === null; $seat++) {
            if ((int) DB::scalar('SELECT GET_LOCK(?, 0)', ["$this->what:$seat"]) === 1) {
                $this->held = "$this->what:$seat";
            }
        }
    }

    public function leave(): void
    {
        if ($this->held !== null) {
            DB::scalar('SELECT RELEASE_LOCK(?)', [$this->held]);
            $this->held = null;
        }
    }

    public function isAnybodyThere(): bool
    {
        return $this->seated() !== [];
    }

    /** Besides this process. */
    public function isAnybodyElseThere(): bool
    {
        return array_diff($this->seated(), [(int) DB::scalar('SELECT CONNECTION_ID()')]) !== [];
    }

    /** @return list<int> connections of those who are there */
    private function seated(): array
    {
        $seats = array_map(fn (int $seat) => "IS_USED_LOCK('$this->what:$seat')", range(1, self::SEATS));
        $found = (array) DB::selectOne('SELECT '.implode(', ', array_map(fn ($s, $n) => "$s AS s$n", $seats, array_keys($seats))));

        return array_values(array_map(intval(...), array_filter($found, fn ($connection) => $connection !== null)));
    }
}
