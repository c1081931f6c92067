<?php

namespace App\Http\Controllers;

use App\Models\Load;
use App\Models\Migration;
use App\Models\Round;
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
