<?php

namespace App\Http\Controllers;

use App\Freezing\FreezeTake;
use App\Freezing\Look;
use App\Http\Requests\SourceConnection;
use App\Looking\LookGoing;
use App\Models\Audit;
use App\Models\Connection;
use App\Models\Extract;
use App\Models\Migration;
use App\Models\Source;
use App\Reading\ReaderForm;
use App\Support\Meanwhile;
use App\View\Page;
use App\View\Say;
use App\View\Tables\ExtractTables;
use Baggage\Core\Reading\Database\Driver;
use Baggage\Core\Reading\Encoding;
use Baggage\Core\Reading\Http\HttpFormat;
use Baggage\Core\Reading\Query\QueryFormat;
use Baggage\Core\Reading\ReaderSettings;
use Baggage\Core\Reading\ReadingError;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\StreamedResponse;

/** Named connections to legacy databases, and the tables taken through them. */
final class ConnectionsController extends Controller
{
    public function __construct(private readonly Look $look)
    {
    }

    public function store(SourceConnection $request, Migration $migration, Source $source): RedirectResponse
    {
        $this->confirmed($request);
        $connection = $request->connection();
        $is = $request->settings();
        $connection->exists || $connection->fill($is)->save();
        $changed = Meanwhile::change($connection, $request->input('was'), $is, Connection::SHOWN);
        $made = ['after' => Meanwhile::texts($connection, ['driver', 'host', 'database'])];
        Audit::note(
            $migration->id,
            "described the connection $connection->name of $source->code",
            $connection->wasRecentlyCreated ? $made : $changed,
        );

        return redirect("/m/$migration->id/sources/connections/$connection->id");
    }

    public function show(Request $request, Migration $migration, Connection $connection): View|StreamedResponse
    {
        $this->authorize('work', $migration);
        if ($connection->driver === Driver::Http) {
            return $this->preview($request, $migration, $connection);
        }
        [$tables, $error, $going] = [[], null, null];
        try {
            $tables = $this->look->tables($connection);
        } catch (ReadingError $e) {
            $error = $e->getMessage();
        } catch (LookGoing $e) {
            $going = $e->getMessage();
        }

        return $this->screen('sources.connection', [
            'page' => Page::of($migration, 'sources'),
            'connection' => $connection,
            'tables' => $tables,
            'listed' => ExtractTables::tables($request, $tables),
            'error' => $error,
            'going' => $going,
        ]);
    }

    /** One table or SELECT: settings, and its first rows. */
    public function preview(Request $request, Migration $migration, Connection $connection): View
    {
        $this->authorize('work', $migration);
        $rows = in_array($request->integer('rows'), Say::PREVIEWED, true) ? $request->integer('rows') : Say::PREVIEWED[0];
        [$error, $preview] = [null, ['columns' => null, 'rows' => [], 'error' => null, 'going' => null]];
        $settings = new ReaderSettings(
            $connection->driver === Driver::Http
                ? new HttpFormat($connection->name)
                : new QueryFormat($connection->name, '', [], [], 'SELECT 1'),
        );
        try {
            $settings = $request->has('reader')
                ? ReaderForm::settings((array) $request->input('reader'))
                : ($request->has('table')
                    ? new ReaderSettings(new QueryFormat($connection->name, (string) $request->query('table')))
                    : $settings);
            $preview = $this->look->through($connection, $settings, $rows) + $preview;
            $error = $preview['error'];
        } catch (\InvalidArgumentException|ReadingError $e) {
            $error = $e->getMessage();
        } catch (LookGoing $e) {
            $preview['going'] = $e->getMessage();
        }
        $data = [
            'migration' => $migration,
            'connection' => $connection,
            'settings' => $settings,
            'preview' => $preview,
            'rows' => $rows,
            'error' => $error,
            'encodings' => Encoding::names(),
            'name' => (string) $request->input('name', $request->query('table', '')),
        ];

        return $request->hasHeader('HX-Request')
            ? view('sources.preview', $data)
            : view('sources.query', $data + ['page' => Page::of($migration, 'sources')]);
    }

    public function freeze(Request $request, Migration $migration, Connection $connection): RedirectResponse
    {
        $this->authorize('work', $migration);
        $source = $connection->source()->firstOrFail();
        try {
            $chosen = $this->chosen($request, $connection);
        } catch (\InvalidArgumentException|ReadingError|LookGoing $e) {
            return back()->with('refused', $e->getMessage());
        }
        foreach ($chosen as $name => $settings) {
            /** @var Extract $extract */
            $extract = $source->extracts()->firstOrNew(['name' => $name]);
            if ($extract->isBeingRead()) {
                continue;
            }
            $extract->fill(['reader' => $settings->toArray()])->save();
            $take = $extract->newTake([
                'file' => '',
                'file_name' => $settings->describe(),
                'bytes' => 0,
                'user_id' => $request->user()?->id,
            ]);
            Audit::note($migration->id, "read $source->code/$name through $connection->name");
            FreezeTake::dispatch($take->id);
        }

        return redirect("/m/$migration->id/sources")->with(
            'told',
            Say::count(count($chosen), 'table').' of '.$connection->name.(count($chosen) === 1 ? ' is' : ' are').' being read.',
        );
    }

    /**
     * @return array<string, ReaderSettings> name of the extract → how it is read
     *
     * @throws \InvalidArgumentException|ReadingError|LookGoing
     */
    private function chosen(Request $request, Connection $connection): array
    {
        if (! $request->has('tables') && ! $request->boolean('every')) {
            $name = $request->validate(['name' => ['required', 'string', 'max:100', 'not_regex:~/~']])['name'];

            return [trim($name) => ReaderForm::settings((array) $request->input('reader'))];
        }
        $tables = $request->boolean('every')
            ? array_column($this->look->tables($connection), 'name')
            : (array) $request->input('tables');
        $chosen = [];
        foreach ($tables as $table) {
            $name = mb_substr(str_replace('/', '-', (string) $table), 0, 100);
            $chosen[$name] = new ReaderSettings(new QueryFormat($connection->name, (string) $table));
        }

        return $chosen;
    }
}
