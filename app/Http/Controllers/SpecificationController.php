<?php

namespace App\Http\Controllers;

use App\Looking\Aside;
use App\Models\Audit;
use App\Models\ChangeList;
use App\Models\ListKind;
use App\Models\Load;
use App\Models\Migration;
use App\Specification\Changes;
use App\Specification\Specification;
use App\Specification\SpecificationPdf;
use App\Specification\SpecificationWorkbook;
use App\Support\Scratch;
use App\View\Page;
use Baggage\Core\Ordering\OrderError;
use Baggage\Core\Reading\ReadingError;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Http\Response;
use Illuminate\Support\Str;
use Illuminate\View\View;
use Symfony\Component\HttpFoundation\StreamedResponse;

/** The mapping as a document: to read, to print, to sign, and as a workbook that comes back. */
final class SpecificationController extends Controller
{
    public function show(Request $request, Migration $migration): View
    {
        $page = Page::of($migration, 'mapping');
        $specification = $this->specification($request, $migration);

        return view('specification.show', [
            'page' => $page,
            'specification' => $page->orderError() === null ? $specification : null,
            'loads' => $page->loads(),
            'lists' => ChangeList::query()
                ->where('migration_id', $migration->id)
                ->where('kind', 'mapping')
                ->with('user')
                ->latest('id')
                ->limit(10)
                ->get(),
        ]);
    }

    public function pdf(Request $request, Migration $migration): Response
    {
        $specification = $this->specification($request, $migration);
        try {
            $bytes = SpecificationPdf::of($specification);
        } catch (OrderError $e) {
            abort(409, $e->getMessage());
        }

        return response($bytes, 200, [
            'Content-Type' => 'application/pdf',
            'Content-Disposition' => 'attachment; filename="'.$this->name($specification).'.pdf"',
        ]);
    }

    public function workbook(Request $request, Migration $migration): StreamedResponse
    {
        $specification = $this->specification($request, $migration);
        $file = Scratch::file(fn (string $path) => SpecificationWorkbook::write($specification, $path));

        return response()->streamDownload(fn () => fpassthru($file), $this->name($specification).'.xlsx', [
            'Content-Length' => (string) (fstat($file)['size'] ?? 0),
            'Content-Type' => 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
        ]);
    }

    public function readBack(Request $request, Migration $migration, Changes $reader): RedirectResponse
    {
        $this->authorize('work', $migration);
        $request->validate(Aside::rules('file', 20480));
        $file = Aside::of($request, 'file');
        try {
            $changes = $reader->ofWorkbook(
                $migration,
                $file->path,
                $name = $file->name,
            );
        } catch (ReadingError $e) {
            return back()->with('refused', $e->getMessage());
        }
        $list = ChangeList::query()->create([
            'migration_id' => $migration->id,
            'kind' => ListKind::Mapping,
            'file_name' => $name,
            'changes' => $changes,
            'user_id' => $request->user()?->id,
        ]);
        Audit::note($migration->id, "read back the specification $name", ['changes' => count($changes)]);

        return redirect("/m/$migration->id/changes/$list->id");
    }

    private function specification(Request $request, Migration $migration): Specification
    {
        $this->authorize('view', $migration);

        return new Specification(
            $migration,
            $request->filled('load')
                ? Load::query()->where('migration_id', $migration->id)->findOrFail($request->integer('load'))
                : null,
        );
    }

    private function name(Specification $of): string
    {
        return Str::slug($of->migration->name.' '.($of->only->name ?? 'mapping')).'-v'.$of->version()['number'];
    }
}
