<?php

namespace App\Policies;

use App\Models\Migration;
use App\Models\Right;
use App\Models\User;

/** Each right of a migration, as the roles have it. */
final class MigrationPolicy
{
    public function view(User $user, Migration $migration): bool
    {
        return $user->may(Right::View, $migration);
    }

    public function work(User $user, Migration $migration): bool
    {
        return $user->may(Right::Work, $migration);
    }

    public function repair(User $user, Migration $migration): bool
    {
        return $user->may(Right::Repair, $migration);
    }

    public function cutover(User $user, Migration $migration): bool
    {
        return $user->may(Right::Cutover, $migration);
    }

    public function delete(User $user, Migration $migration): bool
    {
        return $user->may(Right::Delete, $migration);
    }

    public function accept(User $user, Migration $migration): bool
    {
        return $user->may(Right::Accept, $migration);
    }

    public function invite(User $user, Migration $migration): bool
    {
        return $user->may(Right::Invite, $migration);
    }

    public function audit(User $user, Migration $migration): bool
    {
        return $user->may(Right::Audit, $migration);
    }

    /** Begin another migration: whoever does becomes its lead. */
    public function create(User $user): bool
    {
        return $user->mayBegin();
    }

    public function viewAny(User $user): bool
    {
        return true;
    }
}
