<?php

namespace App\Http\Controllers;

use App\Models\Audit;
use App\Models\Membership;
use App\Models\Migration;
use App\Models\Role;
use App\Models\User;
use App\People\Accounts;
use App\People\Crew;
use App\View\Tables\PeopleTables;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Gate;
use Symfony\Component\HttpFoundation\StreamedResponse;

/** Accounts of the installation, for its administrators. What a migration holds is not theirs to see. */
final class AccountsController extends Controller
{
    /** What can be done with an account, and what is told afterwards. */
    private const TOLD = [
        'disable' => 'cannot log in any more.',
        'enable' => 'can log in again.',
        'reset' => 'has no password any more, and sets another by the link.',
        'end' => 'has to log in again everywhere.',
        'administrator' => 'administers the installation.',
        'none' => 'administers the installation no more.',
        'second' => 'has no second factor any more, and logs in again everywhere.',
    ];

    /** What lets somebody into an account, or lets an account do more. */
    private const GUARDED = ['reset', 'administrator', 'second'];

    public function index(Request $request): View|StreamedResponse
    {
        Gate::authorize('administer');
        $users = User::query()->withCount('memberships')->orderBy('name')->get();

        return $this->screen('accounts.index', [
            'accounts' => PeopleTables::accounts($request, $users),
            'leaderless' => Migration::query()
                ->whereNotIn('id', Membership::query()->where('role', Role::Lead->value)->select('migration_id'))
                ->orderBy('name')
                ->get(['id', 'name']),
            'able' => $users->whereNull('disabled_at'),
        ]);
    }

    public function invite(Request $request): RedirectResponse
    {
        Gate::authorize('administer');
        $data = $request->validate([
            'name' => 'required|string|max:100',
            'email' => 'required|string|max:254',
            'administrator' => 'nullable|boolean',
        ]);
        if ($request->boolean('administrator')) {
            $this->confirmed($request);
        }

        return $this->did(function () use ($data, $request) {
            Crew::fit($data['email']);
            [$user, $link] = Accounts::invite($data['name'], $data['email'], $request->boolean('administrator'));

            return ["$user->email sets a password by the link.", $user, $link];
        });
    }

    public function act(Request $request, User $user): RedirectResponse
    {
        Gate::authorize('administer');
        $do = $request->validate(['do' => 'required|in:'.implode(',', array_keys(self::TOLD))])['do'];

        if (in_array($do, self::GUARDED, true)) {
            $this->confirmed($request);
        }

        return $this->did(function () use ($request, $do, $user) {
            if ($user->is($request->user()) && in_array($do, ['disable', 'reset', 'end', 'second'], true)) {
                throw new \DomainException('This is you: your own account has a page of its own.');
            }
            $link = null;
            match ($do) {
                'disable' => Accounts::disable($user),
                'enable' => Accounts::enable($user),
                'reset' => $link = Accounts::reset($user),
                'end' => Accounts::endSessions($user),
                'second' => Accounts::withoutSecondFactor($user),
                default => Accounts::administrator($user, $do === 'administrator'),
            };

            return ["$user->email ".self::TOLD[$do], $user, $link];
        });
    }

    /** A migration that came by the command line has no lead until one is appointed. */
    public function appoint(Request $request): RedirectResponse
    {
        Gate::authorize('administer');
        $data = $request->validate(['of' => 'required|integer', 'user' => 'required|integer']);

        return $this->did(function () use ($data) {
            $of = Migration::query()->findOrFail($data['of']);
            $user = User::query()->whereKey($data['user'])->whereNull('disabled_at')->firstOrFail();
            if (Membership::query()->where('migration_id', $of->id)->where('role', Role::Lead->value)->exists()) {
                throw new \DomainException("$of->name has a lead, who decides who else belongs to it.");
            }
            Membership::give($user, $of, Role::Lead);
            Audit::note($of->id, "appointed $user->email as its lead");

            return ["$user->email leads $of->name.", $user, null];
        });
    }

    /** @param  \Closure(): array{string, User, string|null}  $act  gives what is told, of whom, and the path of a link */
    private function did(\Closure $act): RedirectResponse
    {
        try {
            [$told, $user, $link] = $act();
        } catch (\DomainException $e) {
            return back()->withInput()->with('refused', $e->getMessage());
        }

        return back()->with('told', $told)->with('link', $link === null ? null : ['of' => $user->email, 'at' => url($link)]);
    }
}
