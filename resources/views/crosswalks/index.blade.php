<x-layouts.app :page="$page" title="Crosswalks">
  @php($m = $page->migration)
  <div class="head">
    <div>
      <h1>Crosswalks</h1>
      <p>Code crosswalks turn old values into new ones; the key crosswalk is built by loading and knows what every
        legacy key became.</p>
    </div>
  </div>
  @foreach ($codes as $code)
    @php($c = $code['model'])
    @php($missing = array_filter($code['values'], fn($v) => !$v->mapped))
    @php($at = "/m/{$m->id}/crosswalks/codes/{$c->id}")
    @php($stated = $c->otherwise->name !== 'Reject')
    <h2 id="code-{{ $c->id }}">{{ $c->name }}:
      {{ $tell->missingCodes($c, $missing) }}
    </h2>
    <p class="quiet mb-1">
      @if ($code['uses'])
        Used by {{ collect($code['uses'])->map(fn($u) => "{$u['load']->name}, {$u['field']}")->implode('; ') }}.
      @else
        No rule uses it yet. Write
        <code>code('{{ $c->name }}', column)</code>.
      @endif {{ $c->note }} <a class="linkish" href="{{ $at }}/history">History</a>
    </p>
    @if ($code['allowed'])
      <datalist id="allowed-{{ $c->id }}">
        @foreach ($code['allowed'] as $value)
          <option value="{{ $value }}">
        @endforeach
      </datalist>
    @endif
    @if ($code['suggestions'])
      @can('repair', $m)
        <details class="panel check" open>
          <summary>{{ $say->count(count($code['suggestions']), 'suggestion') }}</summary>
          <form method="post" action="{{ $at }}/suggested">@csrf<table class="sheet mt-2">
              <thead>
                <tr>
                  <th>Old value</th>
                  <th>New value</th>
                  <th>Because</th>
                </tr>
              </thead>
              <tbody>
                @foreach ($code['suggestions'] as $old => $s)
                  <tr>
                    <td><label class="plain" for="take-{{ $c->id }}-{{ $loop->index }}"><input type="checkbox"
                          id="take-{{ $c->id }}-{{ $loop->index }}" name="take[]" value="{{ $old }}"
                          checked> <x-raw :value="(string) $old" /></label></td>
                    <td><code>{{ $s['new'] }}</code></td>
                    <td>{{ $s['reason'] }}</td>
                  </tr>
                @endforeach
              </tbody>
            </table>
            <p class="mt-2"><button class="btn small">Use those ticked</button></p>
          </form>
        </details>
      @endcan
    @endif
    @php($from = max(0, min((int) request("codes-$c->id"), max(0, count($code['values']) - 1))))
    @php($missingNames = $page->url('crosswalks', $page->entity?->name))
    @if (count($code['values']) > $codesPerPage)
      <p class="row mb-1"><span>{{ $from + 1 }} to {{ min(count($code['values']), $from + $codesPerPage) }} of
          {{ number_format(count($code['values'])) }}</span>
        @if ($from > 0)
          <a class="btn small"
            href="{{ $missingNames }}?codes-{{ $c->id }}={{ max(0, $from - $codesPerPage) }}#code-{{ $c->id }}">Before</a>
          @endif @if ($from + $codesPerPage < count($code['values']))
            <a class="btn small"
              href="{{ $missingNames }}?codes-{{ $c->id }}={{ $from + $codesPerPage }}#code-{{ $c->id }}">After</a>
          @endif
      </p>
    @endif
    @can('repair', $m)
      <form method="post" action="{{ $at }}/table">@csrf
      @endcan
      <table class="sheet">
        <thead>
          <tr>
            <th>Old value</th>
            <th class="n">Rows</th>
            <th>Becomes</th>
            <th>New value</th>
            <th>Note</th>
            <th>State</th>
          </tr>
        </thead>
        <tbody>
          @foreach (array_slice($code['values'], $from, $codesPerPage) as $i => $v)
            @php($is = $v->decision() ?: 'value')
            <tr>
              <td><x-raw :value="$v->old" /></td>
              <td @class(['n', 'zero' => $v->rows === 0])>{{ number_format($v->rows) }}</td>
              @can('repair', $m)
                <td><input type="hidden" name="rows[{{ $i }}][old]" value="{{ $v->old }}"><input
                    type="hidden" name="rows[{{ $i }}][was]"
                    value="{{ $v->mapped ? $say->codeState($is, $v->new, $v->note) : '' }}"><select
                    name="rows[{{ $i }}][is]" aria-label="What becomes of {{ $v->old }}">
                    @foreach (['value' => 'the new value', 'empty' => 'empty', 'reject' => 'a rejected row'] as $k => $label)
                      <option value="{{ $k }}" @selected($is === $k)>{{ $label }}</option>
                    @endforeach
                  </select>
                </td>
                <td><input name="rows[{{ $i }}][new]" value="{{ $v->new }}"
                    aria-label="New value of {{ $v->old }}"
                    @if ($code['allowed']) list="allowed-{{ $c->id }}" @endif
                    placeholder="{{ $v->mapped ? '' : 'none yet' }}"></td>
                <td><input name="rows[{{ $i }}][note]" value="{{ $v->note }}"
                    aria-label="Note on {{ $v->old }}"></td>
              @else<td>{{ ['reject' => 'a rejected row', 'empty' => 'empty'][$is] ?? '' }}
                </td>
                <td>{{ $v->new }}</td>
                <td>{{ $v->note }}</td>
              @endcan
              <td>
                @if (!$v->mapped)
                  <span @class(['wait' => !$stated])>{{ $stated ? 'as stated below' : 'unmapped' }}</span>
                @elseif ($v->rows === 0)
                  <span class="quiet">not used by any row</span>
                @endif
              </td>
            </tr>
          @endforeach
        </tbody>
      </table>
      @can('repair', $m)
        @if ($code['values'])
          <p class="mt-1 mb-2"><button class="btn small">Keep the table of {{ $c->name }}</button></p>
        @endif
      </form>
      <form class="row mb-1" method="post" action="{{ $at }}">@csrf<label
          for="old-{{ $c->id }}">Another old value</label><input id="old-{{ $c->id }}" name="old"
          required><select name="is" aria-label="What becomes of it">
          <option value="value">becomes</option>
          <option value="empty">stays empty</option>
          <option value="reject">rejects the row</option>
        </select><input name="new" aria-label="New value of it"
          @if ($code['allowed']) list="allowed-{{ $c->id }}" @endif><button
          class="btn small">Add</button></form>
    @endcan
    @can('work', $m)
      <div class="row mt-1">
        <form class="row" method="post" action="{{ $at }}/otherwise">@csrf<label
            for="otherwise-{{ $c->id }}">Other old values</label><select id="otherwise-{{ $c->id }}"
            name="otherwise">
            @foreach ($say->otherwises() as $o)
              <option value="{{ $o->value }}" @selected($c->otherwise === $o)>{{ $o->label() }}</option>
            @endforeach
          </select>
          <input name="otherwise_value" value="{{ $c->otherwise_value }}"
            aria-label="The one value of {{ $c->name }}" placeholder="the one value"
            @if ($code['allowed']) list="allowed-{{ $c->id }}" @endif size="14"><input
            name="note" value="{{ $c->note }}" aria-label="Note on {{ $c->name }}"
            placeholder="note on the crosswalk"><button class="btn small">Keep</button>
        </form>
        <a class="btn small" href="{{ $at }}/sheet">Workbook</a>
        <form class="row" method="post" action="{{ $at }}/sheet" enctype="multipart/form-data">@csrf<label
            class="sr-only" for="sheet-{{ $c->id }}">A sheet for {{ $c->name }}</label><input
            id="sheet-{{ $c->id }}" name="file" type="file" required><button class="btn small">Read a
            sheet</button></form>
      </div>
    @endcan
  @endforeach
  @can('work', $m)
    <form class="panel row mt-3" method="post" action="/m/{{ $m->id }}/crosswalks/codes">@csrf<label
        for="crosswalk-name">New code crosswalk</label><input id="crosswalk-name" name="name" required
        maxlength="100"><button class="btn small">Add it</button></form>
  @endcan
  <h2 id="keys">Key crosswalk{{ $page->entity ? ' of ' . $say->label($page->entity->name) : '' }}</h2>
  <form class="row mb-2" action="{{ $page->url('crosswalks', $page->entity?->name) }}#keys"><label
      for="find-key">Legacy key (its beginning) or new key (whole)</label><input id="find-key" name="key"
      value="{{ $q }}"><button class="btn small">Find</button></form>
  <table class="sheet">
    <thead>
      <tr>
        <th>Key</th>
        <th>Entity</th>
        <th>Load</th>
        <th class="n">Row</th>
        <th>Outcome</th>
      </tr>
    </thead>
    <tbody>
      @forelse ($keys['rows'] as $k)
        <tr class="hit">
          <td><x-tag :space="$k->space" :legacy="$k->legacy_key" :target="$k->target_key" :href="$page->journey($k)" /></td>
          <td>{{ $say->label($k->entity) }}</td>
          <td>{{ $k->load_name }}</td>
          <td class="n">{{ number_format($k->row_no) }}</td>
          <td><x-outcome :outcome="$k->outcome" /></td>
        </tr>
      @empty
        <tr>
          <td colspan="5">
            {{ $keys['asked'] ? 'No key of this round begins so, and no new key is this.' : 'Loading fills it.' }}</td>
        </tr>
      @endforelse
    </tbody>
  </table>
  @if ($keys['more'])
    <p class="quiet mt-1">The first {{ count($keys['rows']) }}. Search to see others.</p>
  @endif
</x-layouts.app>
