<?php

namespace App\Http\Controllers;

use App\Catalogue\CodeFit;
use App\Catalogue\CodeSuggestions;
use App\Catalogue\CodeUse;
use App\Catalogue\CodeValue;
use App\Catalogue\Definitions;
use App\Http\Requests\CodeLine;
use App\Ledger\LedgerReader;
use App\Ledger\Spaces;
use App\Looking\Aside;
use App\Mapping\Waiting;
use App\Models\Audit;
use App\Models\ChangeList;
use App\Models\CodeCrosswalk;
use App\Models\ListKind;
use App\Models\Migration;
use App\Overview\ListedCrosswalk;
use App\Rejects\CodeTable;
use App\Rejects\Repairs;
use App\Specification\Changes;
use App\Specification\SpecificationWorkbook;
use App\Support\Meanwhile;
use App\Support\Scratch;
use App\Support\WorkbookFile;
use App\View\Page;
use App\View\Say;
use App\View\Tables\CodeTables;
use Baggage\Core\Crosswalks\LegacyKey;
use Baggage\Core\Crosswalks\Otherwise;
use Baggage\Core\Reading\ReadingError;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Str;
use Illuminate\View\View;
use Symfony\Component\HttpFoundation\StreamedResponse;

final class CrosswalksController extends Controller
{
    private const PAGE = 40;

    public function index(Request $request, Migration $migration, ?string $entity = null): View|StreamedResponse
    {
        $this->authorize('view', $migration);
        $page = Page::of($migration, 'crosswalks', $entity);
        $listed = array_values(array_filter(
            $page->overview->codes,
            fn (ListedCrosswalk $c) => $page->entity === null || $c->isUsedBy($page->entity->id),
        ));
        $shown = $this->shown($request, $listed);

        return $this->screen('crosswalks.index', [
            'page' => $page,
            'listed' => $listed,
            'shown' => $shown,
        ] + ($shown === null ? ['keys' => $this->keys($request, $page), 'q' => (string) $request->query('key', '')]
            : $this->codes($request, $migration, $shown)));
    }

    /**
     * The one asked for, else the first with something to do; null for the key crosswalk.
     *
     * @param  list<ListedCrosswalk>  $listed
     */
    private function shown(Request $request, array $listed): ?ListedCrosswalk
    {
        if ($request->query('code') === 'keys' || $request->filled('key')) {
            return null;
        }
        $all = collect($listed);
        $asked = $request->filled('missing')
            ? $all->first(fn (ListedCrosswalk $c) => $c->isMissing() && $c->name === $request->query('missing'))
            : ($request->filled('code') ? $all->firstWhere('id', $request->integer('code')) : null);

        return $asked
            ?? $all->first(fn (ListedCrosswalk $c) => $c->isMissing())
            ?? $all->first(fn (ListedCrosswalk $c) => ! $c->isDone())
            ?? $listed[0]
            ?? null;
    }

    /** @return array<string, mixed> what the page of a code crosswalk shows */
    private function codes(Request $request, Migration $migration, ListedCrosswalk $shown): array
    {
        if ($shown->isMissing()) {
            return [];
        }
        $crosswalk = $migration->codeCrosswalks()->with('entries')->findOrFail($shown->id);
        $use = CodeUse::known($crosswalk->name, $shown->uses);
        $values = $use->values($crosswalk);
        $fit = CodeFit::of($shown->uses);
        $refused = [];
        foreach ($values as $value) {
            $refused[$value->old] = $value->mapped && ! $value->rejected ? $fit->refusal($value->new) : null;
        }

        return [
            'crosswalk' => $crosswalk,
            'missing' => array_filter($values, fn (CodeValue $v) => ! $v->mapped),
            'allowed' => $fit->allowed(),
            'refused' => array_filter($refused, fn (?string $why) => $why !== null),
            'byPlace' => $request->boolean('place'),
            'suggestions' => CodeSuggestions::of($use, $crosswalk, $request->boolean('place')),
            'codes' => CodeTables::codes($request, $crosswalk, $values, $refused),
            'typed' => collect((array) $request->old('rows'))->where(fn ($r) => is_array($r))->keyBy('old')->all(),
            'from' => (string) $request->query('from'),
        ];
    }

    public function store(Request $request, Migration $migration): RedirectResponse
    {
        $this->authorize('work', $migration);
        $data = $request->validate(['name' => 'required|string|max:100']);
        if ($migration->codeCrosswalks()->where('name', $data['name'])->exists()) {
            return back()->with('refused', "There is a code crosswalk named \"$data[name]\" already.");
        }
        $crosswalk = $migration->codeCrosswalks()->create($data);
        Audit::note($migration->id, "added code crosswalk $data[name]");

        return redirect("/m/$migration->id/crosswalks?code=$crosswalk->id#code-$crosswalk->id")->with(
            'told',
            CodeUse::by(new Definitions($migration))->of($crosswalk->name) !== []
                ? 'It is there, with the values its columns hold.'
                : "Use it in a rule: code('$data[name]', column). Its old values then appear here with their counts.",
        );
    }

    public function entry(CodeLine $request, Migration $migration, CodeCrosswalk $crosswalk, Repairs $repairs): RedirectResponse
    {
        $old = (string) $request->input('old');
        $new = $request->value();
        $is = $request->decision();
        if ($new === '' && $is === 'value') {
            return back()->with(
                'refused',
                "Give a new value for \"$old\", or say that it stays empty or rejects the row.",
            );
        }
        $why = $is === 'reject' ? null : $this->fit($migration, $crosswalk)->refusal($is === 'value' ? $new : null);
        if ($why !== null) {
            $what = $new === '' ? 'it empty' : "\"$new\"";

            return back()->withInput()->with('refused', "\"$old\" was left as it is: the target would not take $what. $why.");
        }
        $repairs->mapCode($migration, $crosswalk, $old, $is === 'value' ? $new : null, $is === 'reject', $request->input('was'));
        if ($request->has('note')) {
            $crosswalk
                ->entries()
                ->where('old_value', trim($old))
                ->update(['note' => $request->input('note')]);
        }
        $becomes = match ($is) {
            'empty' => 'stays empty',
            'reject' => 'rejects the row',
            default => "becomes \"$new\"",
        };

        return back()->with('told', "\"$old\" $becomes.");
    }

    /** Everything that was typed into the table, kept at once; what somebody else changed meanwhile is left and named. */
    public function table(
        Request $request,
        Migration $migration,
        CodeCrosswalk $crosswalk,
        CodeTable $table,
    ): RedirectResponse {
        $this->authorize('repair', $migration);
        $data = $request->validate([
            'rows' => 'required|array|max:'.CodeTables::CODES,
            'rows.*.old' => 'required|string|max:190',
            'rows.*.was' => 'nullable|string|max:1000',
            'rows.*.is' => 'required|in:value,empty,reject',
            'rows.*.new' => 'nullable|string|max:190',
            'rows.*.note' => 'nullable|string|max:500',
        ]);
        [$kept, $others, $refused] = $table->keep($migration, $crosswalk, $data['rows'], $this->fit($migration, $crosswalk));
        $told = [Say::count($kept, 'code').' kept.'];
        if ($others !== []) {
            $told[] = 'Somebody changed these meanwhile, so yours were not kept: '.implode(', ', array_keys($others)).'.';
        }
        if ($refused !== []) {
            $told[] = 'The target would not take the new value of '.implode(', ', array_keys($refused)).': '.array_values($refused)[0].'.';
        }
        $notKept = array_map(strval(...), [...array_keys($others), ...array_keys($refused)]);
        $left = array_values(array_filter($data['rows'], fn (array $r) => in_array(trim($r['old']), $notKept, true)));

        return redirect()
            ->to(url()->previous()."#code-$crosswalk->id")
            ->withInput(['rows' => $left])
            ->with(count($told) === 1 ? 'told' : 'refused', implode(' ', $told))
            ->with('lost', array_values($others));
    }

    private function fit(Migration $migration, CodeCrosswalk $crosswalk): CodeFit
    {
        return CodeFit::of(CodeUse::by(new Definitions($migration))->of($crosswalk->name));
    }

    /** What becomes of old values that have no entry. */
    public function otherwise(
        Request $request,
        Migration $migration,
        CodeCrosswalk $crosswalk,
        Waiting $due,
    ): RedirectResponse {
        $this->authorize('work', $migration);
        $data = $request->validate([
            'otherwise' => 'required|in:'.implode(',', array_column(Otherwise::cases(), 'value')),
            'otherwise_value' => 'nullable|required_if:otherwise,value|string|max:190',
            'note' => 'nullable|string|max:1000',
        ]);
        $changed = Meanwhile::change(
            $crosswalk,
            $request->input('was'),
            ['otherwise_value' => $data['otherwise'] === 'value' ? $data['otherwise_value'] : null] + $data,
            ['otherwise' => 'Other old values', 'otherwise_value' => 'The one value', 'note' => 'Note on the crosswalk'],
        );
        Audit::note($migration->id, "stated what $crosswalk->name does with other values", $changed);
        $due->changed($migration);

        return back()->with(
            'told',
            'Kept.',
        );
    }

    /** Takes over ticked suggestions. */
    public function suggested(
        Request $request,
        Migration $migration,
        CodeCrosswalk $crosswalk,
        Repairs $repairs,
    ): RedirectResponse {
        $this->authorize('repair', $migration);
        $data = $request->validate(['take' => 'required|array', 'take.*' => 'string']);
        $use = CodeUse::by(new Definitions($migration));
        $suggestions = CodeSuggestions::of($use, $crosswalk->load('entries'), $request->boolean('place'));
        $taken = 0;
        foreach ($data['take'] as $old) {
            if (isset($suggestions[$old])) {
                $repairs->mapCode($migration, $crosswalk, $old, $suggestions[$old]['new']);
                $taken++;
            }
        }

        return back()->with('told', Say::count($taken, 'code').' mapped as suggested.');
    }

    /** The crosswalk as a sheet, to be filled by somebody else. */
    public function sheet(Migration $migration, CodeCrosswalk $crosswalk): StreamedResponse
    {
        $this->authorize('view', $migration);
        $values = CodeUse::by(new Definitions($migration))->values($crosswalk->load('entries'));
        $file = Scratch::file(fn (string $path) => self::written($path, $values));

        return response()->streamDownload(fn () => fpassthru($file), Str::slug($crosswalk->name).'.xlsx', [
            'Content-Type' => 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
            'Content-Length' => (string) (fstat($file)['size'] ?? 0),
        ]);
    }

    /** @param  list<CodeValue>  $values */
    private static function written(string $path, array $values): void
    {
        $book = new WorkbookFile($path);
        $text = fn (?string $t) => $t === null || $t === '' ? null : ['wrapped', $t];
        $book->sheet(
            'Codes',
            [
                array_map(fn ($h) => ['head', $h], array_slice(SpecificationWorkbook::CODES, 1)),
                ...array_map(
                    fn ($v) => [
                        $text($v->old),
                        $v->rows,
                        $text($v->new),
                        $text($v->decision()),
                        $text($v->note),
                    ],
                    $values,
                ),
            ],
            widths: [24, 10, 24, 12, 40],
        );
        $book->save();
    }

    /** A sheet that came back becomes a list of changes to decide on. */
    public function readBack(
        Request $request,
        Migration $migration,
        CodeCrosswalk $crosswalk,
        Changes $reader,
    ): RedirectResponse {
        $this->authorize('work', $migration);
        $request->validate(Aside::rules('file', 20480));
        $file = Aside::of($request, 'file');
        $name = $file->name;
        try {
            $changes = $reader->ofCodes($crosswalk, $file->path, $name);
        } catch (ReadingError $e) {
            return back()->with('refused', $e->getMessage());
        }
        $list = ChangeList::query()->create([
            'migration_id' => $migration->id,
            'kind' => ListKind::Codes,
            'file_name' => $name,
            'changes' => $changes,
            'user_id' => $request->user()?->id,
        ]);

        return redirect("/m/$migration->id/changes/$list->id");
    }

    /** @return array{rows: list<\stdClass>, next: string|null, more: bool, asked: bool} */
    private function keys(Request $request, Page $page): array
    {
        if ($page->round === null) {
            return ['rows' => [], 'next' => null, 'more' => false, 'asked' => false];
        }
        $q = trim((string) $request->query('key', ''));
        $stored = LegacyKey::typed($q);
        $spaces = Spaces::of($page->migration)->among($page->entity === null ? null : [$page->entity->name], null);
        $ledger = new LedgerReader($page->round);
        $after = preg_match('/^(\d{1,9}) (\d{1,6}) (.*)$/s', (string) $request->query('after'), $m) === 1
            ? [(int) $m[1], (int) $m[2], $m[3]]
            : null;
        // Both ways: as the beginning of a legacy key, and as a whole new key.
        $rows = $q === ''
            ? $ledger->crosswalk($spaces, $after, self::PAGE + 1)
            : $ledger->beginningWith($spaces, $spaces, $stored, $q, self::PAGE + 1);
        $more = count($rows) > self::PAGE;
        $rows = array_slice($rows, 0, self::PAGE);
        $last = end($rows);

        return [
            'rows' => $rows,
            'next' => $more && $q === '' && $last !== false ? self::after($rows, $after) : null,
            'more' => $more,
            'asked' => $q !== '',
        ];
    }

    /**
     * @param  non-empty-list<\stdClass>  $rows
     * @param  array{int, int, string}|null  $before
     */
    private static function after(array $rows, ?array $before): string
    {
        $last = $rows[count($rows) - 1];
        $same = count(array_filter($rows, fn ($r) => $r->space_id === $last->space_id && $r->legacy_key === $last->legacy_key));
        if ($before !== null && [(int) $last->space_id, $last->legacy_key] === [$before[0], $before[2]]) {
            $same += $before[1];
        }

        return "$last->space_id $same $last->legacy_key";
    }
}
