<x-layouts.app :page="$page" title="Rules of {{ $load->name }} as text">
  @php($here = "/m/{$page->migration->id}/mapping/loads/{$load->id}/text")
  <div class="head">
    <div>
      <h1>{{ $load->name }}: all rules as text</h1>
      <p>A line for each field: <code>field = rule</code>, or <code>field left empty: reason</code>. A rule goes on in
        lines that begin with a blank. All of it is kept, or nothing.</p>
    </div>
    <div class="actions"><a class="btn"
        href="{{ $page->url('mapping', $load->entity->name) }}?load={{ $load->id }}">Back to the sheet</a></div>
  </div>
  <form class="panel row" action="{{ $here }}"><label for="names">Write every header in</label><select
      id="names" name="names" data-send>
      <option value="">choose how</option>
      @foreach ($say->headerNames() as $n)
        <option value="{{ $n->value }}" @selected($names === $n)>{{ $n->label() }}</option>
      @endforeach
    </select>
    <span class="quiet">and map it to the field of that name.</span><button class="btn small">Propose</button>
    @if ($names)
      <span
        role="status">{{ $proposed ? 'Proposed in the text: ' . implode(', ', $proposed) : 'No field without a rule has such a name' }}.
        {{ count(array_filter($meets, fn($x) => $x['field'] === null)) }} of {{ count($meets) }} headers meet no
        field.</span>
    @endif
  </form>
  @can('work', $page->migration)
    <form method="post" action="{{ $here }}">@csrf<input type="hidden" name="since"
      value="{{ $since }}">@else<form>
      @endcan
      <div class="two">
        <div><label for="text" class="sr-only">Rules</label>
          <textarea id="text" name="text" class="rules-text" rows="{{ min(30, max(12, substr_count($text, "\n") + 3)) }}"
            spellcheck="false" autocapitalize="off" @cannot('work', $page->migration) readonly @endcannot
            hx-post="{{ $here }}/look" hx-trigger="input changed delay:250ms" hx-target="#draft" hx-swap="outerHTML"
            hx-sync="this:replace">{{ $text }}</textarea>
        </div>
        @include('mapping.text-draft')
      </div>
      @can('work', $page->migration)
        <p class="mt-3"><button class="btn main">Keep all of it</button></p>
      @endcan
    </form>
    @if ($names)
      <h2>Headers</h2>
      <x-table :table="$headers" label="Headers">
        @foreach ($headers->rows() as $x)
          <tr>
            <td><x-raw :value="$x['header']" /></td>
            <td><code>{{ $x['name'] }}</code></td>
            <td>{{ $x['field'] }}</td>
          </tr>
        @endforeach
      </x-table>
    @endif
</x-layouts.app>
