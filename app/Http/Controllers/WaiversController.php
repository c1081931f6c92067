<?php

namespace App\Http\Controllers;

use App\Models\Load;
use App\Models\Migration;
use App\View\Page;
use App\View\Say;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/** What is left behind on purpose, taken back, and tried again. */
final class WaiversController extends AboutRows
{
    public function waive(Request $request, Migration $migration, Load $load): RedirectResponse
    {
        [$round, $data] = $this->ready($request, $migration, $load, [
            'cause' => 'required|integer',
            'reason' => 'required|string|max:500',
        ]);

        return $this->answer(
            fn () => Say::count($this->repairs->waive($round, $load, (int) $data['cause'], (string) $data['reason']), 'row').' waived.',
        );
    }

    public function takeBack(Request $request, Migration $migration, Load $load): RedirectResponse
    {
        [$round, $data] = $this->ready($request, $migration, $load, ['cause' => 'required|integer']);

        return $this->answer(fn () => Say::count($this->repairs->takeBack($round, $load, (int) $data['cause']), 'row').' rejected again.');
    }

    public function references(Request $request, Migration $migration, Load $load): RedirectResponse
    {
        [$round, $data] = $this->ready($request, $migration, $load, [
            'field' => 'required|string|max:64',
            'reason' => 'required|string|max:500',
        ]);

        return $this->answer(fn () => Say::count(
            $this->repairs->waiveReferences($round, $load, (string) $data['field'], (string) $data['reason']),
            'reference',
        ).' left open.');
    }

    public function confirm(Migration $migration): RedirectResponse
    {
        $this->authorize('repair', $migration);
        $round = Page::of($migration, 'rejects')->round ?? abort(404);

        return $this->answer(fn () => Say::count($this->repairs->confirmWaivers($round), 'row').' waived as before.');
    }

    /** Rows the target refused may pass now for reasons only the target knows. */
    public function ask(Request $request, Migration $migration, Load $load): RedirectResponse
    {
        [$round, $data] = $this->ready($request, $migration, $load, ['cause' => 'required|integer']);

        return $this->answer(fn () => Say::count($this->repairs->ask($round, $load, (int) $data['cause']), 'row').' will be tried again.');
    }
}
