<?php

namespace App\Http\Controllers;

use App\Freezing\FreezeTake;
use App\Freezing\Incoming;
use App\Freezing\NextDelivery;
use App\Freezing\Room;
use App\Freezing\Together;
use App\Looking\LookGoing;
use App\Models\Audit;
use App\Models\Extract;
use App\Models\Migration;
use App\Models\Source;
use App\Reading\Part;
use App\Reading\ReaderForm;
use App\View\Page;
use App\View\Say;
use Baggage\Core\Reading\Columns;
use Baggage\Core\Reading\Encoding;
use Baggage\Core\Reading\ReaderSettings;
use Baggage\Core\Reading\ReadingError;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Arr;
use Illuminate\View\View;

/** Upload of a file of any kind: what is in it, guess, preview, overrule, freeze. */
final class UploadController extends Controller
{
    /** Files taken at once. */
    private const FILES = 30;

    public function __construct(private readonly Incoming $incoming)
    {
    }

    public function store(Request $request, Migration $migration): RedirectResponse
    {
        $this->authorize('work', $migration);
        $request->validate(['source' => 'required|integer', 'file' => 'required']);
        $files = Arr::wrap($request->file('file'));
        if (count($files) > self::FILES) {
            return back()->with('refused', 'At most '.self::FILES.' files at once.');
        }
        $request->validate(is_array($request->file('file')) ? ['file.*' => 'required|file'] : ['file' => 'required|file']);
        $source = $migration->sources()->findOrFail($request->integer('source'));
        $ids = $refused = [];
        try {
            Room::of($migration->id)->refuse(0, array_sum(array_map(fn ($file) => (int) $file->getSize(), $files)));
        } catch (\DomainException $e) {
            return back()->with('refused', $e->getMessage());
        }
        foreach ($files as $file) {
            try {
                $ids[] = $this->incoming->keep($file, $source->id);
            } catch (ReadingError $e) {
                $refused[] = "{$file->getClientOriginalName()}: {$e->getMessage()}";
            }
        }
        if ($ids === []) {
            return back()->with('refused', implode(' ', $refused));
        }
        $this->incoming->together($ids);
        $page = redirect("/m/$migration->id/sources/upload/$ids[0]");

        return $refused === [] ? $page : $page->with('refused', 'Not taken: '.implode(' ', $refused));
    }

    public function preview(Request $request, Migration $migration, string $upload): View
    {
        $this->authorize('work', $migration);
        $kept = $this->incoming->find($upload) ?? abort(404);
        $source = $migration->sources()->findOrFail($kept['source']);
        if ($kept['parts'] === []) {
            return view('sources.upload-waits', ['page' => Page::of($migration, 'sources'), 'kept' => $kept]);
        }
        $at = $request->has('part')
            ? $request->integer('part')
            : array_key_first(array_filter($kept['parts'], fn (Part $p) => $p->settings !== null && $p->refused === null)) ?? 0;
        $part = $kept['parts'][$at] ?? abort(404);
        $rows = in_array($request->integer('rows'), Say::PREVIEWED, true) ? $request->integer('rows') : Say::PREVIEWED[0];
        $error = null;
        $known = NextDelivery::before($source, $kept['name'], $part);
        $decided = $kept['decided'][$at] ?? null;
        // The next delivery of the same file is read as the last one was.
        $settings = $decided['settings']
            ?? ($known !== null && ($part->settings === null || $part->isLike($known)) ? $known->settings() : $part->settings);
        try {
            $settings = $request->has('reader') ? ReaderForm::settings((array) $request->input('reader')) : $settings;
        } catch (\InvalidArgumentException|ReadingError $e) {
            $error = $e->getMessage();
        }
        $isAsked = $part->refused === null || $request->hasAny(['part', 'reader']);
        $preview = $this->first($upload, $part, $isAsked ? $settings : null, $rows);
        $data = compact('migration', 'upload', 'kept', 'at', 'part', 'source', 'settings', 'known', 'preview', 'rows') + [
            'error' => $error ?? $preview['error'],
            'encodings' => Encoding::names(),
            'name' => $decided['name'] ?? $known->name ?? NextDelivery::name($part),
            'room' => Room::saidOf($part),
            'together' => Together::of($this->incoming, $kept['together']),
        ];

        return $request->hasHeader('HX-Request')
            ? view('sources.preview', $data)
            : view('sources.upload', $data + ['page' => Page::of($migration, 'sources')]);
    }

    /** @return array{columns: Columns|null, rows: list<array{int, list<string|null>}>, error: string|null, going: string|null} */
    private function first(string $upload, Part $part, ?ReaderSettings $settings, int $rows): array
    {
        $none = ['columns' => null, 'rows' => [], 'error' => $settings === null ? $part->refused : null, 'going' => null];
        try {
            return $settings === null ? $none : $this->incoming->preview($upload, $settings, $rows) + $none;
        } catch (LookGoing $e) {
            return ['going' => $e->getMessage()] + $none;
        }
    }

    public function freeze(Request $request, Migration $migration, string $upload): RedirectResponse
    {
        $this->authorize('work', $migration);
        $kept = $this->incoming->find($upload) ?? abort(404);
        /** @var Source $source */
        $source = $migration->sources()->findOrFail($kept['source']);
        if ($request->boolean('all')) {
            return $this->freezeAll($request, $migration, $source, $kept, $upload);
        }
        $data = $request->validate([
            'name' => ['required', 'string', 'max:100', 'not_regex:~/~'],
            'part' => 'nullable|integer|min:0',
            'then' => 'nullable|in:next,all',
        ]);
        try {
            $settings = ReaderForm::settings((array) $request->input('reader'));
        } catch (\InvalidArgumentException|ReadingError $e) {
            return back()->with('refused', $e->getMessage());
        }
        if (isset($data['then'])) {
            $at = (int) ($data['part'] ?? 0);
            isset($kept['parts'][$at]) || abort(404);
            $this->incoming->decide($upload, $at, ['name' => trim($data['name']), 'settings' => $settings->toArray()]);

            return $this->goOn($request, $migration, $source, $upload, $data['then']);
        }
        $extract = $source->extracts()->firstOrNew(['name' => trim($data['name'])]);
        if ($refused = self::busy($extract)) {
            return back()->with('refused', $refused);
        }
        $path = $this->incoming->toVault($upload, count($kept['parts']) > 1);
        $this->take($request, $migration, $source, $extract, $settings, $path, $kept['name']);

        return redirect(
            count($kept['parts']) > 1
                ? "/m/$migration->id/sources/upload/$upload"
                : "/m/$migration->id/sources/extracts/$extract->id",
        )->with('told', "\"$extract->name\" is being frozen.");
    }

    /** To the next of the files that came together, or all of them frozen. */
    private function goOn(Request $request, Migration $migration, Source $source, string $upload, string $then): RedirectResponse
    {
        $together = Together::of($this->incoming, $this->incoming->find($upload)['together'] ?? [$upload]);
        if ($then === 'next') {
            return redirect("/m/$migration->id/sources/upload/".($together->after($upload) ?? $upload));
        }
        try {
            $plan = $together->plan($source);
        } catch (\DomainException $e) {
            return back()->withInput()->with('refused', "Nothing was frozen. {$e->getMessage()}");
        }
        $left = $together->leaves($source);
        $paths = [];
        foreach ($plan as ['file' => $id, 'extract' => $extract, 'settings' => $settings]) {
            $paths[$id] ??= $this->incoming->toVault($id);
            $this->take($request, $migration, $source, $extract, $settings, $paths[$id], $together->files[$id]['name']);
        }

        return redirect("/m/$migration->id/sources")->with(
            'told',
            Say::count(count($plan), 'table is', 'tables are').' being frozen, of '.Say::count(count($paths), 'file').'.'.$left,
        );
    }

    /** @param  array{name: string, source: int, parts: list<Part>, together: list<string>, decided: array<int, mixed>}  $kept */
    private function freezeAll(
        Request $request,
        Migration $migration,
        Source $source,
        array $kept,
        string $upload,
    ): RedirectResponse {
        $next = NextDelivery::of($source, $kept['name'], $kept['parts']);
        if ($next->tables === []) {
            return back()->with('refused', "Nothing of $kept[name] was frozen.".$next->says());
        }
        $path = $this->incoming->toVault($upload);
        $n = 0;
        $busy = [];
        foreach ($next->tables as ['extract' => $extract, 'settings' => $settings]) {
            if (self::busy($extract)) {
                $busy[] = $extract->name;

                continue;
            }
            $this->take($request, $migration, $source, $extract, $settings, $path, $kept['name']);
            $n++;
        }

        return redirect("/m/$migration->id/sources")->with(
            'told',
            Say::count($n, 'table')." of $kept[name] are being frozen."
                .($busy === [] ? '' : ' Being read already: '.implode(', ', $busy).'.').$next->says(),
        );
    }

    private static function busy(Extract $extract): ?string
    {
        return $extract->isBeingRead() ? "The extract $extract->name is being read right now."
            : null;
    }

    private function take(
        Request $request,
        Migration $migration,
        Source $source,
        Extract $extract,
        ReaderSettings $settings,
        string $path,
        string $file,
    ): void {
        $extract->fill(['reader' => $settings->toArray()])->save();
        $take = $extract->newTake([
            'file' => $path,
            'file_name' => $file,
            'bytes' => (int) filesize($path),
            'user_id' => $request->user()?->id,
        ] + (preg_match('/^\d{1,12}$/D', (string) $request->input('stated')) !== 1 ? [] : [
            'stated_rows' => (int) $request->input('stated'), 'stated_by' => $request->user()?->name,
        ]));
        Audit::note($migration->id, "froze $file as $source->code/$extract->name");
        FreezeTake::dispatch($take->id);
    }
}
