@php($load = $detail['load'])
@php($space = $detail['space'])
@php($asSaid = fn(object $v) => $say->ofCause((object) ['code' => $open->code, 'value' => $v->value]))
@php($codes = $detail['codes'])
@php($all = $open->own === 1 ? 'this row' : 'all ' . $say->count($open->own, 'row'))
@php($rejected = $page->url('rows') . "?load=$load->id&outcome=rejected")
@php($mayRepair = auth()->user()->can('repair', $m))
<div class="grid grid-cols-[minmax(0,5fr)_minmax(0,6fr)] gap-6">
  <div>
    <p class="quiet mb-1">
      These
      rows{{ $open->own > count($detail['rows']) ? ', ' . count($detail['rows']) . ' of ' . number_format($open->own) : '' }}
    </p>
    @foreach ($detail['rows'] as $row)
      <p class="mb-1 row flex-nowrap!"><x-tag :$space :legacy="$row->legacy_key" :href="$page->journey($row)" />
        @if ($detail['ragged'])
          @can('repair', $m)
            <a class="linkish"
              href="/m/{{ $m->id }}/rejects/loads/{{ $load->id }}/rows/{{ $row->row_no }}/whole?round={{ $page->round->id }}">Put
              the row right</a>
          @endcan
        @endif
        @if (isset($detail['besides'][$row->row_no]))
          @php($beside = $detail['besides'][$row->row_no])
          <a class="linkish" href="{{ $page->beside($row, $beside) }}">beside
            row
            {{ number_format($beside['row']) }}</a>
        @endif
        <span class="min-w-0 line-clamp-2">
          @foreach ($detail['cells'][$row->row_no] ?? [] as $i => $cell)
            <span class="quiet">{{ $detail['headers'][$i] }}</span> <x-raw :value="$cell" />
          @endforeach
        </span>
      </p>
    @endforeach
    @if ($open->own > count($detail['rows']))
      <a class="linkish" href="{{ $page->alike($open) }}">All {{ number_format($open->own) }} rows</a>
    @endif
    @can('repair', $m)
      <form class="row mt-2" method="post" action="/m/{{ $m->id }}/rejects/files" data-line>@csrf<x-round
          :$page /><input type="hidden" name="alike" value="{{ $open->id() }}">For the client: <button
          class="btn small" name="format" value="xlsx">As .xlsx</button><button class="btn small" name="format"
          value="csv">As .csv</button></form>
    @endcan
    @include('rejects.common')
    @can('repair', $m)
      <form class="row mt-3" method="post" action="/m/{{ $m->id }}/rejects/loads/{{ $load->id }}/give"
        data-line>
        @csrf<x-round :$page /><input type="hidden" name="alike" value="{{ $open->id() }}"><label
          for="give-to">Seen
          to by</label><select id="give-to" name="to">
          <option value="">nobody yet</option>
          @foreach ($detail['people'] as $person)
            <option value="{{ $person->id }}" @selected((int) ($detail['task']->user_id ?? 0) === $person->id)>{{ $person->name }}</option>
          @endforeach
        </select><label for="give-until">until</label><input id="give-until" name="until" type="date"
          value="{{ $detail['task']->until ?? '' }}"><label for="give-note" class="sr-only">Note</label><input
          id="give-note" name="note" placeholder="note" maxlength="500"
          value="{{ $detail['task']->note ?? '' }}"><button class="btn small">Give it</button></form>
    @elseif ($detail['task'])
      <p class="mt-3">Seen to by
        {{ $detail['task']->who }}{{ $detail['task']->until ? " until {$detail['task']->until}" : '' }}.
        {{ $detail['task']->note }}</p>
    @endcan
  </div>
  <div>
    @can('work', $m)
      @if ($open->due > 0 && !$page->round->hasEnded())
        <form class="row mb-2" method="post" action="/m/{{ $m->id }}/runs/again">@csrf<x-round :$page /><input
            type="hidden" name="alike"
            value="{{ $open->id() }}">{{ $say->count($open->due, 'row of it is', 'rows of it are') }}
          due. <button class="btn small" title="And what is held below them, where it comes free">Load
            {{ $say->count($open->due, 'row') }} again</button><button class="btn small" name="again" value="1"
            formaction="/m/{{ $m->id }}/dry-runs">Dry run</button></form>
      @endif
    @endcan
    <p class="quiet mb-1">Repair @if ($detail['rule'])
        <code>{{ $open->field }}: {{ $detail['rule']->expression }}</code>
      @endif
    </p>
    <form method="post" action="/m/{{ $m->id }}/rejects/loads/{{ $load->id }}/try" x-data="repairs"
      data-all="{{ $all }}">@csrf<x-round :$page /><input type="hidden" name="alike"
        value="{{ $open->id() }}"><input type="hidden" name="seen" value="{{ $detail['seen'] }}">
      @if ($open->kinds <= 1 && $detail['find'] === '')
        @foreach ($detail['values'] as $value)
          <p class="mb-1">@include('rejects.value')</p>
        @endforeach
      @endif
      @can('repair', $m)
        @include('rejects.ways')
      @endcan
      @if ($open->kinds > 1 || $detail['find'] !== '')
        @can('repair', $m)
          <p class="quiet mt-3 mb-1">Or with those ticked alone:</p>
        @endcan
        <table class="sheet tight mb-1" aria-label="Values">
          <thead>
            <tr>
              <th><span class="sr-only">Only these</span></th>
              <th>{{ $codes?->isMissing ? 'Old value' : 'Value' }}</th>
              @if ($detail['headers'])
                <th>{{ implode(', ', array_slice($detail['headers'], 0, 2)) }}, as read</th>
              @endif
              <th class="n">Rows</th>
              <th class="n">Held below</th>
            </tr>
          </thead>
          <tbody>
            @foreach ($detail['values'] as $value)
              <tr>
                <td>
                  @if ($mayRepair)
                    <input type="checkbox" name="causes[]" value="{{ $value->id }}" data-rows="{{ $value->own }}"
                      data-cells="{{ json_encode($detail['asRead'][(int) $value->id] ?? []) }}"
                      aria-label="Only {{ $value->value ?? $value->message }}" x-on:change="ticked">
                  @endif
                </td>
                <td><span @class(['line-clamp-3' => mb_strlen((string) $value->value) > 120])><x-raw :value="$asSaid($value)" /></span>
                  @if ($value->message !== $open->message)
                    <small class="quiet">{{ $value->message }}</small>
                  @endif
                  @include('rejects.value')
                </td>
                @if ($detail['headers'])
                  <td>
                    @foreach (array_slice($detail['asRead'][(int) $value->id] ?? [], 0, 2) as $cell)
                      <span @class(['line-clamp-3' => mb_strlen((string) $cell) > 120])><x-raw :value="$cell" /></span>
                    @endforeach
                  </td>
                @endif
                <td class="n"><a
                    href="{{ $rejected }}&cause={{ $value->id }}">{{ number_format($value->own) }}</a>
                </td>
                <td @class(['n', 'zero' => (int) $value->held === 0])>
                  @if ($value->held > 0)
                    <a href="{{ $page->url('rows') }}?root={{ $value->id }}">{{ number_format($value->held) }}</a>
                  @else
                    0
                  @endif
                </td>
              </tr>
            @endforeach
          </tbody>
        </table>
        <p class="row quiet mb-2">{{ count($detail['values']) }} of {{ $say->count($open->kinds, 'value') }}
          @if ($detail['next'])
            <a class="linkish"
              href="{{ request()->fullUrlWithQuery(['values' => $detail['next']]) }}#{{ $open->anchor() }}">The next
              ones</a>
          @endif
          @if (request('values') || $detail['find'] !== '')
            <a class="linkish"
              href="{{ request()->fullUrlWithQuery(['values' => null, 'find' => null]) }}#{{ $open->anchor() }}">From
              the first</a>
          @endif
        </p>
      @endif
    </form>
    @if ($open->kinds > 50 || $detail['find'] !== '')
      <form method="get" action="{{ url()->current() }}#{{ $open->anchor() }}" class="row mt-1"><x-round
          :$page /><input type="hidden" name="cause" value="{{ $open->id() }}"><label for="find-value">Find a
          value</label><input id="find-value" name="find" value="{{ $detail['find'] }}"><button
          class="btn small">Find</button></form>
    @endif
    @can('repair', $m)
      @if ($detail['refused'])
        @foreach ($detail['values'] as $value)
          <form class="row mt-1" method="post"
            action="/m/{{ $m->id }}/rejects/loads/{{ $load->id }}/ask">
            @csrf<x-round :$page /><input type="hidden" name="cause" value="{{ $value->id }}">Or, where the
            target
            was changed, <button class="btn small">try
              {{ $say->count((int) $value->own, 'row') }} again</button>
            @if ($open->kinds > 1)
              <x-raw :value="$value->value" />
            @endif
          </form>
        @endforeach
      @endif
    @endcan
  </div>
</div>
