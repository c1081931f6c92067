<?php

namespace App\Http\Controllers;

use App\Models\Load;
use App\Models\Migration;
use App\Rejects\CorrectionList;
use App\Staging\StagedRows;
use App\View\Page;
use App\View\Say;
use Baggage\Core\Reading\DelimitedFormat;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\View\View;

/** Values and rows put over what extracts say. */
final class CorrectionsController extends AboutRows
{
    /** A row with too few or too many cells, to be put right as a whole. */
    public function editRow(Migration $migration, Load $load, int $row): View
    {
        $this->authorize('repair', $migration);
        $page = Page::ofLoad($migration, 'rejects', $load);
        $take = $page->take($load->id) ?? abort(404);
        [$line, , $read] = StagedRows::known($take->id, [$row])[$row] ?? abort(404);
        $format = $take->recipe === null ? $load->extract->settings()->format : null;

        return view('rejects.row', [
            'page' => $page,
            'load' => $load,
            'take' => $take,
            'row' => $row,
            'line' => $line,
            'read' => $read,
            'cells' => (new StagedRows($take->id))->numbered([$row])[$row] ?? $read,
            'glue' => $format instanceof DelimitedFormat ? $format->delimiter : ' ',
        ]);
    }

    /** Corrections that did not carry into the newest take. */
    public function decide(Request $request, Migration $migration): RedirectResponse
    {
        $this->authorize('repair', $migration);
        $data = $request->validate([
            'corrections' => 'required|array|max:200',
            'corrections.*' => 'required|integer',
            'what' => 'required|in:again,go',
        ]);
        $found = CorrectionList::among($migration, array_map(intval(...), $data['corrections']));

        return $this->answer(function () use ($found, $data) {
            $this->repairs->decide($found, $data['what'] === 'again');

            return Say::count(count($found), 'correction').($data['what'] === 'again' ? ' put over the newer values.' : ' let go.');
        });
    }
}
