<x-layouts.app :page="$page" title="Mapping">
  <div class="head">
    <div>
      <h1>Mapping</h1>
      <p>{{ $say->count($loads->total(), 'load') }}. Choose an entity on the left to work on its rule sheet.
      </p>
    </div>
    <div class="actions"><a class="btn" href="/m/{{ $page->migration->id }}/mapping/document">Specification to sign</a>
    </div>
  </div>
  <x-table :table="$loads" label="Loads"
    empty="No load yet. Choose an entity on the left and say which extract fills it.">
    @foreach ($loads->rows() as $load)
      @php($open = $load->fields - $load->ruled - $load->empty)
      <tr class="hit">
        <td><a href="{{ $page->url('mapping', $load->entity) }}?load={{ $load->id }}">{{ $load->name }}</a></td>
        <td>{{ $say->label($load->entity) }}</td>
        <td><code class="short">{{ $load->source }}</code> {{ $load->extract }}</td>
        <td class="n">{{ number_format($load->rows) }}</td>
        <td class="n">{{ $load->ruled }} of {{ $load->fields }}</td>
        <td @class(['n', 'zero' => $load->empty === 0])>{{ $load->empty }}</td>
        <td @class(['n', 'zero' => $open === 0])>
          @if ($open > 0)
            <a
              href="{{ $page->url('mapping', $load->entity) }}?load={{ $load->id }}&show=open">{{ $open }}</a>
          @else
            0
          @endif
        </td>
        <td @class([
            'n',
            'zero' => $load->undecided === 0,
            'wait' => $load->undecided > 0,
        ])>
          @if ($load->undecided > 0)
            <a
              href="{{ $page->url('mapping', $load->entity) }}?load={{ $load->id }}#shelf">{{ $load->undecided }}</a>
          @else
            0
          @endif
        </td>
        <td>{{ $load->policy }}</td>
      </tr>
    @endforeach
  </x-table>
  @if ($unread)
    <h2 id="unread">
      {{ $say->count(count(array_filter($unread, fn($e) => $e->not_loaded === null)), 'extract') }} no load
      reads, without a decision</h2>
    <x-table :table="$leftOver" label="Extracts no load reads">
      @foreach ($leftOver->rows() as $e)
        <tr>
          <td><code>{{ $e->source->code }}</code> <a
              href="/m/{{ $page->migration->id }}/sources/extracts/{{ $e->id }}">{{ $e->name }}</a>
          </td>
          <td class="n">{{ number_format($e->take->rows) }}</td>
          <td class="n">{{ count($e->columns) }}</td>
          <td>
            @can('work', $page->migration)
              <form class="row" method="post"
                action="/m/{{ $page->migration->id }}/mapping/extracts/{{ $e->id }}/not-loaded">@csrf<x-was
                  :of="$e" :keys="['not_loaded']" />
                @if ($e->not_loaded)
                  <span>Left behind: {{ $e->not_loaded }}</span><button class="linkish">Take it up
                  again</button>@else<label for="unread-{{ $e->id }}">left behind because</label><input
                    id="unread-{{ $e->id }}" name="reason" required size="40"><button
                    class="btn small">Leave it behind</button>
                @endif
              </form>
              @else{{ $e->not_loaded }}
            @endcan
          </td>
        </tr>
      @endforeach
    </x-table>
  @endif
  <h2 id="parameters">Parameters</h2>
  <p class="quiet mb-1">Values that are asked for when a round begins, so that a rule or a scope need not be changed for
    each rehearsal. A rule reads one by <code>parameter('name')</code>; samples and checks use the default.</p>
  <table class="sheet">
    <thead>
      <tr>
        <th>Name</th>
        <th>What is asked</th>
        <th>Default</th>
        <td></td>
      </tr>
    </thead>
    <tbody>
      @forelse ($parameters as $p)
        <tr>
          <td><code>{{ $p->name }}</code></td>
          <td>{{ $p->prompt }}</td>
          <td>
            @if ($p->default_value === null)
            <span class="quiet">none: it has to be given</span>@else<code>{{ $p->default_value }}</code>
            @endif
          </td>
          <td>
            @can('delete', $page->migration)
              <form method="post" action="/m/{{ $page->migration->id }}/mapping/parameters/{{ $p->id }}">@csrf
                @method('delete')<button class="linkish">Remove</button></form>
            @endcan
          </td>
        </tr>
      @empty<tr>
          <td colspan="4">None yet.</td>
        </tr>
      @endforelse
      @can('work', $page->migration)
        <tr>
          <td colspan="4">
            <form class="row" method="post" action="/m/{{ $page->migration->id }}/mapping/parameters">@csrf<input
                type="hidden" name="was" value="{{ $say::parametersShown($parameters) }}"><label
                for="p-name">Name</label><input id="p-name" name="name" required pattern="[a-z][a-z0-9_]*"
                maxlength="60" value="{{ old('name') }}"><label for="p-prompt">What is asked</label><input
                id="p-prompt" name="prompt" required size="40" value="{{ old('prompt') }}"><label
                for="p-default">Default</label><input id="p-default" name="default_value"
                value="{{ old('default_value') }}"><button class="btn small">Keep the parameter</button></form>
          </td>
        </tr>
      @endcan
    </tbody>
  </table>
</x-layouts.app>
