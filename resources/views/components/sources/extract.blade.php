@props(['page', 'extract', 'take', 'latest', 'show', 'open' => 0, 'all' => 0])
@php($format = $extract->settings()->format)
@php($here = "/m/{$page->migration->id}/sources/extracts/{$extract->id}")
<x-layouts.app :page="$page" :title="$extract->name">
  <div class="head">
    <div>
      <h1><code>{{ $extract->source->code }}</code> {{ $extract->name }}</h1>
      @if ($take)
        <p>Take {{ $take->number }} of {{ $take->file_name }}, {{ $say::when($take->taken_at, 'full') }}:
          {{ number_format($take->rows) }} rows, {{ count($extract->columns) }}
          columns{{ $take->bytes > 0 ? ', ' . number_format($take->bytes) . ' bytes' : '' }}.
          {{ $take->ownCount() }} {{ $take->statedCount() }}<br>{{ ucfirst($extract->settings()->describe()) }}.
          SHA-256 <code>{{ $take->checksum }}</code></p>
      @endif
    </div>
    <div class="actions">
      @if ($extract->settings()->isReadAgain())
        @can('work', $page->migration)
          <form method="post" action="{{ $here }}/again">@csrf<button
              class="btn">{{ $format::kind() === 'feed' ? 'Make it again' : 'Read it again' }}</button>
          </form>
        @endcan
      @endif
      <x-mend :m="$page->migration" kind="extract" :id="$extract->id" />
      @if ($latest)
        <x-mend :m="$page->migration" kind="take" :id="$latest->id" :label="'Take ' . $latest->number . ' by mistake'" />
      @endif
      <a class="btn" href="{{ $page->url('sources') }}">
        All sources</a>
    </div>
  </div>
  @if ($latest && $latest->id !== $take?->id)
    @include('sources.progress', ['take' => $latest, 'migration' => $page->migration])
  @endif
  @if ($format::kind() === 'feed')
    @php($sum = $latest?->arithmetic ?? $take?->arithmetic)
    @if ($sum)
      <div @class([
          'note',
          'bad' => ($sum['multiplied'] ?? 0) > 0 && !$format->multiplies,
      ])>
        @foreach ($say->arithmetic($format->combination, $sum) as $said)
          <p>{{ $said }}</p>
        @endforeach
        @if ($sum['multipliedRows'] ?? [])
          <p>Several partners: rows
            {{ $tell->rowNumbers($sum['multipliedRows'], $sum['multiplied']) }}
            of {{ $sum['extracts'][0]['name'] }}.</p>
        @endif
        @if ($sum['aloneRows'] ?? [])
          <p>No partner: rows
            {{ $tell->rowNumbers($sum['aloneRows'], $sum['alone']) }}.
          </p>
        @endif
        @if (($sum['multiplied'] ?? 0) > 0 && !$format->multiplies)
          @can('work', $page->migration)
            <form method="post" action="{{ $here }}/multiply" class="mt-1">@csrf<button
                class="btn small">Accept it: make {{ number_format($sum['rows']) }} rows</button></form>
          @endcan
        @endif
      </div>
    @endif
  @endif
  @if ($take)
    <nav class="parts" aria-label="About this extract">
      @foreach ($tell->extractTabs($extract, $take, $all, $open) as $which => $label)
        <a href="{{ $here }}{{ $which === 'columns' ? '' : "?show=$which" }}"
          @if ($show === $which) aria-current="page" @endif>{{ $label }}</a>
      @endforeach
    </nav>
    {{ $slot }}
  @endif
</x-layouts.app>
