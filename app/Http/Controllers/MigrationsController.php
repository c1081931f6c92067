<?php

namespace App\Http\Controllers;

use App\Http\Requests\NewMigration;
use App\Looking\Aside;
use App\Models\Audit;
use App\Models\ChangeList;
use App\Models\Membership;
use App\Models\Migration;
use App\Models\Role;
use App\Plans\ApplyPlan;
use App\Plans\PlanChanges;
use App\Plans\PlanExporter;
use App\Reconciling\AtAGlance;
use App\View\Tables\SourceTables;
use Baggage\Core\Plan\PlanError;
use Baggage\Core\Plan\PlanWriter;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Http\Response;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\Gate;
use Illuminate\Support\Str;
use Symfony\Component\HttpFoundation\StreamedResponse;

final class MigrationsController extends Controller
{
    /** Fields of the form that begins a migration. */
    private const FIELDS = [
        'name' => 'Name of the migration',
        'target_name' => 'New application',
        'host' => 'Target host',
        'port' => 'Port',
        'database' => 'Database',
        'username' => 'User name',
        'password' => 'Password',
    ];

    public function index(Request $request): View|StreamedResponse
    {
        $this->authorize('viewAny', Migration::class);
        $migrations = Migration::query()
            ->select(['id', 'name', 'target_name'])
            ->whereIn('id', array_keys($request->user()->roles()))
            ->withCount(['sources', 'loads'])
            ->orderBy('name')
            ->get();

        return $this->screen('migrations.index', [
            'mayBegin' => Gate::allows('create', Migration::class),
            'fields' => self::FIELDS,
            'planTold' => ApplyPlan::told((int) Auth::id()),
            'migrations' => SourceTables::migrations($request, $migrations),
            'rounds' => AtAGlance::of($migrations),
        ]);
    }

    public function store(NewMigration $request): RedirectResponse
    {
        $data = $request->validated();
        $migration = Migration::query()->create([
            'name' => $data['name'],
            'target_name' => $data['target_name'],
            'installation' => Str::random(16),
            'begun_by' => (int) Auth::id(),
        ]);
        $migration->targets()->create(['name' => 'rehearsal'] + $request->settings() + ['password' => '']);
        Membership::give($request->user(), $migration, Role::Lead);
        Audit::note($migration->id, 'made the migration');

        return redirect("/m/$migration->id/target")->with(
            'told',
            'The migration is there. Read the target\'s entities next.',
        );
    }

    public function import(Request $request, PlanChanges $plans): RedirectResponse
    {
        $this->authorize('create', Migration::class);
        $request->validate(Aside::rules('plan', 8192));
        $file = Aside::of($request, 'plan');
        [$yaml, $name] = [(string) file_get_contents($file->path), $file->name];
        if (ApplyPlan::isLong($yaml)) {
            ApplyPlan::dispatch($yaml, $name, (int) Auth::id());

            return back()->with('told', "$name is long: a worker reads it. What came of it stands here when you load the page again.");
        }
        try {
            $made = $plans->read($yaml, $name, (int) Auth::id(), $file->path);
        } catch (PlanError|\DomainException $e) {
            return back()->with('refused', $e->getMessage());
        }

        return $made instanceof ChangeList
            ? redirect("/m/$made->migration_id/changes/$made->id")
            : redirect("/m/$made->id/sources")->with('told', 'The plan was read. Freeze its files next.');
    }

    public function export(Migration $migration, PlanExporter $exporter, PlanWriter $writer): Response
    {
        $this->authorize('view', $migration);

        return response($writer->write($exporter->export($migration)), 200, [
            'Content-Type' => 'application/yaml; charset=utf-8',
            'Content-Disposition' => 'attachment; filename="'.Str::slug($migration->name).'.yaml"',
        ]);
    }
}
