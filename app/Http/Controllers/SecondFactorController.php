<?php

namespace App\Http\Controllers;

use App\Models\Migration;
use App\Models\User;
use App\People\DoorRules;
use App\People\SecondFactor;
use App\People\Sessions;
use App\People\Throttle;
use App\People\Totp;
use App\View\QrCode;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Validation\ValidationException;

/** The second factor of the own account: set up, given new recovery codes, taken away. */
final class SecondFactorController extends Controller
{
    public function show(Request $request): View
    {
        $user = $this->own($request);
        $secret = $user->hasSecondFactor() || $request->session()->get('second_begun') !== $user->id ? null : $user->totp_secret;

        return view('accounts.second', [
            'user' => $user,
            'spelled' => $secret === null ? null : SecondFactor::spelled($secret),
            'picture' => $secret === null ? null : QrCode::svg(Totp::uri($secret, $user->email, 'Baggage')),
            'left' => SecondFactor::left($user),
            'isAsked' => DoorRules::now()->asksSecondFactorOf($user),
        ]);
    }

    public function begin(Request $request): RedirectResponse
    {
        $user = $this->own($request);
        $this->confirmed($request);
        try {
            SecondFactor::begin($user);
        } catch (\DomainException $e) {
            return back()->with('refused', $e->getMessage());
        }
        // The secret is shown to the session that asked for it, until it is confirmed.
        $request->session()->put('second_begun', $user->id);

        return redirect('/account/second');
    }

    public function confirm(Request $request, Throttle $throttle): RedirectResponse
    {
        $user = $this->own($request);
        $code = $request->validate(['code' => 'required|string|max:40'])['code'];
        $wait = $throttle->waitForCode($user);
        if ($wait > 0) {
            throw ValidationException::withMessages(['code' => "Too many tries. Wait $wait seconds."]);
        }
        $codes = $request->session()->get('second_begun') === $user->id ? SecondFactor::confirm($user, $code) : null;
        if ($codes === null) {
            $throttle->codeFailed($user);
            throw ValidationException::withMessages(['code' => 'This is not the code of this moment. Is the clock of the device right?']);
        }
        $request->session()->forget('second_begun');
        $this->endOthers($request, $user);

        return redirect('/account/second')->with('codes', $codes);
    }

    public function codes(Request $request): RedirectResponse
    {
        $user = $this->own($request);
        $this->confirmed($request);
        abort_unless($user->hasSecondFactor(), 404);

        return redirect('/account/second')->with('codes', SecondFactor::renew($user));
    }

    public function remove(Request $request): RedirectResponse
    {
        $user = $this->own($request);
        $this->confirmed($request);
        if (DoorRules::now()->asksSecondFactorOf($user)) {
            return back()->with('refused', 'Your role needs a second factor.');
        }
        SecondFactor::remove($user);
        $this->endOthers($request, $user);

        return redirect('/account/second')->with('told', 'A password alone opens your account again.');
    }

    /** What was begun before a factor came or went is begun anew. */
    private function endOthers(Request $request, User $user): void
    {
        Sessions::endAll($user, Sessions::of($request)[0]);
        $request->session()->regenerate();
    }

    private function own(Request $request): User
    {
        $user = $request->user();
        $this->authorize('viewAny', Migration::class);

        return $user instanceof User ? $user : abort(403);
    }
}
