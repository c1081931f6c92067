<?php

namespace App\Http\Controllers;

use App\Freezing\StatedCounts;
use App\Models\Audit;
use App\Models\Extract;
use App\Models\Migration;
use App\Models\Take;
use App\Support\Amount;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Validation\Rule;

/** What the client says of the number of rows they delivered. */
final class StatedController extends Controller
{
    public function take(Request $request, Migration $migration, Take $take): RedirectResponse
    {
        $this->authorize('work', $migration);
        $rows = $request->validate(['rows' => 'nullable|integer|min:0|max:999999999999'])['rows'] ?? '';
        StatedCounts::say($take, $rows === '' ? null : (int) $rows);

        return back()->with('told', $rows === '' ? 'Taken back: the client states no number.' : $take->statedCount());
    }

    /** An extract is the covering sheet of its source, or is none. */
    public function covering(Request $request, Migration $migration, Extract $extract): RedirectResponse
    {
        $this->authorize('work', $migration);
        $headers = Rule::in(['', ...array_column($extract->columns ?? [], 'header')]);
        $data = $request->validate([
            'name' => ['nullable', 'string', $headers], 'rows' => ['nullable', 'string', $headers],
        ]);
        $isOne = ($data['name'] ?? '') !== '' && ($data['rows'] ?? '') !== '';
        $extract->update(['covering' => $isOne ? ['name' => $data['name'], 'rows' => $data['rows']] : null]);
        Audit::note($migration->id, ($isOne ? 'reads' : 'no longer reads')." $extract->name as covering sheet");
        $told = $isOne ? StatedCounts::read($extract->source) : [];

        return back()->with('told', match (true) {
            ! $isOne => 'It is no covering sheet.',
            $told === [] => 'It is read as a covering sheet; no name in it is that of an extract without a stated number.',
            default => 'It says of '.Amount::of(count($told), 'extract').' how many rows there are: '.implode(', ', $told).'.',
        });
    }
}
