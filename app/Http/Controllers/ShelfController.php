<?php

namespace App\Http\Controllers;

use App\Models\Audit;
use App\Models\ColumnDecision;
use App\Models\Extract;
use App\Models\Load;
use App\Models\Migration;
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
            ColumnDecision::query()->where('extract_id', $extract->id)->where('header', $data['header'])->delete();
            Audit::note($migration->id, "took the column $data[header] of $extract->name up again");

            return back();
        }
        if ($reason === null) {
            return back()->with('refused', "Say why \"$data[header]\" is left behind.");
        }
        ColumnDecision::query()->updateOrCreate(
            ['extract_id' => $extract->id, 'header' => $data['header']],
            ['reason' => $reason, 'user_id' => $request->user()?->id],
        );
        Audit::note($migration->id, "left the column $data[header] of $extract->name behind", ['reason' => $reason]);

        return back();
    }

    /** Whether an extract is read by a load at all is decided too. */
    public function notLoaded(Request $request, Migration $migration, Extract $extract): RedirectResponse
    {
        $this->authorize('work', $migration);
        $data = $request->validate(['reason' => 'nullable|string|max:500']);
        $extract->update(['not_loaded' => $this->filled($data['reason'] ?? null)]);
        Audit::note(
            $migration->id,
            $extract->not_loaded === null
                ? "took the extract $extract->name up again"
                : "left the extract $extract->name behind",
            ['reason' => $extract->not_loaded],
        );

        return back();
    }

    private function filled(mixed $text): ?string
    {
        return is_string($text) && trim($text) !== '' ? trim($text) : null;
    }
}
