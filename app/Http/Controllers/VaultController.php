<?php

namespace App\Http\Controllers;

use App\Freezing\VaultFiles;
use App\Models\Migration;
use App\Models\Take;
use App\View\Page;
use App\View\Tables\SourceTables;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\StreamedResponse;

/** What lies on the disk for a migration, with its size. */
final class VaultController extends Controller
{
    public function __construct(private readonly VaultFiles $files)
    {
    }

    public function index(Request $request, Migration $migration): View|StreamedResponse
    {
        $this->authorize('work', $migration);

        return $this->screen('sources.files', [
            'page' => Page::of($migration, 'sources'),
            'waiting' => SourceTables::waiting($request, $this->files->waiting($migration)),
            'taken' => SourceTables::taken($request, $this->files->taken($migration)),
        ]);
    }

    public function forget(Migration $migration, string $upload): RedirectResponse
    {
        $this->authorize('work', $migration);

        return $this->doing(fn () => $this->files->forget($migration, $upload), 'The upload is gone.');
    }

    public function remove(Migration $migration, Take $take): RedirectResponse
    {
        $this->authorize('delete', $migration);

        return $this->doing(fn () => $this->files->remove($migration, $take), 'The file is gone; the rows that were read from it stay.');
    }
}
