<?php

namespace App\Http\Controllers;

use App\Models\Audit;
use App\Models\ColumnDecision;
use App\Models\Extract;
use App\Models\Load;
use App\Models\Migration;
use App\Support\Meanwhile;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/** What is left behind, with the reason: columns of an extract, or all of it. */
final class ShelfController extends Controller
{
    public function decide(Request $request, Migration $migration, Extract $extract): RedirectResponse
    {
        $this->authorize('work', $migration);
        $data = $request->validate(['header' => 'required|string', 'reason' => 'nullable|string|max:500']);
        $reason = $this->filled($data['reason'] ?? null);
        if ($request->boolean('undo')) {
            $left = ColumnDecision::query()->where('extract_id', $extract->id)->where('header', $data['header']);
            $before = $left->value('reason');
            $left->delete();
            Audit::note($migration->id, "took the column $data[header] of $extract->name up again", ['before' => $before]);

            return back();
        }
        if ($reason === null) {
            return back()->with('refused', "Say why \"$data[header]\" is left behind.");
        }
        $by = ['reason' => $reason, 'user_id' => $request->user()?->id];
        $decision = ColumnDecision::query()->firstOrCreate(['extract_id' => $extract->id, 'header' => $data['header']], $by);
        $changed = $decision->wasRecentlyCreated
            ? ['after' => $reason]
            : Meanwhile::change($decision, $request->input('was'), $by, ['reason' => "Why $data[header] is left behind"]);
        Audit::note($migration->id, "left the column $data[header] of $extract->name behind", $changed);

        return back();
    }

    /** Whether an extract is read by a load at all is decided too. */
    public function notLoaded(Request $request, Migration $migration, Extract $extract): RedirectResponse
    {
        $this->authorize('work', $migration);
        $data = $request->validate(['reason' => 'nullable|string|max:500']);
        $changed = Meanwhile::change($extract, $request->input('was'), ['not_loaded' => $this->filled($data['reason'] ?? null)], [
            'not_loaded' => "Why $extract->name is left behind",
        ]);
        Audit::note(
            $migration->id,
            $extract->not_loaded === null
                ? "took the extract $extract->name up again"
                : "left the extract $extract->name behind",
            $changed,
        );

        return back();
    }

    private function filled(mixed $text): ?string
    {
        return is_string($text) && trim($text) !== '' ? trim($text) : null;
    }
}
