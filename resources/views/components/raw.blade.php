@props(['value'])
@if ($value === null)
  <span class="raw none" title="no value at all, which is not the same as a blank one">none</span>
@elseif ($value === '')
<span class="raw none" title="blank">␣</span>@else<span class="raw">{!! $say->raw($value) !!}</span>
@endif
