<?php

namespace App\Http\Controllers;

use App\Loading\Rounds;
use App\Models\Migration;
use App\Plans\PlanImporter;
use App\Targets\SqlTarget;
use App\Targets\TargetLink;
use App\View\Page;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Plan\PlanError;
use Illuminate\Http\RedirectResponse;
use Illuminate\View\View;

final class TargetController extends Controller
{
    public function index(Migration $migration, ?string $entity = null): View
    {
        $this->authorize('view', $migration);
        $page = new Page($migration, 'target', $entity);
        $error = null;
        $counts = $records = [];
        $target = $page->round->target ?? $migration->targets()->orderBy('id')->first();
        if ($target !== null) {
            $link = new TargetLink($target);
            try {
                foreach ($migration->schema()->entities as $described) {
                    if ($page->entity === null || $page->entity->name === $described->name) {
                        $counts[$described->name] = Rounds::countIn($link, $described->name);
                    }
                }
                if ($page->entity !== null) {
                    $key = SqlTarget::name($page->entity->described()->key);
                    $found = $link->pdo()->query('SELECT * FROM '.SqlTarget::name($page->entity->name)." ORDER BY $key LIMIT 5");
                    $records = $found === false ? [] : $found->fetchAll(\PDO::FETCH_ASSOC);
                }
            } catch (TargetUnavailable|\PDOException $e) {
                $error = $e->getMessage();
            }
        }

        return view('target.index', ['page' => $page, 'target' => $target, 'schema' => $migration->schema(), 'counts' => $counts, 'records' => $records, 'error' => $error]);
    }

    public function read(Migration $migration, PlanImporter $importer): RedirectResponse
    {
        $this->authorize('work', $migration);
        try {
            $schema = $importer->readSchema($migration, 'The target');
        } catch (PlanError $e) {
            return back()->with('refused', $e->getMessage());
        }

        return back()->with('told', 'Read '.Page::count(count($schema->entities), 'entity', 'entities').' from the target\'s own schema.');
    }
}
