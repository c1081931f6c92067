<?php

namespace App\Specification;

use App\Models\ChangeList;
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
                if (($changes[$i]['state'] ?? '') !== 'open') {
                    continue;
                }
                if (! $accepted) {
                    $changes[$i]['state'] = 'refused';
                    $refused++;

                    continue;
                }
                $problem = $this->changes->make($migration, $changes[$i], $user);
                $changes[$i] = ['problem' => $problem, 'state' => $problem === null ? 'accepted' : 'void'] + $changes[$i];
                $made += $problem === null ? 1 : 0;
            }
            $list->update(['changes' => $changes]);

            return [$made, $refused];
        });
    }
}
