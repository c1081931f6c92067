<?php

namespace App\Http\Controllers;

use App\Catalogue\CodeUse;
use App\Models\CodeCrosswalk;
use App\Models\Migration;
use App\Rejects\Repairs;
use App\Support\Audit;
use App\View\Page;
use Baggage\Core\Crosswalks\LegacyKey;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;
use Illuminate\View\View;

final class CrosswalksController extends Controller
{
    private const PAGE = 40;

    public function index(Request $request, Migration $migration, ?string $entity = null): View
    {
        $this->authorize('view', $migration);
        $page = new Page($migration, 'crosswalks', $entity);
        $use = new CodeUse($page->definitions);
        $codes = $page->orderError === null ? $migration->codeCrosswalks()->with('entries')->orderBy('name')->get()
            ->map(fn (CodeCrosswalk $c) => ['model' => $c, 'values' => $use->values($c), 'uses' => $use->of($c->name), 'allowed' => $use->allowed($c)])
            ->filter(fn ($c) => $page->entity === null || collect($c['uses'])->contains(fn ($u) => $u['load']->entity_id === $page->entity->id)) : collect();

        return view('crosswalks.index', ['page' => $page, 'codes' => $codes, 'keys' => $this->keys($request, $page), 'q' => (string) $request->query('key', '')]);
    }

    public function store(Request $request, Migration $migration): RedirectResponse
    {
        $this->authorize('work', $migration);
        $data = $request->validate(['name' => 'required|string|max:100']);
        if ($migration->codeCrosswalks()->where('name', $data['name'])->exists()) {
            return back()->with('refused', "There is a code crosswalk named \"$data[name]\" already.");
        }
        $migration->codeCrosswalks()->create($data);
        Audit::note($migration->id, "added code crosswalk $data[name]");

        return back()->with('told', "Use it in a rule: code('$data[name]', column). Its old values then appear here with their counts.");
    }

    public function entry(Request $request, Migration $migration, CodeCrosswalk $crosswalk, Repairs $repairs): RedirectResponse
    {
        $this->authorize('repair', $migration);
        abort_unless($crosswalk->migration_id === $migration->id, 404);
        $data = $request->validate(['old' => 'required|string|max:190', 'new' => 'nullable|string|max:190', 'empty' => 'nullable|boolean']);
        $new = trim((string) ($data['new'] ?? ''));
        if ($new === '' && ! $request->boolean('empty')) {
            return back()->with('refused', "Give a new value for \"$data[old]\", or say that it stays empty.");
        }
        $ready = $repairs->mapCode($migration, $crosswalk, $data['old'], $new === '' ? null : $new);

        return back()->with('told', "\"$data[old]\" becomes ".($new === '' ? 'empty' : "\"$new\"").'. '.($ready > 0 ? Page::count($ready, 'rejected row').' can be loaded again.' : ''));
    }

    /** @return array{rows: list<\stdClass>, more: bool, asked: bool} */
    private function keys(Request $request, Page $page): array
    {
        if ($page->round === null) {
            return ['rows' => [], 'more' => false, 'asked' => false];
        }
        $q = trim((string) $request->query('key', ''));
        $stored = LegacyKey::typed($q);
        $entities = $page->entity === null ? $page->migration->entities()->pluck('id')->all() : [$page->entity->id];
        $base = fn () => DB::table('outcomes as o')->join('loads as l', 'l.id', '=', 'o.load_id')->join('entities as e', 'e.id', '=', 'o.entity_id')->join('sources as s', 's.id', '=', 'o.source_id')
            ->where('o.round_id', $page->round->id)->whereIn('o.entity_id', $entities)
            ->select(['o.load_id', 'o.row_no', 'o.legacy_key', 'o.outcome', 'o.target_key', 'e.name as entity', 's.code as source', 'l.name as load_name'])->limit(self::PAGE + 1);
        if ($q === '') {
            $rows = $base()->whereNotNull('o.target_key')->orderBy('o.round_id')->orderBy('o.load_id')->orderBy('o.row_no')->get();
        } else {
            // Both ways: as the beginning of a legacy key, and as a whole new key.
            $sources = $page->migration->sources()->pluck('id')->all();
            $rows = $base()->whereIn('o.source_id', $sources)->where('o.legacy_key', 'like', addcslashes($stored, '%_\\').'%')->get()->concat($base()->where('o.target_key', $q)->get());
        }
        $rows = $rows->unique(fn ($r) => "$r->load_id:$r->row_no")->values();

        return ['rows' => $rows->take(self::PAGE)->all(), 'more' => $rows->count() > self::PAGE, 'asked' => $q !== ''];
    }
}
