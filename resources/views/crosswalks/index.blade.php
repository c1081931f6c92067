<x-layouts.app :page="$page" title="Crosswalks">
  @php($m = $page->migration)
  <div class="head">
    <div>
      <h1>Crosswalks</h1>
      <p>Code crosswalks turn old values into new ones; the key crosswalk is built by loading and knows what every
        legacy key became.</p>
    </div>
  </div>
  <nav class="parts" aria-label="Crosswalks">
    @foreach ($listed as $l)
      <a href="{{ $page->url('crosswalks', $page->entity?->name) }}?{{ $l->asked() }}"
        @if ($shown === $l) aria-current="page" @endif>{{ $l->name }}
        @if (!$l->isDone())
          <span class="wait">{{ $tell->openCodes($l) }}</span>
        @endif
      </a>
    @endforeach
    <a href="{{ $page->url('crosswalks', $page->entity?->name) }}?code=keys"
      @if (!$shown) aria-current="page" @endif>Key
      crosswalk{{ $page->entity ? ' of ' . $say->label($page->entity->name) : '' }}</a>
  </nav>
  @if ($shown?->isMissing())
    <h2>{{ $shown->name }}: there is none yet</h2>
    <p class="mb-2">{{ collect($shown->uses)->map(fn($u) => $u->label())->implode('; ') }} names it. Its
      {{ $say->count($shown->unmapped, 'old value') }} are there as soon as it is made.</p>
    @can('work', $m)
      <form method="post" action="/m/{{ $m->id }}/crosswalks/codes">@csrf<input type="hidden" name="name"
          value="{{ $shown->name }}"><button class="btn main">Make {{ $shown->name }} with
          {{ $say->count($shown->unmapped, 'old value') }}</button></form>
    @endcan
  @elseif ($shown)
    @php($c = $crosswalk)
    @php($at = "/m/{$m->id}/crosswalks/codes/{$c->id}")
    @php($stated = $c->otherwise->name !== 'Reject')
    <h2 id="code-{{ $c->id }}">{{ $c->name }}:
      {{ $tell->missingCodes($c, $missing, count($refused)) }}
    </h2>
    @if ($from !== '')
      <p class="mb-1"><a class="linkish"
          href="{{ $page->url('rejects', $page->entity?->name) }}?{{ http_build_query(['cause' => $from]) }}">Back to
          the
          rejects it came from</a></p>
    @endif
    <p class="quiet mb-1">
      @if ($shown->uses)
        Used by {{ collect($shown->uses)->map(fn($u) => $u->label())->implode('; ') }}.
      @else
        No rule uses it yet. Write
        <code>code('{{ $c->name }}', column)</code>.
      @endif {{ $c->note }} <a class="linkish"
        href="{{ $at }}/history">History</a>
    </p>
    @if ($allowed)
      <datalist id="allowed-{{ $c->id }}">
        @foreach ($allowed as $value)
          <option value="{{ $value }}">
        @endforeach
      </datalist>
    @endif
    @if ($suggestions)
      @can('repair', $m)
        <details class="panel check" open>
          <summary>{{ $say->count(count($suggestions), 'suggestion') }}</summary>
          <form method="post" action="{{ $at }}/suggested">@csrf<input type="hidden" name="place"
              value="{{ (int) $byPlace }}">
            <table class="sheet mt-2">
              <thead>
                <tr>
                  <th>Old value</th>
                  <th>New value</th>
                  <th>Because</th>
                </tr>
              </thead>
              <tbody>
                @foreach ($suggestions as $old => $s)
                  <tr>
                    <td><label class="plain" for="take-{{ $c->id }}-{{ $loop->index }}"><input type="checkbox"
                          id="take-{{ $c->id }}-{{ $loop->index }}" name="take[]" value="{{ $old }}"
                          @checked($s['sure'])> <x-raw :value="(string) $old" /></label></td>
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
    @can('repair', $m)
      @if (!$byPlace && $missing && $allowed)
        <p class="mb-1"><a class="linkish" href="{{ request()->fullUrlWithQuery(['place' => 1]) }}">Suggest by the
            places in
            both lists too</a></p>
      @endif
      <form id="keep-codes" method="post" action="{{ $at }}/table">@csrf</form>
    @endcan
    <x-table :table="$codes" level label="Codes of {{ $c->name }}" empty="No old value yet.">
      @foreach ($codes->rows() as $i => $v)
        @php($mine = $typed[$v->old] ?? null)
        @php($is = $mine['is'] ?? ($v->decision() ?: 'value'))
        @php($why = $refused[$v->old] ?? null)
        <tr>
          <td><x-raw :value="$v->old" /></td>
          <td @class(['n', 'zero' => $v->rows === 0])>{{ number_format($v->rows) }}</td>
          @can('repair', $m)
            <td><input form="keep-codes" type="hidden" name="rows[{{ $i }}][old]"
                value="{{ $v->old }}"><input form="keep-codes" type="hidden"
                name="rows[{{ $i }}][was]"
                value="{{ $v->mapped ? $say->codeState($v->decision(), $v->new, $v->note) : '' }}"><select
                form="keep-codes" name="rows[{{ $i }}][is]" aria-label="What becomes of {{ $v->old }}">
                @foreach (['value' => 'the new value', 'empty' => 'empty', 'reject' => 'a rejected row'] as $k => $label)
                  <option value="{{ $k }}" @selected($is === $k)>{{ $label }}</option>
                @endforeach
              </select>
            </td>
            <td><input form="keep-codes" name="rows[{{ $i }}][new]" value="{{ $mine['new'] ?? $v->new }}"
                aria-label="New value of {{ $v->old }}"
                @if ($why || $mine) aria-invalid="true" @endif
                @if ($allowed) list="allowed-{{ $c->id }}" @endif
                placeholder="{{ $v->mapped ? '' : 'none yet' }}"></td>
            <td><input form="keep-codes" name="rows[{{ $i }}][note]" value="{{ $mine['note'] ?? $v->note }}"
                aria-label="Note on {{ $v->old }}"></td>
          @else
            <td>{{ ['reject' => 'a rejected row', 'empty' => 'empty'][$is] ?? '' }}</td>
            <td>{{ $v->new }}</td>
            <td>{{ $v->note }}</td>
          @endcan
          <td>
            @if ($mine)
              <span class="bad">not kept</span>
            @elseif ($why)
              <span class="bad">{{ $why }}</span>
            @else
              <span @class([
                  'wait' => !$v->mapped && !$stated,
                  'quiet' => $v->mapped,
              ])>{{ $say->codeWord($c, $v) }}</span>
            @endif
          </td>
        </tr>
      @endforeach
    </x-table>
    @can('repair', $m)
      @if ($codes->total() > 0)
        <p class="mt-1 mb-2"><button form="keep-codes" class="btn small">Keep the table of {{ $c->name }}</button>
        </p>
      @endif
      <form class="row mb-1" method="post" action="{{ $at }}">@csrf<x-was :of="null"
          :keys="['code']" /><label for="old-{{ $c->id }}">Another old value</label><input
          id="old-{{ $c->id }}" name="old" value="{{ old('old') }}" required><select name="is"
          aria-label="What becomes of it">
          <option value="value">becomes</option>
          <option value="empty">stays empty</option>
          <option value="reject">rejects the row</option>
        </select><input name="new" aria-label="New value of it" value="{{ old('new') }}"
          @if ($allowed) list="allowed-{{ $c->id }}" @endif><button
          class="btn small">Add</button></form>
    @endcan
    @can('work', $m)
      <div class="row mt-1">
        <x-mend :m="$page->migration" kind="codes" :id="$c->id" :label="'Rename or remove ' . $c->name" />
        <form class="row" method="post" action="{{ $at }}/otherwise">@csrf<x-was :of="$c"
            :keys="['otherwise', 'otherwise_value', 'note']" /><label for="otherwise-{{ $c->id }}">Other old values</label><select
            id="otherwise-{{ $c->id }}" name="otherwise">
            @foreach ($say->otherwises() as $o)
              <option value="{{ $o->value }}" @selected($c->otherwise === $o)>{{ $o->label() }}</option>
            @endforeach
          </select>
          <input name="otherwise_value" value="{{ $c->otherwise_value }}"
            aria-label="The one value of {{ $c->name }}" placeholder="the one value"
            @if ($allowed) list="allowed-{{ $c->id }}" @endif size="14"><input
            name="note" value="{{ $c->note }}" aria-label="Note on {{ $c->name }}"
            placeholder="note on the crosswalk"><button class="btn small">Keep</button>
        </form>
        <a class="btn small" href="{{ $at }}/sheet">Workbook</a>
        <form class="row" method="post" action="{{ $at }}/sheet" enctype="multipart/form-data">
          @csrf<x-file id="sheet-{{ $c->id }}" name="file" label="Drop a filled sheet here, or choose it"
            takes=".xlsx, .ods or .csv with the columns of the workbook" /><button class="btn small">Read a
            sheet</button></form>
      </div>
    @endcan
  @else
    <h2 id="keys">Key crosswalk{{ $page->entity ? ' of ' . $say->label($page->entity->name) : '' }}</h2>
    <form class="row mb-2" action="{{ $page->url('crosswalks', $page->entity?->name) }}"><input type="hidden"
        name="code" value="keys"><label for="find-key">Legacy key (its beginning) or new key
        (whole)</label><input id="find-key" name="key" value="{{ $q }}"><button
        class="btn small">Find</button></form>
    <table class="sheet" data-walk>
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
              {{ $keys['asked'] ? 'No key of this round begins so, and no new key is this.' : 'Loading fills it.' }}
            </td>
          </tr>
        @endforelse
      </tbody>
    </table>
    @if ($keys['more'])
      <p class="mt-2">
        @if ($keys['next'])
          <a class="btn small"
            href="{{ request()->fullUrlWithQuery(['code' => 'keys', 'after' => $keys['next']]) }}">The
            next keys</a>
        @else
          <span class="quiet">The first {{ count($keys['rows']) }}. Type more of the key to see others.</span>
        @endif
      </p>
    @endif
  @endif
  @can('work', $m)
    <form class="panel row mt-3" method="post" action="/m/{{ $m->id }}/crosswalks/codes">@csrf<label
        for="crosswalk-name">New code crosswalk</label><input id="crosswalk-name" name="name" required
        maxlength="100"><button class="btn small">Add it</button></form>
  @endcan
</x-layouts.app>
