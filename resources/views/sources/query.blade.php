<x-layouts.app :page="$page" title="Preview">
  @php($here = "/m/{$migration->id}/sources/connections/{$connection->id}")
  <div class="head">
    <div>
      <h1>{{ $name ?: ($connection->driver === 'http' ? $connection->name : 'A SELECT') }}</h1>
      <p>Through {{ $connection->name }} of <code>{{ $connection->source->code }}</code>. Nothing is stored yet; the
        rows below follow the settings.</p>
    </div>
    <div class="actions">
      @if ($connection->driver === 'http')
        <x-mend :m="$page->migration" kind="connection" :id="$connection->id" />
        <a class="btn" href="{{ $page->url('sources') }}">All sources</a>
      @else
        <a class="btn" href="{{ $here }}">All tables</a>
      @endif
    </div>
  </div>
  <form id="reader" method="post" action="{{ $here }}/freeze">
    @csrf
    <input type="hidden" name="reader[kind]" value="{{ $settings->format::kind() }}">
    <div class="panel grid-form from-top" hx-get="{{ $here }}/table" hx-include="#reader" hx-target="#preview"
      hx-trigger="change">
      @include('sources.reader', [
          'format' => $settings->format,
          'layout' => $settings->layout,
          'reasons' => [],
      ])
      <div class="stack"><label for="rows">Rows to preview</label><select id="rows" name="rows">
          @foreach ($say::PREVIEWED as $n)
            <option @selected($rows === $n)>{{ $n }}</option>
          @endforeach
        </select><small class="quiet">of the beginning</small></div>
    </div>
    <div id="preview">@include('sources.preview')</div>
    <div class="panel row mt-3"><label for="name">Name of the extract</label><input id="name" name="name"
        value="{{ old('name', str_replace('/', '-', $name)) }}" required maxlength="100"><button class="btn main">Freeze
        it</button></div>
  </form>
  <details class="mt-5" @if ($error ?? null) open @endif>
    <summary class="linkish">Change how it is reached</summary>
    @php($action = $page->url('sources') . "/$connection->source_id/connections")
    <x-sources.connection-form :$action id="change" :$connection label="Connection" />
  </details>
</x-layouts.app>
