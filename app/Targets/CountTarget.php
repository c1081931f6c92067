<?php

namespace App\Targets;

use App\Models\Entity;
use App\Models\Target;
use App\Queueing\Job;
use App\Queueing\Kind;
use App\Support\Unforeseen;
use Baggage\Core\Loading\TargetUnavailable;
use Carbon\CarbonImmutable;

/** Counts the records of every entity in a target. */
final class CountTarget extends Job
{
    public function __construct(public readonly int $target)
    {
    }

    public function kind(): Kind
    {
        return Kind::Rows;
    }

    public function migration(): ?int
    {
        return Target::query()->find($this->target)?->migration_id;
    }

    public function handle(): void
    {
        $target = Target::query()->find($this->target);
        if ($target === null) {
            return;
        }
        $records = [];
        $error = null;
        try {
            $held = Ports::of($target)->records;
            foreach (Entity::query()->where('migration_id', $target->migration_id)->orderBy('position')->pluck('name') as $entity) {
                $records[$entity] = $held->count($entity);
            }
        } catch (TargetUnavailable $e) {
            $error = $e->getMessage();
        } catch (\Throwable $e) {
            $error = Unforeseen::said('Counting ended', $e);
        }
        TargetCount::keep($target->id, new TargetCount(false, CarbonImmutable::now(), $records, $error));
    }

    public function failed(?\Throwable $e): void
    {
        TargetCount::keep($this->target, new TargetCount(false, null, [], 'The worker ended while it was counting. Count again.'));
    }
}
