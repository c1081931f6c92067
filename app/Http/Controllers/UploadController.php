<?php

namespace App\Http\Controllers;

use App\Freezing\FreezeTake;
use App\Freezing\Incoming;
use App\Models\Audit;
use App\Models\Extract;
use App\Models\Migration;
use App\Models\Source;
use App\Reading\Part;
use App\Reading\ReaderForm;
use App\View\Page;
use App\View\Say;
use Baggage\Core\Reading\Encoding;
use Baggage\Core\Reading\ReaderSettings;
use Baggage\Core\Reading\ReadingError;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\View\View;

/** Upload of a file of any kind: what is in it, guess, preview, overrule, freeze. */
final class UploadController extends Controller
{
    public function __construct(private readonly Incoming $incoming)
    {
    }

    public function store(Request $request, Migration $migration): RedirectResponse
    {
        $this->authorize('work', $migration);
        $request->validate(['source' => 'required|integer', 'file' => 'required|file']);
        $source = $migration->sources()->findOrFail($request->integer('source'));
        $file = $request->file('file');
        if (! ($file instanceof \Illuminate\Http\UploadedFile)) {
            return back()->with('refused', 'One file at a time.');
        }
        try {
            $id = $this->incoming->keep($file, $source->id);
        } catch (ReadingError $e) {
            return back()->with('refused', "{$file->getClientOriginalName()}: {$e->getMessage()}");
        }

        return redirect("/m/$migration->id/sources/upload/$id");
    }

    public function preview(Request $request, Migration $migration, string $upload): View
    {
        $this->authorize('work', $migration);
        $kept = $this->incoming->find($upload) ?? abort(404);
        $source = $migration->sources()->findOrFail($kept['source']);
        $at = $request->has('part')
            ? $request->integer('part')
            : array_key_first(array_filter($kept['parts'], fn (Part $p) => $p->settings !== null)) ?? 0;
        $part = $kept['parts'][$at] ?? abort(404);
        $rows = in_array($request->integer('rows'), Say::PREVIEWED, true) ? $request->integer('rows') : Say::PREVIEWED[0];
        $error = null;
        $known = $source->extracts()->where('name', $part->name)->first();
        // The next delivery of the same file is read as the last one was.
        $settings = $known !== null && ($part->settings === null || $part->isLike($known)) ? $known->settings() : $part->settings;
        try {
            $settings = $request->has('reader') ? ReaderForm::settings((array) $request->input('reader')) : $settings;
        } catch (\InvalidArgumentException|ReadingError $e) {
            $error = $e->getMessage();
        }
        $preview = $settings === null
            ? ['columns' => null, 'rows' => [], 'error' => $part->refused]
            : $this->incoming->preview($upload, $settings, $rows);
        $data = compact('migration', 'upload', 'kept', 'at', 'part', 'source', 'settings', 'known', 'preview', 'rows') + [
            'error' => $error ?? $preview['error'],
            'encodings' => Encoding::names(),
        ];

        return $request->hasHeader('HX-Request')
            ? view('sources.preview', $data)
            : view('sources.upload', $data + ['page' => Page::of($migration, 'sources')]);
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
        $data = $request->validate(['name' => ['required', 'string', 'max:100', 'not_regex:~/~']]);
        try {
            $settings = ReaderForm::settings((array) $request->input('reader'));
        } catch (\InvalidArgumentException|ReadingError $e) {
            return back()->with('refused', $e->getMessage());
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

    /** @param  array{name: string, source: int, parts: list<Part>}  $kept */
    private function freezeAll(
        Request $request,
        Migration $migration,
        Source $source,
        array $kept,
        string $upload,
    ): RedirectResponse {
        $path = $this->incoming->toVault($upload);
        $n = 0;
        $busy = [];
        foreach ($kept['parts'] as $part) {
            $extract = $source
                ->extracts()
                ->firstOrNew(['name' => mb_substr(str_replace('/', '-', $part->name), 0, 100)]);
            if ($part->settings === null || $part->refused !== null) {
                continue;
            }
            if (self::busy($extract)) {
                $busy[] = $extract->name;

                continue;
            }
            $settings = $extract->exists && $part->isLike($extract) ? $extract->settings() : $part->settings;
            $this->take($request, $migration, $source, $extract, $settings, $path, $kept['name']);
            $n++;
        }

        return redirect("/m/$migration->id/sources")->with(
            'told',
            Say::count($n, 'table')." of $kept[name] are being frozen."
                .($busy === [] ? '' : ' Being read already: '.implode(', ', $busy).'.'),
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
        ]);
        Audit::note($migration->id, "froze $file as $source->code/$extract->name");
        FreezeTake::dispatch($take->id);
    }
}
