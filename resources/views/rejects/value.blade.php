@php($waived = $detail['waived']["$load->id $value->waive_hash"] ?? null)
@if ($waived)
  <small class="quiet">Others were left behind for it:
    {{ $waived->reason }}{{ $waived->user ? ', ' . $waived->user->name : '' }}.</small>
@endif
@foreach ($codes->olds[(int) $value->id] ?? [] as $old)
  @if (!$codes->isMissing || ($codes->says[$old] ?? '') !== '')
    <small class="quiet"><a class="linkish" href="{{ $page->code($codes->crosswalk, $old, $open) }}"
        title="Its line in the crosswalk"><x-raw :value="$old" /></a> {{ $codes->says[$old] ?? '' }}</small>
  @endif
@endforeach
@if ($value->parent_key !== null && $open->code === 'parent_left')
  <small><a class="linkish"
      href="/m/{{ $m->id }}/trace?q={{ urlencode($say->key($value->parent_key)) }}">{{ $say->key($value->parent_key) }}
      in the crosswalk</a></small>
@endif
