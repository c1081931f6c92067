<?php

namespace App\Http\Controllers;

use App\Models\Membership;
use App\Models\Migration;
use App\Models\Right;
use App\Models\Role;
use App\Models\User;
use App\People\Crew;
use App\View\Page;
use App\View\Tables\PeopleTables;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Validation\Rule;
use Symfony\Component\HttpFoundation\StreamedResponse;

/** Who belongs to a migration, and as what. */
final class PeopleController extends Controller
{
    public function index(Request $request, Migration $migration): View|StreamedResponse
    {
        $this->authorize('view', $migration);
        $members = Membership::query()->where('migration_id', $migration->id)->with('user')->get()->sortBy('user.name');

        return $this->screen('people.index', [
            'page' => Page::of($migration, 'sources'),
            'hasInvited' => $members->contains(fn (Membership $member) => $member->user->password === null),
            'members' => PeopleTables::members($request, $members),
            'roles' => Role::cases(),
            'rights' => Right::cases(),
        ]);
    }

    public function invite(Request $request, Migration $migration): RedirectResponse
    {
        $this->authorize('invite', $migration);
        $data = $request->validate([
            'name' => 'required|string|max:100',
            'email' => 'required|string|max:254',
            'role' => ['required', Rule::enum(Role::class)],
        ]);
        try {
            Crew::fit($data['email']);
            [$user, $link] = Crew::invite($migration, $data['name'], $data['email'], Role::from($data['role']));
        } catch (\DomainException $e) {
            return back()->withInput()->with('refused', $e->getMessage());
        }

        return back()
            ->with('told', "$user->email belongs to the migration now, as $data[role].".($link !== null ? ' A password is set by the link.'
                : ($user->password === null ? ' Their account is new; an administrator gives the link.' : '')))
            ->with('link', $link === null ? null : ['of' => $user->email, 'at' => url($link)]);
    }

    public function role(Request $request, Migration $migration, User $user): RedirectResponse
    {
        $this->authorize('invite', $migration);
        $data = $request->validate(['role' => ['required', Rule::enum(Role::class)]]);

        return $this->doing(
            fn () => Crew::change($migration, $user, Role::from($data['role']), $request->input('was')),
            "$user->email is $data[role] now.",
        );
    }

    public function link(Request $request, Migration $migration, User $user): RedirectResponse
    {
        $this->authorize('invite', $migration);
        $this->confirmed($request);
        try {
            $link = Crew::link($migration, $user);
        } catch (\DomainException $e) {
            return back()->with('refused', $e->getMessage());
        }

        return back()->with('link', ['of' => $user->email, 'at' => url($link)]);
    }

    public function leave(Migration $migration, User $user): RedirectResponse
    {
        $this->authorize('invite', $migration);

        return $this->doing(fn () => Crew::leave($migration, $user), "$user->email sees nothing of this migration any more.");
    }
}
