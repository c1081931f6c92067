@php($j = $journey)
@php($load = $j['load'])
@php($now = $j['current'])
@php($drawer = request()->hasHeader('HX-Request'))
<div class="head">
  <div>
    <h1 tabindex="-1"><x-tag :space="$j['listed']?->space" :legacy="$now->legacy_key ?? ''" :target="$now->target_key ?? null" />
      {{ $say->label($j['listed']->entity ?? '') }}</h1>
    <p>{{ $load->name }}, row {{ number_format($j['row']) }} of <code>{{ $j['listed']?->source }}</code>
      {{ $j['listed']?->extract }}, take {{ $j['take']->number }}, line {{ number_format($j['line']) }} of
      {{ $j['take']->file_name }}.</p>
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
@if ($j['waiver'])
  <p class="mt-2">Left behind by {{ $j['waiver']->user->name ?? 'the command line' }},
    {{ $say::when($j['waiver']->created_at, 'day') }}: {{ $j['waiver']->reason }}</p>
@endif
@if ($j['parent'])
  <p class="mt-2">Waits for {{ str_replace('_', ' ', $now->parent_entity) }} <x-tag :space="$now->parent_space"
      :legacy="$now->parent_key" :target="$j['parent']->target_key" :href="$page->journey($j['parent'])" />
    <x-outcome :outcome="$j['parent']->outcome" />
  </p>
@endif
@if ($j['pair'])
  <p class="mt-2">It is record <code>{{ $j['pair']->target_key }}</code> of the target, by hand:
    {{ $j['pair']->reason }} <span class="quiet">{{ $j['pair']->who }}</span></p>
@endif
@can('repair', $page->migration)
  @if ($now !== null && !$page->round?->hasEnded() && in_array($now->outcome, ['rejected', 'held', 'waived']))
    <div class="row mt-2">
      <div x-data="reveal"><button type="button" class="btn small" x-on:click="toggle"
          x-bind:aria-expanded="open">Match by hand</button>
        <form x-show="open" x-cloak class="row mt-1" method="post"
          action="/m/{{ $page->migration->id }}/rejects/loads/{{ $load->id }}/try">@csrf<x-round :$page /><input
            type="hidden" name="what" value="match"><input type="hidden" name="row"
            value="{{ $j['row'] }}"><label for="record">It is the target's record</label><input id="record"
            name="record" data-first required value="{{ $j['taken'] }}"><label for="match-why">because</label><input
            id="match-why" name="reason" required value="{{ session('reason', '') }}"><button class="btn small">Try
            it</button></form>
      </div>
      @if ($now->outcome === 'rejected')
        <div x-data="reveal"><button type="button" class="btn small" x-on:click="toggle"
            x-bind:aria-expanded="open">Leave behind</button>
          <form x-show="open" x-cloak class="row mt-1" method="post"
            action="/m/{{ $page->migration->id }}/rejects/loads/{{ $load->id }}/try">@csrf<x-round :$page /><input
              type="hidden" name="what" value="stay"><input type="hidden" name="row"
              value="{{ $j['row'] }}"><label for="stay-why">because</label><input id="stay-why" name="reason"
              data-first required value="{{ session('reason', '') }}"><button class="btn small">Try without
              it</button></form>
        </div>
      @endif
    </div>
  @endif
@endcan
@if ($j['beside'])
  <p class="mt-2"><a class="linkish"
      href="{{ $page->beside((object) ['load_id' => $load->id, 'row_no' => $j['row']], $j['beside']) }}">Beside
      row {{ number_format($j['beside']['row']) }}, which is in its way</a></p>
@endif
@foreach ($j['refused'] as $other)
  <p class="mt-1">It has the {{ $other->field }} <x-raw :value="$other->value" /> that <a class="linkish"
      href="/m/{{ $page->migration->id }}/rows/{{ $other->load_id }}/{{ $other->row_no }}">row
      {{ number_format($other->row_no) }}</a> was refused for it.</p>
@endforeach
@foreach ($j['links'] as $link)
  <p class="mt-1">{{ $link->field }}:
    {{ ['Made' => 'set later, to', 'Waiting' => 'waits for', 'Waived' => 'left open, it would be'][$link->state->name] }}
    <code>{{ $say->key($link->parent_key) }}</code>
    @if ($link->state->name === 'Waived')
      <span class="quiet">{{ $link->reason }}</span>
    @endif
  </p>
@endforeach
@if ($page->round && $now)
  <div id="family" hx-get="{{ $page->family($load->id, $j['row']) }}" hx-trigger="load" hx-swap="outerHTML">
    <p class="quiet" role="status">The target is asked for the record.</p>
  </div>
@endif
<h2>{{ $now ? "What each rule made of it in pass $now->pass" : 'What each rule makes of it' }}</h2>
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
@if ($j['remarks'])
  <h2>Remarks of the client</h2>
  @foreach ($j['remarks'] as $remark)
    <p class="mb-1">{{ $remark->remark }} <small
        class="quiet">{{ $remark->sent_by ? "$remark->sent_by, " : '' }}{{ $remark->name }},
        {{ $say::when($remark->created_at, 'short') }}</small></p>
  @endforeach
@endif
<h2>The row as read</h2>
@php($whole = collect($j['corrections'])->firstWhere('whole', 1))
@if ($whole)
  <p class="mb-1">Put right as a whole row: <span class="quiet">{{ $tell->correction($whole) }}</span></p>
@endif
@can('repair', $page->migration)
  @if ($now?->outcome === 'rejected' && count($j['cells']) !== count($j['columns']->all))
    <p class="mb-1"><a class="linkish"
        href="/m/{{ $page->migration->id }}/rejects/loads/{{ $load->id }}/rows/{{ $j['row'] }}/whole?round={{ $page->round->id }}">Put
        the
        whole
        row right</a></p>
  @endif
@endcan
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
      @php($c = collect($j['corrections'])->firstWhere('header', $column->header))
      @php($says = $c->new_value ?? ($j['cells'][$i] ?? ''))
      <tr>
        <td>{{ $column->header }}</td>
        <td><x-raw :value="$j['cells'][$i] ?? null" /></td>
        <td>
          @if ($c)
            <x-raw :value="$c->new_value" /> <span class="quiet">{{ $tell->correction($c) }}</span>
          @endif
          @can('repair', $page->migration)
            @if ($now !== null && in_array($now->outcome, ['rejected', 'held', 'waived', 'excluded', 'pending']))
              <div x-data="reveal"><button type="button" class="linkish" x-on:click="toggle"
                  x-bind:aria-expanded="open" aria-label="Correct {{ $column->header }}">Correct</button>
                <form x-show="open" x-cloak class="row mt-1" method="post"
                  action="/m/{{ $page->migration->id }}/rejects/loads/{{ $load->id }}/try">
                  @csrf<x-round :$page /><input type="hidden" name="what" value="correct"><input type="hidden"
                    name="row" value="{{ $j['row'] }}"><input type="hidden" name="header"
                    value="{{ $column->header }}"><x-was :of="['new' => $says]" :keys="['new']" /><input name="new"
                    value="{{ $says }}" aria-label="New value of {{ $column->header }}" data-first><input
                    name="reason" placeholder="reason" aria-label="Reason"
                    value="{{ session('reason', '') }}"><button class="btn small">Try it</button>
                </form>
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
