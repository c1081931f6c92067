<?php

namespace App\Http\Controllers;

use App\Models\AuditEntry;
use App\Models\Migration;
use App\View\Page;
use App\View\Tables\PeopleTables;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Gate;
use Symfony\Component\HttpFoundation\StreamedResponse;

/** Who did what, when, from where. It is read here, and changed nowhere. */
final class LogController extends Controller
{
    /** Entries on one screen; those before them by an earlier day. */
    private const MOST = 2000;

    public function ofMigration(Request $request, Migration $migration): View|StreamedResponse
    {
        $this->authorize('audit', $migration);

        return $this->screen('people.log', [
            'page' => Page::of($migration, 'reconciliation'),
        ] + $this->entries($request, $migration));
    }

    public function ofInstallation(Request $request): View|StreamedResponse
    {
        Gate::authorize('administer');

        return $this->screen('accounts.log', $this->entries($request, null));
    }

    /** @return array<string, mixed> */
    private function entries(Request $request, ?Migration $migration): array
    {
        $until = $request->validate(['until' => 'nullable|date_format:Y-m-d'])['until'] ?? null;
        $entries = AuditEntry::query()
            ->when($migration !== null, fn ($q) => $q->where('migration_id', $migration?->id))
            // What is done inside a migration is read by its own people.
            ->when($migration === null, fn ($q) => $q->whereNull('migration_id'))
            ->when($until !== null, fn ($q) => $q->where('at', '<', now()->parse((string) $until)->addDay()))
            ->with('user')
            ->orderByDesc('id')
            ->limit(self::MOST)
            ->get();

        return [
            'log' => PeopleTables::log($request, $entries, null),
            'until' => $until,
            'oldest' => $entries->count() === self::MOST ? $entries->last()?->at : null,
        ];
    }
}
