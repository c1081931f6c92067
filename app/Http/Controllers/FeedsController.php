<?php

namespace App\Http\Controllers;

use App\Freezing\DependentFeeds;
use App\Freezing\FreezeTake;
use App\Http\Requests\NewFeed;
use App\Models\Audit;
use App\Models\ColumnReference;
use App\Models\Extract;
use App\Models\Migration;
use App\Models\ReferenceDecision;
use App\View\Page;
use Baggage\Core\Feeds\Combination;
use Baggage\Core\Feeds\Comparison;
use Baggage\Core\Feeds\FeedFormat;
use Baggage\Core\Reading\ReaderSettings;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Collection;
use Illuminate\View\View;

/** Feeds made out of extracts: joined, stacked, side by side, distinct values. */
final class FeedsController extends Controller
{
    public function create(Request $request, Migration $migration): View
    {
        $this->authorize('work', $migration);
        $combination = Combination::tryFrom((string) $request->query('combined')) ?? Combination::Join;
        $extracts = $this->extracts($migration);
        $chosen = array_values(
            array_map(
                fn ($id) => $extracts->firstWhere('id', (int) $id),
                array_filter((array) $request->query('of'), fn ($id) => $extracts->contains('id', (int) $id)),
            ),
        );
        $known = count($chosen) === 2
            ? ColumnReference::acceptedFirst()
                ->where('extract_id', $chosen[0]->id)
                ->where('parent_extract_id', $chosen[1]->id)
                ->where('decision', '<>', ReferenceDecision::Dismissed)
                ->first()
            : null;

        return view('sources.feed', [
            'page' => Page::of($migration, 'sources'),
            'combination' => $combination,
            'extracts' => $extracts,
            'chosen' => $chosen,
            'comparisons' => Comparison::labels(),
            'on' => $known === null ? [] : array_combine($known->columns, $known->parent_columns),
        ]);
    }

    public function store(NewFeed $request, Migration $migration): RedirectResponse
    {
        $of = $request->extracts($this->extracts($migration));
        try {
            $format = $request->feed($of);
        } catch (\InvalidArgumentException $e) {
            return back()->withInput()->with('refused', $e->getMessage());
        }
        $missing = $this->missingColumn($format, $of);
        if ($missing !== null) {
            return back()->withInput()->with('refused', $missing);
        }
        $name = (string) $request->validated('name');
        $source = $of[0]->source()->firstOrFail();
        if ($source->extracts()->where('name', $name)->exists()) {
            return back()->withInput()->with('refused', "$source->code has an extract named \"$name\" already.");
        }
        $feed = $source->extracts()->create(['name' => $name, 'reader' => (new ReaderSettings($format))->toArray()]);
        Audit::note($migration->id, "made the feed $source->code/$feed->name", $feed->reader);
        FreezeTake::dispatch(DependentFeeds::take($feed, $request->user()?->id)->id);

        return redirect("/m/$migration->id/sources/extracts/$feed->id")->with(
            'told',
            'The feed is being made. Its row arithmetic appears below; look at it before you map.',
        );
    }

    /**
     * @param  list<Extract>  $of
     * @return string|null what is missing, in words
     */
    private function missingColumn(FeedFormat $format, array $of): ?string
    {
        $needed = [
            [$of[0], [...array_keys($format->on), ...$format->columns]],
            [$of[1] ?? null, array_values($format->on)],
        ];
        foreach ($needed as [$extract, $headers]) {
            foreach ($headers as $header) {
                if ($extract?->tidyColumns()->find((string) $header) === null) {
                    return "{$extract?->name} has no column \"$header\".";
                }
            }
        }

        return null;
    }

    /** Accepts that the join makes several rows of one, and makes it. */
    public function multiply(Request $request, Migration $migration, Extract $extract): RedirectResponse
    {
        $this->authorize('work', $migration);
        abort_unless(
            $extract->settings()->format instanceof FeedFormat,
            404,
        );
        if ($extract->isBeingRead()) {
            return back()->with('refused', "The feed $extract->name is being made right now.");
        }
        $extract->update(['reader' => ['multiplies' => true] + $extract->reader]);
        Audit::note($migration->id, "accepted that the feed {$extract->source->code}/$extract->name multiplies rows");
        FreezeTake::dispatch(DependentFeeds::take($extract, $request->user()?->id)->id);

        return redirect("/m/$migration->id/sources/extracts/$extract->id");
    }

    /** A feed nothing reads may go: its rows are still in the extracts it was made of. */
    /** @return Collection<int, Extract> */
    private function extracts(Migration $migration): Collection
    {
        return $migration->extracts()
            ->whereNotNull('take_id')
            ->with('source')
            ->orderBy('source_id')
            ->orderBy('extracts.id')
            ->get();
    }
}
