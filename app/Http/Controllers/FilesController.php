<?php

namespace App\Http\Controllers;

use App\Files\AnnotateExtract;
use App\Files\FileBook;
use App\Ledger\CauseReader;
use App\Ledger\DueBook;
use App\Models\ClientFile;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Take;
use App\Models\Work;
use App\Models\WorkKind;
use App\Rejects\CauseGroup;
use App\Rejects\CauseList;
use App\View\FileOpened;
use App\View\Page;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\BinaryFileResponse;

/** Files of rejected rows that go to the client. */
final class FilesController extends Controller
{
    public function store(Request $request, Migration $migration): RedirectResponse
    {
        $this->authorize('repair', $migration);
        $data = $request->validate([
            'format' => 'required|in:xlsx,csv',
            'alike' => 'nullable|string|max:300',
            'of' => 'nullable|integer',
            'entity' => 'nullable|string|max:190',
            'to_whom' => 'nullable|string|max:190',
        ]);
        $page = Page::of($migration, 'rejects', $data['entity'] ?? null);
        $round = $page->round ?? abort(404);
        $loads = $page->loads()->pluck('id')->map(fn ($id) => (int) $id)->all();
        $cause = empty($data['alike']) ? null : $this->cause($round->laneId(), $loads, $data['alike']);
        $loads = match (true) {
            $cause !== null => [$cause->load],
            ! empty($data['of']) => array_values(array_intersect($loads, [(int) $data['of']])),
            default => array_values($loads),
        };
        $named = array_values(Load::query()->whereIn('id', $loads)->get()->all());
        $entity = $page->entity === null || ! empty($data['of']) ? null : str_replace('_', ' ', $page->entity->name);
        try {
            $file = FileBook::begin($round, $loads, $cause, $data['format'], FileBook::title($named, $cause, $entity));
        } catch (\DomainException $e) {
            return back()->with('refused', $e->getMessage());
        }
        $file->update(['to_whom' => $data['to_whom'] ?? null]);
        FileBook::write($file);

        return redirect("/m/$migration->id/rejects/files/$file->id");
    }

    public function show(Request $request, Migration $migration, ClientFile $file): View
    {
        $this->authorize('view', $migration);

        return view('rejects.file', FileOpened::of(Page::of($migration, 'rejects'), $file)->data());
    }

    public function fetch(Migration $migration, ClientFile $file): BinaryFileResponse
    {
        $this->authorize('view', $migration);
        $type = ['xlsx' => 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet', 'csv' => 'text/csv; charset=utf-8'];

        return ! $file->isWritten() ? abort(404) : response()->download($file->path(), $file->name(), [
            'Content-Type' => $type[$file->format],
            'Cache-Control' => 'no-store',
        ]);
    }

    public function update(Request $request, Migration $migration, ClientFile $file): RedirectResponse
    {
        $this->authorize('repair', $migration);
        $data = $request->validate([
            'to_whom' => 'nullable|string|max:190', 'sent_on' => 'nullable|date', 'close' => 'nullable|boolean',
        ]);
        if ($request->boolean('close')) {
            FileBook::close($file);

            return back()->with('told', 'The file is closed: no answer to it is waited for.');
        }
        $file->update(['to_whom' => $data['to_whom'] ?? null, 'sent_on' => ($data['sent_on'] ?? '') ?: null]);

        return back()->with('told', 'Kept.');
    }

    /** A copy of the client's own file with what became of each row, for whoever asks. */
    public function annotate(Request $request, Migration $migration): RedirectResponse
    {
        $this->authorize('view', $migration);
        $take = Take::query()->findOrFail($request->validate(['take' => 'required|integer'])['take']);
        $round = Page::of($migration, 'rejects')->round ?? abort(404);
        abort_unless($round->roundLoads()->where('take_id', $take->id)->exists(), 404);
        $work = Work::ask($migration, WorkKind::Annotate, "the copy of $take->file_name", ['take' => $take->id, 'round' => $round->id], 0);
        $take->bytes <= FileBook::BYTES_AT_ONCE
            ? AnnotateExtract::dispatchSync($work->id)
            : AnnotateExtract::dispatch($work->id);

        return back();
    }

    /** @param  list<int>  $loads */
    private function cause(int $lane, array $loads, string $id): CauseGroup
    {
        $groups = (new CauseList(new CauseReader($lane), new DueBook($lane)))->groups($loads);

        return collect($groups)->first(fn (CauseGroup $g) => $g->id() === $id) ?? abort(404);
    }
}
