<?php

namespace App\Mending;

use App\Models\Audit;
use App\Models\Migration;
use App\Models\Work;
use App\Queueing\Kind as Queue;
use App\Queueing\WorkJob;
use Illuminate\Database\Eloquent\ModelNotFoundException;

/** Removes something with all its rows. Taken up again after a kill, it goes on with what is left. */
final class RemoveThing extends WorkJob
{
    public function kind(): Queue
    {
        return Queue::Rows;
    }

    protected function done(Work $work): array
    {
        $migration = Migration::query()->findOrFail($work->migration_id);
        try {
            $thing = Kind::from($work->given['kind'])->find($migration, (int) $work->given['id']);
        } catch (ModelNotFoundException) {
            return ['told' => ucfirst($work->given['label']).' is gone.'];
        }
        $holds = $thing->holds();
        if ($holds !== []) {
            throw new \DomainException(implode(' ', $holds));
        }
        $hangs = $thing->hangs();
        $thing->remove();
        if (Migration::query()->whereKey($migration->id)->exists()) {
            Audit::note($migration->id, "removed {$work->given['label']}", ['with it' => $hangs]);
        }

        return ['told' => ucfirst($work->given['label']).' is gone.'];
    }

    protected function where(Work $work): string
    {
        return 'while it was removed';
    }
}
