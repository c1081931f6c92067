<x-layouts.app :page="$page" title="Target connections">
  @php($base = $page->url('connections'))
  <div class="head">
    <div>
      <h1>Where rounds may write</h1>
      <p>Databases of {{ $page->migration->target_name }}. The schema is read from the first; a round keeps the one it
        was
        begun into.</p>
    </div>
    <div class="actions"><a class="btn" href="{{ $page->url('target') }}">Back to the target</a></div>
  </div>
  @if ($going ?? null)
    <x-looking :says="$going" />
  @elseif ($refused ?? null)
    <div class="note bad" role="alert">{{ $refused }}</div>
  @elseif ($said ?? null)
    <div class="note ok" role="status">{{ $said }}</div>
  @endif
  @if ($targets->count() > 1 && auth()->user()->can('delete', $page->migration))
    <x-confirm-first before="Removing a connection" />
  @endif
  <table class="sheet">
    <thead>
      <tr>
        <th>Connection</th>
        <th>Database</th>
        <th>User</th>
        <th>Password</th>
        <th>Rounds</th>
        <td></td>
      </tr>
    </thead>
    <tbody>
      @foreach ($targets as $t)
        <tr>
          <td><b>{{ $t->name }}</b></td>
          <td><code>{{ $t->shown('database') }} at {{ $t->shown('host') }}:{{ $t->shown('port') }}</code></td>
          <td><code>{{ $t->shown('username') }}</code></td>
          <td><code>{{ $t->secretInWords() }}</code></td>
          <td>{{ $t->rounds->pluck('name')->implode(', ') }}</td>
          <td>
            @can('work', $page->migration)
              <div class="row">
                <form method="post" action="{{ $base }}/{{ $t->id }}/try">@csrf<button
                    class="btn small">Try
                    it</button>
                </form>
                @if ($t->rounds->isEmpty() && $targets->count() > 1 && auth()->user()->can('delete', $page->migration))
                  <form method="post" action="{{ $base }}/{{ $t->id }}">@csrf @method('delete')<button
                      class="btn small">Remove</button></form>
                @endif
              </div>
            @endcan
          </td>
        </tr>
      @endforeach
    </tbody>
  </table>
  @can('work', $page->migration)
    @foreach ($targets as $t)
      <details class="mt-3" @if ($errors->any() && (int) old('of') === $t->id) open @endif>
        <summary class="linkish">Change {{ $t->name }}</summary>
        <x-target.connection-form :action="$base . '/' . $t->id" :target="$t" />
      </details>
    @endforeach
    <details class="mt-3" @if ($errors->any() && (int) old('of') === 0) open @endif>
      <summary class="linkish">Another connection</summary>
      <x-target.connection-form :action="$base" :target="null" />
    </details>
  @endcan
</x-layouts.app>
