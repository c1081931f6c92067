<?php

namespace App\Ledger;

/** The causes a pass is about, where it loads again only what is due of them. */
final readonly class Only
{
    /** @param  array{string, string, string|null}  $alike  stage, code and field */
    private function __construct(public int $load, public array $alike)
    {
    }

    /** @param  string  $id  load, stage, code and field as an address says them; empty: no such limit */
    public static function of(string $id): ?self
    {
        $of = explode('~', $id, 4);

        return count($of) === 4 ? new self((int) $of[0], [$of[1], $of[2], $of[3] === '' ? null : $of[3]]) : null;
    }

    public function id(): string
    {
        return implode('~', [$this->load, ...$this->alike]);
    }
}
