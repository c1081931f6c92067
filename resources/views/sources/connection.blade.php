<x-layouts.app :page="$page" :title="$connection->name">
  @php($here = "/m/{$page->migration->id}/sources/connections/{$connection->id}")
  <div class="head">
    <div>
      <h1><code>{{ $connection->source->code }}</code> {{ $connection->name }}</h1>
      <p>
        {{ $connection->driver->label() }}{{ $connection->place() }},
        {{ $connection->shown('database') }}{{ $connection->username ? ', as ' . $connection->shown('username') : '' }}.
        {{ $connection->notes }}</p>
    </div>
    <div class="actions">
      <x-mend :m="$page->migration" kind="connection" :id="$connection->id" />
      <a class="btn" href="{{ $page->url('sources') }}">All sources</a>
    </div>
  </div>
  @if ($going)
    <x-looking :says="$going" />
  @elseif ($error)
    <div class="note bad" role="alert">{{ $error }}</div>
    <p><a class="btn" href="{{ $here }}">Try it again</a></p>
  @else
    @if ($connection->driver->canBeOpenedForReading())
      <div class="note ok" role="status">The database answers. It is only read: the session is opened for reading.
      </div>
    @else
      <div class="note" role="status">The database answers. It cannot be told that this session only reads: give it a
        user who may not write.</div>
    @endif
    <div class="row mb-2"><a class="btn" href="{{ $here }}/table">Write a SELECT</a></div>
    @if ($tables)
      <form id="freeze" method="post" action="{{ $here }}/freeze">@csrf</form>
      <x-table :table="$listed" label="Tables and views">
        @foreach ($listed->rows() as $i => $t)
          <tr class="hit">
            <td><input form="freeze" type="checkbox" name="tables[]" value="{{ $t['name'] }}"
                id="t{{ $i }}"></td>
            <td><label for="t{{ $i }}" class="plain">{{ $t['name'] }}</label>
            </td>
            <td>{{ $t['view'] ? 'view' : 'table' }}</td>
            <td><a class="linkish" href="{{ $here }}/table?table={{ urlencode($t['name']) }}">Preview,
                columns and filters</a></td>
          </tr>
        @endforeach
      </x-table>
      <p class="mt-3 row"><button form="freeze" class="btn main">Freeze the chosen tables</button> <button
          form="freeze" class="btn" name="every" value="1">Freeze all {{ count($tables) }}</button></p>
    @endif
  @endif
  <details class="mt-5" @if ($error ?? null) open @endif>
    <summary class="linkish">Change how it is reached</summary>
    @php($action = $page->url('sources') . "/$connection->source_id/connections")
    <x-sources.connection-form :$action id="change" :$connection label="Connection" />
  </details>
</x-layouts.app>
