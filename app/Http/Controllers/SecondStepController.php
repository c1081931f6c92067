<?php

namespace App\Http\Controllers;

use App\Models\Audit;
use App\Models\User;
use App\People\SecondFactor;
use App\People\SecondStep;
use App\People\Throttle;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Validation\ValidationException;

/** The second step of the login. */
final class SecondStepController extends Controller
{
    public function show(Request $request): View|RedirectResponse
    {
        return SecondStep::of($request) === null ? $this->anew() : view('auth.second');
    }

    public function pass(Request $request, Throttle $throttle): RedirectResponse
    {
        $user = SecondStep::of($request);
        if ($user === null) {
            return $this->anew();
        }
        $code = $request->validate(['code' => 'required|string|max:40'])['code'];
        $wait = max($throttle->waitForCode($user), $throttle->wait($user, $user->address, (string) $request->ip()));
        if ($wait > 0) {
            throw ValidationException::withMessages(['code' => "Too many tries. Wait $wait seconds."]);
        }
        if (! SecondFactor::passes($user, $code)) {
            $throttle->codeFailed($user);
            $throttle->failed($user, $user->address, (string) $request->ip());
            Audit::note(null, 'login failed at the second factor', ['address' => $user->address]);
            throw ValidationException::withMessages(['code' => 'This code does not hold now, or it has opened before.']);
        }

        return $this->in($request, $throttle, $user);
    }

    private function in(Request $request, Throttle $throttle, User $user): RedirectResponse
    {
        $throttle->codePassed($user);
        SecondStep::over($request);

        return LoginController::open($request, $user, 'password and second factor');
    }

    private function anew(): RedirectResponse
    {
        return redirect('/login')->with('told', 'It took too long, or the account was changed. Begin again.');
    }
}
