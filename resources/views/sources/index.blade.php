<x-layouts.app :page="$page" title="Sources">
  @php($base = "/m/{$page->migration->id}/sources")
  <div class="head">
    <div>
      <h1>{{ $page->entity ? $say->label($page->entity->name) . ': where it comes from' : 'Sources' }}</h1>
      <p id="sources-kept">{{ $say->count($sources->count(), 'legacy system') }},
        {{ $say->count($extracts->total(), 'extract') }},
        {{ number_format($rows) }} rows frozen. Nothing here is ever changed;
        corrections lie over it.</p>
    </div>
    <div class="actions">
      @can('work', $page->migration)
        <a class="btn" href="{{ $base }}/feeds">Combine extracts</a>
        <a class="btn" href="{{ $base }}/files">Files</a>
      @endcan
      <a class="btn" href="{{ $base }}/references">
        What hangs on what</a><a class="btn" href="/m/{{ $page->migration->id }}/plan">Plan file</a>
    </div>
  </div>
  @can('work', $page->migration)
    @if ($sources->isEmpty())
      <div class="panel">
        <p class="mb-2">A legacy system comes first: files are extracts of one.</p>
        <x-sources.new-system :$base />
      </div>
    @else
      <form class="panel row" method="post" action="{{ $base }}/upload" enctype="multipart/form-data">@csrf
        <x-file id="file" name="file[]" multiple label="Drop files here, or choose them"
          takes="delimited or fixed-width text, .xlsx, .xls, .ods, JSON, JSON lines, XML, dBase, SQLite; also zipped" />
        <label for="source">of</label><select id="source" name="source">
          @foreach ($sources as $source)
            <option value="{{ $source->id }}">{{ $source->code }} {{ $source->name }}</option>
          @endforeach
        </select>
        <button class="btn main">Upload and preview</button>
      </form>
    @endif
  @endcan
  <dl class="systems">
    @foreach ($sources as $source)
      <dt><code>{{ $source->code }}</code> {{ $source->name }}</dt>
      <dd>{{ $source->notes }}
        @foreach ($connections[$source->id] ?? [] as $connection)
          @can('work', $page->migration)
            <a class="linkish" href="{{ $base }}/connections/{{ $connection->id }}"
              title="{{ $connection->notes }}">{{ $connection->name }} ({{ $connection->driver->label() }})</a>
          @else
            <span>{{ $connection->name }} ({{ $connection->driver->label() }})</span>
          @endcan
        @endforeach
        <x-mend :m="$page->migration" kind="source" :id="$source->id" :label="'Change or remove ' . $source->code" />
      </dd>
    @endforeach
  </dl>
  @php($isReading = collect($latest)->contains(fn($take) => $take->state->isGoing()))
  <div id="reading"
    @if ($isReading) hx-get="{{ request()->fullUrl() }}" hx-trigger="load delay:1s" hx-target="#table-extracts"
      hx-select="#table-extracts" hx-swap="outerHTML" hx-select-oob="#reading,#route,#sources-kept" @endif>
  </div>
  <x-table :table="$extracts" label="Extracts" empty="No extract yet.">
    @foreach ($extracts->rows() as $extract)
      @php($newest = $latest[$extract->id] ?? null)
      @php($take = $extract->take)
      @php($found = $open[$extract->id] ?? 0)
      <tr class="hit">
        <td><code class="short">{{ $extract->source->code }}</code></td>
        <td><a href="{{ $base }}/extracts/{{ $extract->id }}">{{ $extract->name }}</a>
          @if ($take)
            <small>{{ $take->file_name }}</small>
          @endif
        </td>
        @if ($take)
          <td class="n">{{ number_format($take->rows) }}</td>
          <td @class(['n', 'bad' => $take->source_rows !== $take->rows]) title="{{ $take->counted_by ?? 'no count of its own' }}">
            {{ $take->counted_by === null ? 'none' : number_format($take->source_rows) }}</td>
          <td class="n">{{ count($extract->columns) }}</td>
          <td>{{ $extract->settings()->describe() }}</td>
          <td class="n">{{ $take->number }}</td>
          <td class="whitespace-nowrap">{{ $say::when($take->taken_at, 'short') }}</td>
          <td class="n">{{ $take->bytes > 0 ? number_format($take->bytes) : '' }}</td>
          <td><code class="short" title="{{ $take->checksum }}">{{ substr($take->checksum, 0, 8) }}</code></td>
          <td @class(['n', 'zero' => $found === 0])>
            @if ($found)
              <a href="{{ $base }}/extracts/{{ $extract->id }}?show=findings">{{ $found }}</a>
            @else
              0
            @endif
          </td>
        @else
          <td colspan="9">
            @if ($newest?->state->value === 'failed')
              <span class="bad">{{ $newest->error }}</span>
            @elseif ($newest?->state->isGoing())
              {{ $tell->take($newest) }}
            @elseif ($newest)
              {{ $newest->state->value }}
            @else
              nothing frozen yet @if ($extract->origin)
                (expects <code>{{ $extract->origin }}</code>)
              @endif
            @endif
          </td>
        @endif
      </tr>
      @if ($take && $newest && $newest->id !== $take->id && $newest->state->value === 'failed')
        <tr class="open">
          <td></td>
          <td colspan="10" class="bad">Take {{ $newest->number }} ({{ $newest->file_name }}) was not read:
            {{ $newest->error }} The extract keeps take {{ $take->number }}.</td>
        </tr>
      @endif
    @endforeach
  </x-table>
  @can('work', $page->migration)
    <details class="mt-5">
      <summary class="linkish">Reach a database or a service</summary>
      @foreach ($sources as $source)
        @php($action = "$base/$source->id/connections")
        <x-sources.connection-form :$action :id="'c' . $source->id" :label="'Connection of ' . $source->code" />
      @endforeach
    </details>
    <details class="mt-2" @if ($sources->isEmpty()) open @endif>
      <summary class="linkish">Add a legacy system</summary>
      <x-sources.new-system :$base />
    </details>
  @endcan
</x-layouts.app>
