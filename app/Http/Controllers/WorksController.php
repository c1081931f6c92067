<?php

namespace App\Http\Controllers;

use App\Models\Migration;
use App\Models\Work;
use App\Rejects\RowsFile;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Response;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\Gate;
use Symfony\Component\HttpFoundation\BinaryFileResponse;

/** How far work is that a worker does for somebody, and what came of it. */
final class WorksController extends Controller
{
    public function show(Migration $migration, Work $work): Response
    {
        $this->authorize('view', $migration);
        $answer = response()->view('components.work', ['work' => $work, 'm' => $migration]);
        if (! $work->isGoing() && $work->file === null && ! $work->seen && $work->user_id === Auth::id()) {
            $work->update(['seen' => true]);
        }

        return $work->isGoing() || $work->file !== null ? $answer : $answer->header('HX-Trigger', 'figures-are-old');
    }

    /** Somebody wants it to end where it is. */
    public function stop(Migration $migration, Work $work): RedirectResponse
    {
        $this->authorize('view', $migration);
        $mayAll = Gate::allows('work', $migration);
        $may = $work->isGoing() && $work->kind->canStop() && ($work->user_id === Auth::id() || $mayAll);
        $may ? $work->update(['stop_requested' => true]) : null;

        return $may ? back() : back()->with('refused', 'That cannot be stopped, or not by you.');
    }

    public function file(Migration $migration, Work $work): BinaryFileResponse
    {
        $this->authorize('view', $migration);
        $path = $work->user_id === Auth::id() ? RowsFile::path($work) : null;
        $path === null ?: $work->update(['seen' => true]);

        return $path === null ? abort(404) : response()->download($path, (string) $work->file, [
            'Content-Type' => str_ends_with((string) $work->file, '.csv') ? 'text/csv; charset=utf-8' : 'application/octet-stream',
            'Cache-Control' => 'no-store',
        ]);
    }
}
