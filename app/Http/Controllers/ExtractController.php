<?php

namespace App\Http\Controllers;

use App\Decisions\RowKeys;
use App\Freezing\FreezeTake;
use App\Models\Audit;
use App\Models\ColumnReference;
use App\Models\Extract;
use App\Models\Finding;
use App\Models\FindingDecision;
use App\Models\Migration;
use App\Models\Take;
use App\Models\TakeState;
use App\Profiling\FindingWalk;
use App\Profiling\SharedKeys;
use App\Profiling\TakeChanges;
use App\Staging\ColumnValues;
use App\Staging\StagedRows;
use App\Support\Meanwhile;
use App\View\Page;
use App\View\Say;
use App\View\Tables\ExtractTables;
use Baggage\Core\Feeds\FeedFormat;
use Illuminate\Contracts\View\View;
use Illuminate\Database\Eloquent\Collection;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Validation\Rule;
use Symfony\Component\HttpFoundation\StreamedResponse;

/** One extract: its columns, what is odd, its keys, its rows and its takes. */
final class ExtractController extends Controller
{
    /** Values listed of a column; of one with more, the most frequent. */
    private const VALUES = 5_000;

    public function show(Request $request, Migration $migration, Extract $extract): View|StreamedResponse
    {
        if ($extract->take === null) {
            return view('sources.extract-none', $this->common($migration, $extract));
        }
        $show = in_array($request->query('show'), ['findings', 'keys', 'rows', 'takes', 'changes', 'key'], true)
            ? (string) $request->query('show')
            : ($request->has('after')
                ? 'rows'
                : 'columns');
        $data = $this->common($migration, $extract) + [
            'show' => $show,
        ] + match ($show) {
            'rows' => $this->rows($request, $extract),
            'findings' => ['findings' => ExtractTables::findings($request, $this->findings($extract))],
            'keys' => $this->keys($request, $extract),
            'takes' => ['takes' => ExtractTables::takes($request, $this->takes($extract))],
            'key' => ['key' => $this->key($request, $extract)],
            'changes' => ['changes' => $this->changes($request, $extract)],
            default => ['columns' => ExtractTables::columns($request, $extract, $extract->take)],
        };

        return $this->screen("sources.extract-$show", $data);
    }

    /** @return array<string, mixed> */
    private function rows(Request $request, Extract $extract): array
    {
        $after = max(0, $request->integer('after'));
        $most = in_array($request->integer('rows'), Say::PREVIEWED, true) ? $request->integer('rows') : Say::PREVIEWED[1];

        return [
            'from' => max(0, min($request->integer('from'), max(0, count($extract->columns ?? []) - 1))),
            'after' => $after,
            'most' => $most,
            'rows' => collect(StagedRows::page((int) $extract->take_id, $after, $most)),
        ];
    }

    /** @return Collection<int, Finding> the open ones first */
    private function findings(Extract $extract): Collection
    {
        return Finding::openFirst()->where('take_id', $extract->take_id)->get();
    }

    /** @return Collection<int, Take> the newest first, without their profiles */
    private function takes(Extract $extract): Collection
    {
        return $extract->takes()->orderByDesc('number')->get([...explode(',', Take::LISTED), 'error', 'compared']);
    }

    /** @return array<string, mixed> */
    private function keys(Request $request, Extract $extract): array
    {
        $references = ColumnReference::query()
            ->where(fn ($q) => $q->where('extract_id', $extract->id)->orWhere('parent_extract_id', $extract->id))
            ->with(['extract.source', 'extract.take:'.Take::LISTED, 'parent.source', 'parent.take:'.Take::LISTED])
            ->orderBy('id')
            ->get();

        return [
            'keys' => SharedKeys::candidates((int) $extract->take_id),
            'table' => ExtractTables::references($request, $references),
            'rowKey' => RowKeys::columns($extract),
        ];
    }

    /** Which columns tell a row of the extract from the others, in every take. */
    public function rowKey(Request $request, Migration $migration, Extract $extract): RedirectResponse
    {
        $this->authorize('work', $migration);
        $data = $request->validate([
            'columns' => 'array|max:12',
            'columns.*' => ['string', Rule::in(array_column($extract->columns ?? [], 'header'))],
        ]);
        $columns = array_values($data['columns'] ?? []);
        $changed = Meanwhile::change($extract, $request->input('was'), ['row_key' => $columns === [] ? null : $columns], [
            'row_key' => 'What identifies a row',
        ]);
        Audit::note($migration->id, "stated what identifies rows of $extract->name", $changed);

        return back()->with('told', $columns === []
            ? 'Kept. Rows are told apart by a key that was found, or by the key of the first load.'
            : 'Kept. Decisions from now on name rows by '.implode(' + ', $columns).'; earlier ones keep the key they were made with.');
    }

    private function key(Request $request, Extract $extract): SharedKeys
    {
        $from = (string) $request->query('from', '0-0');

        return SharedKeys::of((int) $extract->take_id, $request->integer('of'), $request->boolean('blank'), $from) ?? abort(404);
    }

    private function changes(Request $request, Extract $extract): TakeChanges
    {
        $take = $extract->takes()
            ->where('state', TakeState::Frozen)
            ->where('number', $request->integer('of'))
            ->whereNotNull('compared')
            ->first() ?? abort(404);
        $kind = in_array($request->query('kind'), TakeChanges::KINDS, true) ? (string) $request->query('kind') : 'added';

        return TakeChanges::of($take, $kind, max(0, $request->integer('after')));
    }

    public function column(Request $request, Migration $migration, Extract $extract, int $position): View|StreamedResponse
    {
        $data = $this->common($migration, $extract);
        abort_if($extract->take === null, 404);
        $column = $extract->tidyColumns()->all[$position] ?? abort(404);
        $value = $request->has('value') ? (string) $request->query('value') : null;
        $rows = $value === null
            ? null
            : StagedRows::withValue((int) $extract->take_id, $position, $value, max(0, $request->integer('after')));

        return $this->screen(
            'sources.column',
            $data + [
                'column' => $column,
                'value' => $value,
                'found' => $rows,
                'values' => ExtractTables::values($request, ColumnValues::most((int) $extract->take_id, $position, self::VALUES)),
            ],
        );
    }

    /** The rows a finding, a key or a reference is about. */
    public function those(Request $request, Migration $migration, Extract $extract, Finding $finding): View
    {
        abort_unless($finding->take_id === $extract->take_id, 404);
        $data = $this->common($migration, $extract);
        $after = $request->integer('after');
        $numbers = FindingWalk::numbers($finding, $after);

        return view(
            'sources.finding',
            $data + [
                'finding' => $finding,
                'kept' => FindingWalk::isApart($finding) ? $finding->n : count($finding->rows),
                'next' => $numbers->next,
                'rows' => StagedRows::asRead($finding->take_id, $numbers->shown),
            ],
        );
    }

    /** Reads a database or a service once more as the next take. */
    public function again(Request $request, Migration $migration, Extract $extract): RedirectResponse
    {
        $this->authorize('work', $migration);
        $settings = $extract->settings();
        if (! $settings->isReadAgain()) {
            return back()->with('refused', 'This extract comes from a file: upload its next delivery.');
        }
        if ($extract->isBeingRead()) {
            return back()->with('refused', "The extract $extract->name is being read right now.");
        }
        $take = $extract->newTake([
            'file' => '',
            'file_name' => $settings->describe(),
            'bytes' => 0,
            'recipe' => $settings->format instanceof FeedFormat ? $settings->toArray() : null,
            'user_id' => $request->user()?->id,
        ]);
        Audit::note($migration->id, "read {$extract->source->code}/$extract->name again as take $take->number");
        FreezeTake::dispatch($take->id);

        return redirect("/m/$migration->id/sources/extracts/$extract->id");
    }

    /** @return array<string, mixed> */
    private function common(Migration $migration, Extract $extract): array
    {
        $this->authorize('view', $migration);

        return [
            'page' => Page::of($migration, 'sources'),
            'extract' => $extract,
            'take' => $extract->take,
            'latest' => $extract->takes()->latest('number')->first(),
            'openFindings' => Finding::query()->where('take_id', $extract->take_id)->where('decision', FindingDecision::Open)->count(),
            'allFindings' => Finding::query()->where('take_id', $extract->take_id)->count(),
        ];
    }
}
