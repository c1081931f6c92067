<?php

namespace App\Http\Controllers;

use App\Ledger\CauseReader;
use App\Models\Extract;
use App\Models\Load;
use App\Models\Migration;
use App\Models\WorkKind;
use App\Rejects\CorrectionList;
use App\Staging\StagedRows;
use App\View\Page;
use App\View\Say;
use Baggage\Core\Reading\DelimitedFormat;
use Baggage\Core\Reading\Limits;
use Baggage\Core\Rows\Outcome;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\View\View;

/** Values and rows put over what extracts say. */
final class CorrectionsController extends AboutRows
{
    public function value(Request $request, Migration $migration, Load $load): RedirectResponse
    {
        [$round, $data] = $this->ready($request, $migration, $load, [
            'cause' => 'required|integer',
            'header' => 'required|string',
            'new' => 'nullable|string|max:4000',
            'reason' => 'nullable|string|max:500',
            'seen' => 'nullable|integer|min:0',
        ]);

        [$cause, $new, $reason] = [(int) $data['cause'], $data['new'] ?? '', (string) ($data['reason'] ?? '')];
        $seen = isset($data['seen']) ? (int) $data['seen'] : null;
        $rows = CauseReader::rows($round->laneId(), $cause, Outcome::Rejected);

        return $this->repair(
            WorkKind::CorrectValue,
            "Correcting $data[header] in ".Say::count($rows, 'row')." of $load->name",
            $round,
            ['load' => $load->id, 'cause' => $cause, 'header' => $data['header'], 'new' => $new, 'reason' => $reason, 'seen' => $seen],
            $rows,
            fn () => Say::count(
                $this->repairs->correctValue($round, $load, $cause, $data['header'], $new, $reason, null, $seen),
                'row',
            ).' corrected.',
        );
    }

    public function cell(Request $request, Migration $migration, Load $load, int $row): RedirectResponse
    {
        [$round, $data] = $this->ready($request, $migration, $load, [
            'header' => 'required|string',
            'new' => 'nullable|string|max:4000',
            'reason' => 'nullable|string|max:500',
        ]);

        return $this->answer(fn () => 'The correction is kept.'.$this->madeAgain($this->repairs->correctCell(
            $round,
            $load,
            $row,
            $data['header'],
            $data['new'] ?? '',
            (string) ($data['reason'] ?? ''),
            $request->input('was'),
        )));
    }

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

    public function wholeRow(Request $request, Migration $migration, Load $load, int $row): RedirectResponse
    {
        [$round, $data] = $this->ready($request, $migration, $load, [
            'cells' => 'required|array|max:'.Limits::now()->columns,
            'cells.*' => 'nullable|string|max:100000',
            'reason' => 'nullable|string|max:500',
        ]);
        $width = count($round->roundLoads()->where('load_id', $load->id)->first()->take->columns ?? []);
        $cells = array_map(fn ($c) => (string) $c, array_values((array) $data['cells']));
        // Places beyond the header are only there to move cells through.
        while (count($cells) > $width && end($cells) === '') {
            array_pop($cells);
        }

        return $this->answer(
            fn () => 'The row is kept as it is to be.'
                .$this->madeAgain($this->repairs->correctRow(
                    $round,
                    $load,
                    $row,
                    $cells,
                    (string) ($data['reason'] ?? ''),
                    $request->input('was'),
                )),
        );
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

    /** @param  list<Extract>  $feeds */
    private function madeAgain(array $feeds): string
    {
        return $feeds === [] ? '' : ' '.implode(' and ', array_map(fn (Extract $f) => $f->name, $feeds))
            .' come together by it, so the next take of '.(count($feeds) === 1 ? 'it is' : 'them is')
            .' being made; this round stays with the one it has.';
    }
}
