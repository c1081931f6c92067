<?php

namespace App\View\Tables;

use App\Models\AuditEntry;
use App\Models\Membership;
use App\Models\User;
use App\View\Told;
use Illuminate\Http\Request;

/** Tables of people, and of what they did. */
final class PeopleTables
{
    /** @param  iterable<Membership>  $members */
    public static function members(Request $request, iterable $members): Table
    {
        return Table::of($request, 'members', [
            Column::text('name', 'Name', fn (Membership $m) => $m->user->name),
            Column::text('email', 'E-mail address', fn (Membership $m) => $m->user->email),
            Column::text('role', 'Role', fn (Membership $m) => $m->role->value),
            Column::text('state', 'Account', fn (Membership $m) => Told::account($m->user)),
            Column::bare('What can be done'),
        ], $members);
    }

    /** @param  iterable<User>  $users  with a count of their migrations */
    public static function accounts(Request $request, iterable $users): Table
    {
        return Table::of($request, 'accounts', [
            Column::text('name', 'Name', fn (User $u) => $u->name),
            Column::text('email', 'E-mail address', fn (User $u) => $u->email),
            Column::number('migrations', 'Migrations', fn (User $u) => (int) $u->getAttribute('memberships_count')),
            Column::text('state', 'Account', fn (User $u) => Told::account($u)),
            Column::bare('What can be done'),
        ], $users);
    }

    /**
     * @param  iterable<AuditEntry>  $entries  with their users
     * @param  array<int, string>  $migrations  id → name, for the log of the installation
     */
    public static function log(Request $request, iterable $entries, ?array $migrations): Table
    {
        return Table::of($request, 'log', array_values(array_filter([
            Column::text('at', 'When', fn (AuditEntry $e) => $e->at->format('Y-m-d H:i:s')),
            Column::text('who', 'Who', fn (AuditEntry $e) => Told::who($e)),
            Column::text('from', 'From where', fn (AuditEntry $e) => Told::where($e)),
            $migrations === null ? null
                : Column::text('migration', 'Migration', fn (AuditEntry $e) => $migrations[$e->migration_id] ?? ''),
            Column::text('what', 'What', fn (AuditEntry $e) => $e->what),
            Column::text('before', 'Before', fn (AuditEntry $e) => Told::said($e->detail['before'] ?? null)),
            Column::text('after', 'After, or what else is known', fn (AuditEntry $e) => Told::after($e)),
        ])), $entries, 100);
    }
}
