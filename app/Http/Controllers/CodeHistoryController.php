<?php

namespace App\Http\Controllers;

use App\Models\CodeCrosswalk;
use App\Models\CodeDecision;
use App\Models\CodeVersion;
use App\Models\Migration;
use App\Rejects\Repairs;
use App\View\Page;
use App\View\Tables\MappingTables;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\StreamedResponse;

/** What a code crosswalk said before, who changed it, and the way back. */
final class CodeHistoryController extends Controller
{
    private const SHOWN = 2_000;

    public function index(Request $request, Migration $migration, CodeCrosswalk $crosswalk): View|StreamedResponse
    {
        $this->authorize('view', $migration);
        $old = $request->query('old');
        $versions = CodeVersion::query()
            ->where('code_crosswalk_id', $crosswalk->id)
            ->when(is_string($old), fn ($q) => $q->where('old_value', $old))
            ->with('user')
            ->orderByDesc('id')
            ->limit(self::SHOWN)
            ->get();

        return $this->screen('crosswalks.history', [
            'page' => Page::of($migration, 'crosswalks'),
            'crosswalk' => $crosswalk,
            'table' => MappingTables::codes($request, $versions),
            'newest' => $versions->unique('old_value')->pluck('id')->all(),
            'old' => is_string($old) ? $old : null,
            'most' => self::SHOWN,
        ]);
    }

    /** Makes an entry say again what it said; one that was not there goes. */
    public function restore(Migration $migration, CodeCrosswalk $crosswalk, CodeVersion $code, Repairs $repairs): RedirectResponse
    {
        $this->authorize('repair', $migration);
        if ($code->decision === null) {
            $repairs->forgetCode($migration, $crosswalk, $code->old_value);
        } else {
            $repairs->mapCode($migration, $crosswalk, $code->old_value, $code->new_value, $code->decision === CodeDecision::Reject);
        }

        return redirect("/m/$migration->id/crosswalks/codes/$crosswalk->id/history")->with(
            'told',
            "\"$code->old_value\": {$code->says()}, as before.",
        );
    }
}
