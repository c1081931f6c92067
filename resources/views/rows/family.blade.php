<div id="family"
  @if ($going) hx-get="{{ $page->family($load->id, $row) }}" hx-trigger="load delay:2s"
  hx-swap="outerHTML" @endif>
  @if ($record !== [])
    <h2>The record as it was sent, and as it is</h2>
    @if ($isThere === false)
      <p class="bad">The target has no record <code>{{ $line['target'] }}</code> any more.</p>
    @endif
    <table class="sheet" aria-label="Record">
      <thead>
        <tr>
          <th>Field</th>
          <th>Sent</th>
          <th>The record says</th>
          <th>Different</th>
        </tr>
      </thead>
      <tbody>
        @foreach ($record as $f)
          <tr @class(['even' => $f['class'] === null])>
            <td>{{ $f['field'] }}</td>
            <td><x-raw :value="$f['sent']" /></td>
            <td>
              @if ($isThere)
                <x-raw :value="$f['is']" />
              @endif
            </td>
            <td class="bad">{{ $f['class'] }}</td>
          </tr>
        @endforeach
      </tbody>
    </table>
  @endif
  @if ($error)
    <p class="bad">The target could not be asked: {{ $error }}</p>
  @endif
  @if ($going)
    <p class="quiet" role="status">{{ $going }}</p>
  @endif
  @if ($parents !== [])
    <h2>Parents it needs</h2>
    @foreach ($parents as $p)
      <p class="mt-1">{{ $p['field'] }}, {{ str_replace('_', ' ', $p['entity']) }} <x-tag :space="$p['space']"
          :legacy="$p['key']" :target="$p['line']->target_key ?? null" :href="$p['line'] ? $page->journey($p['line']) : null" />
        @if ($p['line'])
          <x-outcome :outcome="$p['line']->outcome" />
        @else
          <span class="bad">nowhere</span>
        @endif
      </p>
    @endforeach
  @endif
  @if ($merged !== [])
    <h2>Other rows of the same record</h2>
    @foreach (array_slice($merged, 0, $most) as $l)
      @php($of = $page->all()->get($l->load_id))
      <p class="mt-1"><x-tag :space="$of?->space" :legacy="$l->legacy_key" :target="$l->target_key" :href="$page->journey($l)" />
        <x-outcome :outcome="$l->outcome" /> <span class="quiet">{{ $of?->name }}</span>
      </p>
    @endforeach
  @endif
  @if ($children !== [] || $held !== [])
    <h2>Children that hang on it</h2>
    @foreach ($children as $c)
      <p class="mt-1">{{ $say->count($c['records'], 'record') }} of {{ $say->label($c['entity']) }} by
        {{ $c['field'] }}
        {{ $c['records'] > count($c['lines']) && $c['lines'] !== [] ? '; the first of this round' : '' }}
        @foreach ($c['lines'] as $l)
          @php($at = $page->journey((object) ['load_id' => $l['load'], 'row_no' => $l['row']]))
          <x-tag :space="$page->all()->get($l['load'])?->space" :legacy="$l['key']" :target="$l['target']" :href="$at" />
        @endforeach
      </p>
    @endforeach
    @foreach ($held as $h)
      <p class="mt-1"><a class="linkish"
          href="{{ $page->url('rows') }}?load={{ $h->load_id }}&amp;cause={{ $h->cause_id }}">{{ $say->count((int) $h->n, 'row') }}</a>
        of {{ $page->all()->get($h->load_id)?->name }} wait for it.</p>
    @endforeach
  @endif
</div>
