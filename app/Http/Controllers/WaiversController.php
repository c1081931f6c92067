<?php

namespace App\Http\Controllers;

use App\Ledger\CauseReader;
use App\Ledger\LedgerReader;
use App\Ledger\Links;
use App\Models\Load;
use App\Models\Migration;
use App\Models\WorkKind;
use App\View\Page;
use App\View\Say;
use Baggage\Core\Rows\Outcome;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/** What is left behind on purpose, taken back, and tried again. */
final class WaiversController extends AboutRows
{
    public function takeBack(Request $request, Migration $migration, Load $load): RedirectResponse
    {
        [$round, $data] = $this->ready($request, $migration, $load, ['cause' => 'required|integer']);

        $cause = (int) $data['cause'];
        $rows = CauseReader::rows($round->laneId(), $cause, Outcome::Waived);

        return $this->repair(
            WorkKind::TakeBack,
            'Taking back what was decided about '.Say::count($rows, 'row')." of $load->name",
            $round,
            ['load' => $load->id, 'cause' => $cause],
            $rows,
            fn () => Say::count($this->repairs->takeBack($round, $load, $cause), 'row').' rejected again.',
        );
    }

    public function references(Request $request, Migration $migration, Load $load): RedirectResponse
    {
        [$round, $data] = $this->ready($request, $migration, $load, [
            'field' => 'required|string|max:64',
            'reason' => 'required|string|max:500',
        ]);

        [$field, $reason] = [(string) $data['field'], (string) $data['reason']];
        $rows = (new Links($round->laneId()))->waitingOf($load->id, $field);

        return $this->repair(
            WorkKind::References,
            'Leaving '.Say::count($rows, 'reference')." of $load->name open",
            $round,
            ['load' => $load->id, 'field' => $field, 'reason' => $reason],
            $rows,
            fn () => Say::count($this->repairs->waiveReferences($round, $load, $field, $reason), 'reference').' left open.',
        );
    }

    public function confirm(Migration $migration): RedirectResponse
    {
        $this->authorize('repair', $migration);
        $round = Page::of($migration, 'rejects')->round ?? abort(404);

        return $this->repair(
            WorkKind::Confirm,
            'Confirming what earlier rounds left behind',
            $round,
            [],
            // Nobody has counted them since the last pass; all that are rejected are looked at.
            (new LedgerReader($round))->rows(Outcome::Rejected),
            fn () => Say::count($this->repairs->confirmWaivers($round), 'row').' waived as before.',
        );
    }

    /** Rows the target refused may pass now for reasons only the target knows. */
    public function ask(Request $request, Migration $migration, Load $load): RedirectResponse
    {
        [$round, $data] = $this->ready($request, $migration, $load, ['cause' => 'required|integer']);

        $cause = (int) $data['cause'];
        $rows = CauseReader::rows($round->laneId(), $cause, Outcome::Rejected);

        return $this->repair(
            WorkKind::Ask,
            'Marking '.Say::count($rows, 'row')." of $load->name to be tried again",
            $round,
            ['load' => $load->id, 'cause' => $cause],
            $rows,
            fn () => Say::count($this->repairs->ask($round, $load, $cause), 'row').' will be tried again.',
        );
    }
}
