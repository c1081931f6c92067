<?php

namespace App\Specification;

use App\Models\ChangeList;
use App\Models\ChangeState;
use App\Models\Migration;
use App\Models\User;
use Illuminate\Support\Facades\DB;

/** What a person decides about a list of changes, one by one, however many look at the list. */
final readonly class Decisions
{
    public function __construct(private Changes $changes)
    {
    }

    /**
     * @param  array<int|string>  $numbers  of changes that are open
     * @return array{int, int} changes made, and refused
     */
    public function decide(ChangeList $list, array $numbers, bool $accepted, ?User $user): array
    {
        return DB::transaction(function () use ($list, $numbers, $accepted, $user) {
            $list = ChangeList::query()->whereKey($list->id)->lockForUpdate()->firstOrFail();
            $migration = Migration::query()->findOrFail($list->migration_id);
            $changes = $list->changes;
            $made = $refused = 0;
            foreach ($numbers as $i) {
                $change = $changes[$i] ?? null;
                if ($change === null || ! $change->isOpen()) {
                    continue;
                }
                if (! $accepted) {
                    $changes[$i] = $change->decided(ChangeState::Refused);
                    $refused++;

                    continue;
                }
                $problem = $this->changes->make($migration, $change, $user);
                $changes[$i] = $change->decided(ChangeState::Accepted)->but($problem);
                $made += $problem === null ? 1 : 0;
            }
            $list->update(['changes' => array_values($changes)]);

            return [$made, $refused];
        });
    }
}
