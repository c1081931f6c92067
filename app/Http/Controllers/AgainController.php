<?php

namespace App\Http\Controllers;

use App\Models\Load;
use App\Models\Migration;
use App\Models\ReckoningKind;
use App\Models\WorkKind;
use App\Reckoning\Reckonings;
use App\Reckoning\WriteAgain;
use App\Reckoning\WritingAgain;
use App\View\ComparedPage;
use App\View\Say;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/** Records somebody changed in the target: written again, or left as they are. */
final class AgainController extends AboutRows
{
    public function ask(Request $request, Migration $migration, Load $load): RedirectResponse
    {
        [$round, $data] = $this->ready($request, $migration, $load, [
            'reckoning' => 'required|integer', 'field' => 'present|string|max:190', 'class' => 'required|string|max:60',
            'row' => 'nullable|integer|min:1', 'leave' => 'nullable|in:1',
        ]);
        $row = ($data['row'] ?? '') === '' ? null : (int) $data['row'];
        $again = new WriteAgain($round, $load, (int) $data['reckoning'], $data['field'], $data['class'], $row);
        $newest = Reckonings::newest($round, ReckoningKind::Comparison);
        $rows = $row !== null || $newest === null
            ? 1
            : ComparedPage::of($newest, null)->changedSince($load->id, $data['field'], $data['class']);
        $isLeft = (string) ($data['leave'] ?? '') === '1';

        return $this->repair(
            $isLeft ? WorkKind::LeaveAsIs : WorkKind::WriteAgain,
            ($isLeft ? 'Leaving ' : 'Marking ').Say::count($rows, 'record')." of $load->name".($isLeft ? '' : ' to be written again'),
            $round,
            [
                'load' => $load->id, 'reckoning' => (int) $data['reckoning'], 'field' => $data['field'], 'class' => $data['class'],
                'row' => $row,
            ],
            $rows,
            fn () => $isLeft ? $again->leave() : $again->ask(),
            WritingAgain::class,
        );
    }
}
