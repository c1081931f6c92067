<?php

namespace App\Http\Controllers;

use App\Jobs\FreezeTake;
use App\Models\Migration;
use App\Models\Source;
use App\Staging\Incoming;
use App\Support\Audit;
use App\View\Page;
use Baggage\Core\Reading\DelimitedFormat;
use Baggage\Core\Reading\Encoding;
use Baggage\Core\Reading\ReadingError;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\View\View;

/** Upload of a delimited file: guess, preview, overrule, freeze. */
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
        if (! $file instanceof \Illuminate\Http\UploadedFile) {
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
        $rows = in_array($request->integer('rows'), [5, 10, 20, 50], true) ? $request->integer('rows') : 10;
        $error = null;
        $guess = $this->incoming->guess($upload);
        try {
            $format = $request->has('delimiter') ? self::format($request) : $guess->format;
        } catch (\InvalidArgumentException|ReadingError $e) {
            $error = $e->getMessage();
            $format = $guess->format;
        }
        $preview = $this->incoming->preview($upload, $format, $rows);
        $data = ['migration' => $migration, 'upload' => $upload, 'kept' => $kept, 'source' => $source, 'format' => $format, 'guess' => $guess,
            'preview' => $preview, 'rows' => $rows, 'error' => $error ?? $preview['error'], 'encodings' => Encoding::names()];

        return $request->hasHeader('HX-Request') ? view('sources.preview', $data) : view('sources.upload', $data + ['page' => new Page($migration, 'sources')]);
    }

    public function freeze(Request $request, Migration $migration, string $upload): RedirectResponse
    {
        $this->authorize('work', $migration);
        $kept = $this->incoming->find($upload) ?? abort(404);
        /** @var Source $source */
        $source = $migration->sources()->findOrFail($kept['source']);
        $data = $request->validate(['name' => ['required', 'string', 'max:100', 'not_regex:~/~']]);
        try {
            $format = self::format($request);
        } catch (\InvalidArgumentException|ReadingError $e) {
            return back()->with('refused', $e->getMessage());
        }
        $extract = $source->extracts()->firstOrNew(['name' => trim($data['name'])]);
        if ($extract->exists && $extract->takes()->where('state', 'reading')->exists()) {
            return back()->with('refused', "The extract $extract->name is being read right now.");
        }
        $extract->fill(['reader' => $format->toArray()])->save();
        $path = $this->incoming->toVault($upload);
        $take = $extract->takes()->create(['number' => (int) $extract->takes()->max('number') + 1, 'state' => 'waiting', 'file' => $path,
            'file_name' => $kept['name'], 'bytes' => (int) filesize($path), 'user_id' => $request->user()?->id]);
        Audit::note($migration->id, "froze $kept[name] as $source->code/$extract->name");
        FreezeTake::dispatch($take->id);

        return redirect("/m/$migration->id/sources/extracts/$extract->id");
    }

    private static function format(Request $request): DelimitedFormat
    {
        return DelimitedFormat::fromArray([
            'delimiter' => (string) $request->input('delimiter'), 'quote' => (string) $request->input('quote'), 'encoding' => (string) $request->input('encoding'),
            'header' => $request->boolean('header'), 'skip' => $request->integer('skip'), 'pad_short' => $request->boolean('pad_short'),
        ]);
    }
}
