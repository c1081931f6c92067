<?php

namespace App\Http\Controllers;

use App\Models\Migration;
use App\People\LogFilter;
use App\Support\Csv;
use App\View\Page;
use App\View\Told;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Gate;
use Symfony\Component\HttpFoundation\StreamedResponse;

/** Who did what, when, from where. It is read here, and changed nowhere. */
final class LogController extends Controller
{
    public function ofMigration(Request $request, Migration $migration): View|StreamedResponse
    {
        $this->authorize('audit', $migration);
        $filter = $this->filter($request, $migration->id);

        return $request->boolean('csv') ? $this->file($filter) : view('people.log', [
            'page' => Page::of($migration, 'reconciliation'),
            'at' => "/m/$migration->id/log",
        ] + $this->page($filter));
    }

    public function ofInstallation(Request $request): View|StreamedResponse
    {
        Gate::authorize('administer');
        $filter = $this->filter($request, null);

        return $request->boolean('csv') ? $this->file($filter) : view('accounts.log', ['at' => '/log'] + $this->page($filter));
    }

    private function filter(Request $request, ?int $migration): LogFilter
    {
        $asked = $request->validate([
            'who' => ['nullable', 'string', 'regex:/^(\d{1,9}|'.LogFilter::NOBODY.')$/'],
            'what' => 'nullable|string|max:100',
            'from' => 'nullable|date_format:Y-m-d',
            'until' => 'nullable|date_format:Y-m-d',
            'before' => 'nullable|integer|min:1',
        ]);
        $of = fn (string $key): ?string => ($asked[$key] ?? '') === '' ? null : $asked[$key];

        return new LogFilter($migration, $of('who'), $of('what'), $of('from'), $of('until'), $of('before') === null ? null
            : (int) $of('before'));
    }

    /** @return array<string, mixed> */
    private function page(LogFilter $filter): array
    {
        $found = $filter->page();
        $shown = $found->take(LogFilter::PAGE);
        $more = $found->count() > LogFilter::PAGE ? ['before' => $shown->last()?->id] : null;

        return [
            'entries' => $shown,
            'filter' => $filter,
            'who' => $filter->people(),
            'older' => $more === null ? null : http_build_query($filter->query() + $more),
        ];
    }

    /** All of them, however many: read a thousand at a time. */
    private function file(LogFilter $filter): StreamedResponse
    {
        return Csv::file('log', function () use ($filter) {
            yield ['When', 'Who', 'From where', 'What', 'Before', 'After, or what else is known'];
            foreach ($filter->all() as $entry) {
                yield Told::line($entry);
            }
        });
    }
}
