<?php

namespace App\Http\Controllers;

use App\Models\Load;
use App\Models\Migration;
use App\Models\Round;
use App\Models\Work;
use App\Models\WorkKind;
use App\Models\WorkState;
use App\Queueing\WorkJob;
use App\Reconciling\CountBook;
use App\Rejects\RepairRows;
use App\Rejects\Repairs;
use App\View\Page;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/** What forms about rows of a round have in common. */
abstract class AboutRows extends Controller
{
    public function __construct(protected readonly Repairs $repairs)
    {
    }

    /**
     * @param  array<string, string>  $rules
     * @return array{Round, array<string, mixed>}
     */
    protected function ready(Request $request, Migration $migration, Load $load, array $rules): array
    {
        $this->authorize('repair', $migration);
        $round = Page::of($migration, 'rejects')->round ?? abort(404);

        return [$round, $request->validate($rules)];
    }

    /**
     * At once, or by a worker where so many rows are concerned that nobody should wait for the page.
     *
     * @param  array<string, mixed>  $given
     * @param  \Closure(): string  $repair  says what was done
     * @param  class-string<WorkJob>  $job  that does the same
     */
    protected function repair(
        WorkKind $kind,
        string $title,
        Round $round,
        array $given,
        int $rows,
        \Closure $repair,
        string $job = RepairRows::class,
    ): RedirectResponse {
        if ($rows <= RepairRows::AT_ONCE) {
            return $this->answer(function () use ($kind, $round, $repair) {
                $told = $repair();
                $kind->changesOutcomes() ? CountBook::ask($round) : null;

                return $told;
            });
        }

        return $this->answer(function () use ($kind, $title, $round, $given, $rows, $job) {
            Repairs::mayBeDecided($round);
            $work = Work::ask($round->migration()->firstOrFail(), $kind, $title, ['round' => $round->id] + $given, $rows);
            $job::dispatch($work->id);
            $ended = $work->refresh();
            // A queue that does it at once has told already.
            if ($ended->isGoing()) {
                return "$title: a worker does it. This page says how far it is.";
            }
            $ended->update(['seen' => true]);

            return $ended->state === WorkState::Done ? (string) $ended->told : throw new \DomainException((string) $ended->told);
        });
    }

    /** @param  \Closure(): string  $repair  says what was done */
    protected function answer(\Closure $repair): RedirectResponse
    {
        try {
            return back()->with('told', $repair());
        } catch (\DomainException $e) {
            return back()->with('refused', $e->getMessage())->withInput();
        }
    }
}
