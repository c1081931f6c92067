<?php

namespace App\Http\Controllers;

use App\Http\Requests\TargetDescription;
use App\Ledger\Counters;
use App\Looking\LookGoing;
use App\Models\Audit;
use App\Models\Change;
use App\Models\ChangeKind;
use App\Models\ChangeList;
use App\Models\Extract;
use App\Models\ListKind;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Rule;
use App\Models\Target;
use App\Plans\PlanImporter;
use App\Targets\Ports;
use App\Targets\Question;
use App\Targets\TableMaker;
use App\Targets\TargetCount;
use App\View\Page;
use App\View\Say;
use App\View\Tables\TargetTables;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Reading\ReadingError;
use Baggage\Core\Targets\Describing\SchemaChange;
use Baggage\Core\Targets\Describing\SchemaChanges;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Schema;
use Illuminate\Contracts\View\View;
use Illuminate\Database\Eloquent\Collection;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\StreamedResponse;

final class TargetController extends Controller
{
    public function index(Request $request, Migration $migration, ?string $entity = null): View|StreamedResponse
    {
        $this->authorize('view', $migration);
        $page = Page::of($migration, 'target', $entity);
        $target = $page->round->lane->target ?? $migration->targets()->orderBy('id')->first();
        $counted = $target === null ? null : TargetCount::of($target);
        if ($target !== null && $counted === null) {
            TargetCount::ask($target);
            $counted = TargetCount::of($target);
        }
        $schema = $migration->schema();
        if ($page->entity !== null && $request->has('records')) {
            return $this->records($schema->entities[$page->entity->name] ?? abort(404), $page, $target);
        }

        return $this->screen('target.index', [
            'page' => $page,
            'target' => $target,
            'schema' => $schema,
            'counted' => $counted,
        ] + ($page->entity === null
            ? $this->all($request, $page, $schema, $counted)
            : $this->one($request, $page, $schema->entities[$page->entity->name] ?? abort(404))));
    }

    /** @return array<string, mixed> what the page of all entities shows */
    private function all(Request $request, Page $page, Schema $schema, ?TargetCount $counted): array
    {
        $before = $page->round === null ? [] : Counters::before($page->round->laneId());

        return [
            'before' => $before,
            'entities' => TargetTables::entities($request, $page, $schema, $counted->records ?? [], $before),
        ];
    }

    /** @return array<string, mixed> what the page of one entity shows */
    private function one(Request $request, Page $page, Entity $described): array
    {
        return [
            'described' => $described,
            'fields' => TargetTables::fields($request, $described),
            'loads' => self::filling($page),
        ];
    }

    /** The first records of an entity: the page does not wait for them. */
    private function records(Entity $described, Page $page, ?Target $target): View
    {
        [$records, $error, $going] = [[], null, null];
        try {
            $records = $target === null ? [] : Ports::ask($target, Question::Records, ['entity' => $described->toArray()]);
        } catch (TargetUnavailable $e) {
            $error = $e->getMessage();
        } catch (LookGoing $e) {
            $going = $e->getMessage();
        }

        return view('target.records', compact('records', 'error', 'going') + ['matching' => self::filling($page)]);
    }

    /** @return Collection<int, Load> */
    private static function filling(Page $page): Collection
    {
        return $page->migration->loads()->where('entity_id', $page->entity?->id)->with('entity.matchRules')->get();
    }

    /** Has the records of the target counted. */
    public function count(Migration $migration): RedirectResponse
    {
        $this->authorize('view', $migration);
        $target = Page::of($migration, 'target')->round->lane->target ?? $migration->targets()->orderBy('id')->first();
        $target === null ?: TargetCount::ask($target);

        return back();
    }

    /** A description from a file, a PostgreSQL database or an extract: what it changes is shown before it counts. */
    public function describe(TargetDescription $request, Migration $migration): RedirectResponse
    {
        $now = $migration->schema();
        try {
            [$new, $of] = match ($request->validated('from')) {
                'file' => $request->ofFile(),
                'pgsql' => $request->ofDatabase(),
                default => $request->ofExtract($migration),
            };
        } catch (ReadingError $e) {
            return back()->withInput()->with('refused', $e->getMessage());
        }
        if (! $request->boolean('whole')) {
            // What it does not speak of stays.
            $new = new Schema(array_values($new->entities + $now->entities));
        }

        return $this->compare($request, $migration, $new, $of);
    }

    private function compare(Request $request, Migration $migration, Schema $new, string $of): RedirectResponse
    {
        $now = $migration->schema();
        if (SchemaChanges::between($now, $new) === []) {
            return redirect("/m/$migration->id/target")->with('told', ucfirst($of).' says what is known already.');
        }
        $changes = array_map(
            fn (SchemaChange $c) => new Change(
                ChangeKind::Target,
                $c->entity.($c->field === null ? '' : ", $c->field"),
                $c->what,
                $c->from,
                $c->to,
                ['entity' => $c->entity, 'field' => $c->field, 'rules' => $this->touched($migration, $c)],
            ),
            SchemaChanges::between($now, $new),
        );
        $list = ChangeList::query()->create([
            'migration_id' => $migration->id,
            'kind' => ListKind::Target,
            'file_name' => $of,
            'changes' => $changes,
            'description' => $new->toArray(),
            'user_id' => $request->user()?->id,
        ]);

        return redirect("/m/$migration->id/changes/$list->id");
    }

    /** @return list<string> rules of what changes */
    private function touched(Migration $migration, SchemaChange $change): array
    {
        return $change->what === SchemaChange::ADDED
            ? []
            : Rule::query()
                ->whereHas(
                    'ofLoad',
                    fn ($q) => $q
                        ->where('migration_id', $migration->id)
                        ->whereHas('entity', fn ($e) => $e->where('name', $change->entity)),
                )
                ->when($change->field !== null, fn ($q) => $q->where('field', $change->field))
                ->with('ofLoad')
                ->get()
                ->map(fn (Rule $r) => "{$r->ofLoad?->name}, $r->field")
                ->all();
    }

    /** The statements that would make tables for described entities. */
    public function tables(Request $request, Migration $migration): View
    {
        $this->authorize('view', $migration);
        $page = Page::of($migration, 'target');
        $targets = $migration->targets()->orderBy('id')->get();
        $target = $targets->firstWhere('id', $request->integer('target')) ?? $targets->first();
        $prefix = preg_match('/^[a-z][a-z0-9_]{0,20}$/', (string) $request->query('prefix')) === 1
            ? (string) $request->query('prefix')
            : '';
        [$missing, $error, $going] = [[], null, null];
        try {
            $missing = $target === null ? [] : TableMaker::missing($migration, $target);
        } catch (TargetUnavailable $e) {
            $error = $e->getMessage();
        } catch (LookGoing $e) {
            $going = $e->getMessage();
        }
        $chosen = $request->has('entities')
            ? array_values(array_intersect($missing, (array) $request->query('entities')))
            : $missing;

        return view('target.tables', [
            'page' => $page,
            'targets' => $targets,
            'target' => $target,
            'missing' => $missing,
            'chosen' => $chosen,
            'prefix' => $prefix,
            'error' => $error,
            'going' => $going,
            'statements' => TableMaker::statements($migration, $chosen, $prefix),
        ]);
    }

    public function create(Request $request, Migration $migration): RedirectResponse
    {
        $this->authorize('work', $migration);
        $data = $request->validate([
            'target' => 'required|integer',
            'entities' => 'required|array',
            'entities.*' => 'string',
            'prefix' => ['nullable', 'regex:/^[a-z][a-z0-9_]{0,20}$/'],
        ]);
        $target = $migration->targets()->findOrFail($data['target']);
        try {
            $made = TableMaker::make(
                $migration,
                $target,
                array_values(array_intersect(TableMaker::missing($migration, $target), $data['entities'])),
                (string) ($data['prefix'] ?? ''),
            );
        } catch (TargetUnavailable|\DomainException $e) {
            return back()->with('refused', $e->getMessage());
        }
        Audit::note($migration->id, "made tables in $target->name", [
            'entities' => $data['entities'],
            'prefix' => $data['prefix'] ?? null,
        ]);

        return redirect("/m/$migration->id/target")->with(
            'told',
            Say::count($made, 'table').' made in '.$target->shown('database').'.',
        );
    }

    /** The target's own schema: at first it counts at once, later what has changed in it is shown before. */
    public function read(
        Request $request,
        Migration $migration,
        PlanImporter $importer,
    ): RedirectResponse {
        $this->authorize('work', $migration);
        try {
            if ($migration->entities()->exists()) {
                $target = $migration->targets()->orderBy('id')->firstOrFail();

                return $this->compare(
                    $request,
                    $migration,
                    Ports::schemaOf($target),
                    "the schema of {$target->shown('database')}",
                );
            }
            $schema = $importer->readSchema($migration);
        } catch (TargetUnavailable $e) {
            return back()->with('refused', $e->getMessage());
        }

        return back()->with(
            'told',
            'Read '.Say::count(count($schema->entities), 'entity', 'entities').' from the target\'s own schema.'
                .implode('', array_map(fn ($t, $why) => " $t is left out: $why.", array_keys($schema->others), $schema->others)),
        );
    }
}
