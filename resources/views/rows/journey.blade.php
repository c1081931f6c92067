@php($j = $journey)
@php($load = $j['load'])
@php($now = $j['current'])
@php($drawer = request()->hasHeader('HX-Request'))
<div class="head">
  <div>
    <h1 tabindex="-1"><x-tag :space="$load->keySpace()" :legacy="$now->legacy_key ?? ''" :target="$now->target_key ?? null" />
      {{ $say->label($load->entity->name) }}</h1>
    <p>{{ $load->name }}, row {{ number_format($j['row']) }} of <code>{{ $load->extract->source->code }}</code>
      {{ $load->extract->name }}, line {{ number_format($j['line']) }} of {{ $load->extract->take->file_name }}.</p>
  </div>
  @if ($drawer)
    <div class="actions"><a class="btn small"
        href="/m/{{ $page->migration->id }}/rows/{{ $load->id }}/{{ $j['row'] }}">Whole page</a><button
        type="button" class="btn small" data-close-drawer title="Close ( Esc )">Close</button></div>
  @endif
</div>
<h2>What became of it</h2>
<table class="sheet">
  <thead>
    <tr>
      <th>Round</th>
      <th class="n">Pass</th>
      <th>Outcome</th>
      <th>Because</th>
    </tr>
  </thead>
  <tbody>
    @foreach (array_merge($j['now'], $j['before']) as $o)
      <tr>
        <td>{{ $o->round }}</td>
        <td class="n">{{ $o->pass }}</td>
        <td class="whitespace-nowrap"><x-outcome :outcome="$o->outcome" /></td>
        <td>
          {{ $tell->because($o) }}
          @if ($o->value)
            <x-raw :value="$o->value" />
          @endif
        </td>
      </tr>
    @endforeach
    @if ($j['now'] === [])
      <tr>
        <td colspan="4">No pass has come to it yet.</td>
      </tr>
    @endif
  </tbody>
</table>
@if ($j['parent'])
  <p class="mt-2">Waits for {{ str_replace('_', ' ', $now->parent_entity) }} <x-tag :space="$now->parent_space"
      :legacy="$now->parent_key" :target="$j['parent']->target_key" :href="$page->journey($j['parent'])" />
    <x-outcome :outcome="$j['parent']->outcome" />
  </p>
@endif
@foreach ($j['links'] as $link)
  <p class="mt-1">{{ $link->field }}: {{ $link->state->name === 'Made' ? 'set later, to' : 'waits for' }}
    <code>{{ $say->key($link->parent_key) }}</code>
  </p>
@endforeach
<h2>What each rule makes of it now</h2>
@if ($j['problem'])
  <div class="note bad">{{ $j['problem'] }}</div>
@endif
<table class="sheet">
  <thead>
    <tr>
      <th>Field</th>
      <th>Rule</th>
      <th>Gives</th>
    </tr>
  </thead>
  <tbody>
    @foreach ($j['fields'] as $field => $f)
      <tr>
        <td>{{ $field }}</td>
        <td><code>{{ $f['rule'] }}</code></td>
        <td><x-result :value="$f['value']" /></td>
      </tr>
    @endforeach
  </tbody>
</table>
<h2>The row as read</h2>
<table class="sheet">
  <thead>
    <tr>
      <th>Column</th>
      <th>Value</th>
      <th>Correction</th>
    </tr>
  </thead>
  <tbody>
    @foreach ($j['columns']->all as $i => $column)
      @php($c = $j['corrections']->firstWhere('header', $column->header))
      <tr>
        <td>{{ $column->header }}</td>
        <td><x-raw :value="$j['cells'][$i] ?? null" /></td>
        <td>
          @if ($c)
            <x-raw :value="$c->new_value" /> <span class="quiet">{{ $c->user?->name }},
              {{ $tell->correction($c, $j['cells'][$i] ?? null) }}</span>
          @endif
          @can('repair', $page->migration)
            @if ($now !== null && in_array($now->outcome, ['rejected', 'held', 'waived', 'pending']))
              <div x-data="reveal"><button type="button" class="linkish" x-on:click="toggle"
                  x-bind:aria-expanded="open" aria-label="Correct {{ $column->header }}">Correct</button>
                <form x-show="open" x-cloak class="row mt-1" method="post"
                  action="/m/{{ $page->migration->id }}/rejects/loads/{{ $load->id }}/rows/{{ $j['row'] }}">
                  @csrf<input type="hidden" name="header" value="{{ $column->header }}"><input name="new"
                    value="{{ $c->new_value ?? ($j['cells'][$i] ?? '') }}"
                    aria-label="New value of {{ $column->header }}" data-first><input name="reason" placeholder="reason"
                    aria-label="Reason"><button class="btn small">Correct this cell</button></form>
              </div>
            @endif
          @endcan
        </td>
      </tr>
    @endforeach
    @foreach (array_slice($j['cells'], count($j['columns']->all)) as $cell)
      <tr>
        <td class="bad">beyond the header</td>
        <td><x-raw :value="$cell" /></td>
        <td></td>
      </tr>
    @endforeach
  </tbody>
</table>
