<?php

namespace App\View\Tables;

use App\Models\LoginSession;
use App\Models\Membership;
use App\Models\User;
use App\Support\When;
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
            Column::text('second', 'Second factor', fn (User $u) => $u->hasSecondFactor() ? 'yes' : 'no'),
            Column::bare('What can be done'),
        ], $users);
    }

    /** @param  iterable<LoginSession>  $sessions  with their users */
    public static function sessions(Request $request, iterable $sessions, bool $ofAll): Table
    {
        return Table::of($request, 'sessions', array_values(array_filter([
            $ofAll ? Column::text('who', 'Who', fn (LoginSession $s) => $s->user->name) : null,
            Column::text('began', 'Since', fn (LoginSession $s) => When::written($s->began_at)),
            Column::text('seen', 'Seen last', fn (LoginSession $s) => When::written($s->seen_at)),
            Column::text('from', 'From where', fn (LoginSession $s) => $s->ip),
            Column::text('agent', 'With', fn (LoginSession $s) => $s->agent),
            Column::bare('What can be done'),
        ])), $sessions);
    }
}
