<?php

namespace App\Http\Controllers;

use App\Models\User;
use App\People\Confirmation;
use App\View\Tables\Table;
use Illuminate\Contracts\View\View;
use Illuminate\Foundation\Auth\Access\AuthorizesRequests;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\StreamedResponse;

abstract class Controller
{
    use AuthorizesRequests;

    /**
     * A screen with tables; where one of them is asked for as .csv, that instead.
     *
     * @param  array<string, mixed>  $data
     */
    protected function screen(string $view, array $data): View|StreamedResponse
    {
        foreach ($data as $table) {
            if ($table instanceof Table && $table->isAskedAsCsv()) {
                return $table->csv();
            }
        }

        return view($view, $data);
    }

    /** Does something that may be refused with a word about it. */
    protected function doing(\Closure $act, string $told): RedirectResponse
    {
        try {
            $act();
        } catch (\DomainException $e) {
            return back()->with('refused', $e->getMessage());
        }

        return back()->with('told', $told);
    }

    /**
     * Once it is known that somebody may do it: that it is them who does.
     *
     * @throws \Illuminate\Validation\ValidationException for the field "current"
     */
    protected function confirmed(Request $request): void
    {
        $user = $request->user();
        app(Confirmation::class)->ask($request, $user instanceof User ? $user : abort(403));
    }
}
