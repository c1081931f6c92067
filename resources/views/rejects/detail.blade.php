@php($load = $detail['load'])
@php($space = $detail['space'])
@php($here = "/m/{$m->id}/rejects/loads/{$load->id}")
@php($codes = $detail['codes'])
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
            <a class="linkish" href="{{ $here }}/rows/{{ $row->row_no }}/whole?round={{ $page->round->id }}">Put
              the row right</a>
          @endcan
        @endif
        <span class="min-w-0 truncate">
          @foreach ($detail['cells'][$row->row_no] ?? [] as $i => $cell)
            <span class="quiet">{{ $detail['headers'][$i] }}</span> <x-raw :value="$cell" />
          @endforeach
        </span>
      </p>
    @endforeach
    @if ($open->own > count($detail['rows']))
      <a class="linkish" href="{{ $page->alike($open) }}">All {{ number_format($open->own) }} rows</a>
    @endif
  </div>
  <div>
    <p class="quiet mb-1">Repair @if ($detail['rule'])
        <code>{{ $open->field }}: {{ $detail['rule']->expression }}</code>
      @endif
    </p>
    @if ($codes)
      <p class="mb-2">
        {{ $codes->isMissing ? 'Each old value without a new one keeps its rows out.' : 'What the rows failed for was made of codes.' }}
        A new value serves every load that uses the crosswalk <a class="linkish"
          href="{{ $page->code($codes->crosswalk, null, $open) }}">{{ $codes->crosswalk->name }}</a>.</p>
      @if ($codes->allowed)
        <datalist id="allowed-codes">
          @foreach ($codes->allowed as $value)
            <option value="{{ $value }}">
          @endforeach
        </datalist>
      @endif
    @endif
    @foreach ($detail['values'] as $value)
      <div class="mb-2" x-data="reveal">
        <p class="row"><x-raw :value="$say->ofCause((object) ['code' => $open->code, 'value' => $value->value])" /> <span><a class="linkish"
              href="{{ $page->url('rows') }}?load={{ $load->id }}&outcome=rejected&cause={{ $value->id }}">{{ number_format($value->own) }}
              {{ $value->own == 1 ? 'row' : 'rows' }}</a>
            @if ($value->held > 0)
              , {{ number_format($value->held) }} held below
            @endif
          </span>
          @can('repair', $m)
            <button type="button" class="btn small" x-on:click="toggle" x-bind:aria-expanded="open">Repair</button>
          @endcan
        </p>
        @php($waived = $detail['waived']["$load->id $value->waive_hash"] ?? null)
        @if ($waived)
          <small class="quiet">Others were left behind for it:
            {{ $waived->reason }}{{ $waived->user ? ', ' . $waived->user->name : '' }}.</small>
        @endif
        @if ($value->message !== $open->message)
          <small class="quiet">{{ $value->message }}</small>
        @endif
        @can('repair', $m)
          <div x-show="open" x-cloak class="mt-1 mb-3 grid gap-2">
            @foreach ($codes->olds[(int) $value->id] ?? [] as $old)
              <form class="row" method="post"
                action="/m/{{ $m->id }}/crosswalks/codes/{{ $codes->crosswalk->id }}">@csrf<input type="hidden"
                  name="old" value="{{ $old }}"><x-was :of="['code' => $codes->says[$old] ?? '']" :keys="['code']" />
                <a class="linkish" href="{{ $page->code($codes->crosswalk, $old, $open) }}"
                  title="Its line in the crosswalk"><x-raw :value="$old" /></a>
                <label for="new-{{ $value->id }}-{{ $loop->index }}">becomes</label><input
                  id="new-{{ $value->id }}-{{ $loop->index }}" name="new"
                  value="{{ old('old') === $old ? old('new') : '' }}" @if ($loop->first) data-first @endif
                  @if ($codes->allowed) list="allowed-codes" @endif><label class="row"><input
                    type="checkbox" name="is" value="empty"> stays empty</label><button class="btn small">
                  @if ($codes->isMissing)
                    Use for {{ $say->count((int) $value->own, 'row') }}
                  @else
                    Change the code
                  @endif
                </button>
              </form>
            @endforeach
            @if ($detail['headers'] && !$detail['ragged'])
              <form class="row" method="post" action="{{ $here }}/value">@csrf<x-round :$page /><input
                  type="hidden" name="cause" value="{{ $value->id }}"><input type="hidden" name="seen"
                  value="{{ $detail['seen'] }}">
                <label for="header-{{ $value->id }}">Correct</label><select id="header-{{ $value->id }}"
                  name="header">
                  @foreach ($detail['headers'] as $header)
                    <option>{{ $header }}</option>
                  @endforeach
                </select>
                <label for="to-{{ $value->id }}">to</label><input id="to-{{ $value->id }}" name="new"
                  value="{{ $codes && !$codes->isMissing ? '' : $value->value }}"
                  @if (!$codes) data-first @endif @required($codes && !$codes->isMissing)><label
                  for="why-{{ $value->id }}">because</label><input id="why-{{ $value->id }}" name="reason"
                  placeholder="reason">
                <button class="btn small">Correct in {{ $say->count((int) $value->own, 'row') }}</button>
              </form>
            @endif
            <form class="row" method="post" action="{{ $here }}/waive">@csrf<x-round :$page /><input
                type="hidden" name="cause" value="{{ $value->id }}"><label for="waive-{{ $value->id }}">Or
                leave behind,
                because</label><input id="waive-{{ $value->id }}" name="reason" value="{{ $waived->reason ?? '' }}"
                required><button class="btn small">Waive {{ $say->count((int) $value->own, 'row') }}</button></form>
            @if ($detail['refused'])
              <form class="row" method="post" action="{{ $here }}/ask">@csrf<x-round :$page /><input
                  type="hidden" name="cause" value="{{ $value->id }}">Or, where the target was changed, <button
                  class="btn small">try
                  {{ $say->count((int) $value->own, 'row') }} again</button></form>
            @endif
          </div>
        @endcan
      </div>
    @endforeach
    @if ($open->field)
      <a class="linkish" href="{{ $detail['sheet'] }}">Change
        the rule, tried on these rows</a>
    @endif
  </div>
</div>
