<?php

namespace App\Plans;

use App\Looking\LookGoing;
use App\Models\Change;
use App\Models\ChangeKind;
use App\Models\ChangeList;
use App\Models\ChangeState;
use App\Models\ListKind;
use App\Models\Membership;
use App\Models\Migration;
use App\Models\Right;
use App\Models\Role;
use App\Models\User;
use Baggage\Core\Plan\Conflict;
use Baggage\Core\Plan\Items;
use Baggage\Core\Plan\Merge;
use Baggage\Core\Plan\PlanError;
use Baggage\Core\Plan\PlanFile;
use Illuminate\Support\Facades\DB;

/** A plan that came through a screen, for a migration that is there: what it would change is looked at, item by item, before it counts. */
final class PlanChanges
{
    /** Changed codes of one crosswalk listed one by one; more are one change. */
    private const CODES = 50;

    public function __construct(private readonly PlanImporter $importer)
    {
    }

    /**
     * A new migration is made at once; of one that is there the changes are listed.
     *
     * @param  string|null  $path  where it lies, if it does
     *
     * @throws PlanError|LookGoing
     * @throws \DomainException where they do not work in it
     */
    public function read(string $yaml, string $name, int $user, ?string $path = null): Migration|ChangeList
    {
        $file = PlanLook::at($path === null ? ['text' => $yaml] : ['path' => $path], $name);
        $by = User::query()->findOrFail($user);
        $migration = Migration::named($file->plan['migration'], $by);
        if ($migration === null) {
            return DB::transaction(function () use ($file, $by) {
                $migration = $this->importer->import($file, null)->migration;
                Membership::give($by, $migration, Role::Lead);

                return $migration;
            });
        }
        if (! $by->may(Right::Work, $migration)) {
            throw new \DomainException("$name: you do not work in the migration of this name.");
        }

        return ChangeList::query()->create([
            'migration_id' => $migration->id,
            'kind' => ListKind::Plan,
            'file_name' => mb_substr($name, 0, 200),
            'changes' => self::changes($this->importer->compare($file, $migration), $file),
            'description' => ['plan' => $yaml],
            'user_id' => $user,
        ]);
    }

    /** @return list<Change> */
    private static function changes(Merge $merge, PlanFile $file): array
    {
        $both = array_flip(array_map(fn (Conflict $c) => $c->path, $merge->conflicts));
        $listed = $codes = [];
        foreach ($merge->changes() as $change) {
            $names = Items::names($change->path);
            if ($names[0] === 'code_crosswalks' && ($names[2] ?? null) === 'entries') {
                $codes[$names[1]][] = $change;
            } else {
                $listed[] = self::change($change, isset($both[$change->path]));
            }
        }
        foreach ($codes as $crosswalk => $changes) {
            if (count($changes) <= self::CODES) {
                array_push($listed, ...array_map(fn (Conflict $c) => self::change($c, isset($both[$c->path])), $changes));

                continue;
            }
            $paths = array_map(fn (Conflict $c) => $c->path, $changes);
            $touched = count(array_intersect_key($both, array_flip($paths)));
            $listed[] = new Change(
                ChangeKind::Plan,
                "code crosswalk $crosswalk",
                $touched === 0 ? 'entries' : "entries, $touched of them changed here too",
                '',
                number_format(count($changes)).' entries as in '.basename($file->name),
                ['paths' => $paths, 'was' => self::hash(array_map(fn (Conflict $c) => $c->screen, $changes))],
            );
        }

        return $listed;
    }

    private static function change(Conflict $change, bool $isBoth): Change
    {
        $words = Items::words($change->path);
        $part = (string) array_pop($words);
        $said = fn (mixed $value): string => $value === null ? '' : trim(Conflict::said($value), '"');

        return new Change(
            ChangeKind::Plan,
            implode(', ', $words) ?: $part,
            $part.($isBoth ? ' (changed here too)' : ''),
            $said($change->screen === true ? 'as it is' : $change->screen),
            $said($change->file === true ? 'as in the plan' : $change->file),
            ['paths' => [$change->path], 'was' => self::hash([$change->screen])],
        );
    }

    /** @param  list<mixed>  $screen  what it says of some items */
    private static function hash(array $screen): string
    {
        return hash('xxh3', (string) json_encode($screen));
    }

    /**
     * Applies the plan, but for what is not accepted, and what was changed here since the list was made.
     *
     * @param  array<int>  $accepted  numbers of changes
     * @return int changes made
     *
     * @throws PlanError where the plan without the others means nothing; nothing is changed then
     */
    public function apply(ChangeList $list, array $accepted): int
    {
        $file = PlanLook::at(['text' => (string) ($list->description['plan'] ?? '')], $list->file_name);

        return DB::transaction(function () use ($list, $accepted, $file) {
            $list = ChangeList::query()->whereKey($list->id)->lockForUpdate()->firstOrFail();
            $now = [];
            $migration = Migration::query()->findOrFail($list->migration_id);
            foreach ($this->importer->compare($file, $migration)->changes() as $change) {
                $now[$change->path] = $change->screen;
            }
            $changes = $list->changes;
            $made = 0;
            $left = $now;
            foreach ($list->open() as $i => $change) {
                $paths = array_flip($change->data['paths']);
                $isStale = self::hash(array_values(array_replace($paths, array_intersect_key($now, $paths)))) !== $change->data['was'];
                if (! in_array($i, $accepted, true)) {
                    $changes[$i] = $change->decided(ChangeState::Refused);
                } elseif ($isStale) {
                    $changes[$i] = $change->but('It has been changed here since the list was made.');
                } else {
                    $changes[$i] = $change->decided(ChangeState::Accepted);
                    $left = array_diff_key($left, $paths);
                    $made++;
                }
            }
            $this->importer->import($file, $migration, null, array_map(strval(...), array_keys($left)));
            $list->update(['changes' => $changes]);

            return $made;
        });
    }
}
