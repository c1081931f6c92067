<?php

namespace App\Policies;

use App\Models\User;

/** What each role may do in a migration. */
final class MigrationPolicy
{
    /** Everybody with a login sees everything; an auditor does nothing else. */
    public function view(User $user): bool
    {
        return true;
    }

    /** Sources, target, mapping, order, rounds and passes. */
    public function work(User $user): bool
    {
        return $user->role->works();
    }

    /** Values, codes and waivers. */
    public function repair(User $user): bool
    {
        return $user->role->repairs();
    }

    public function create(User $user): bool
    {
        return $user->role->works();
    }

    public function viewAny(User $user): bool
    {
        return true;
    }
}
