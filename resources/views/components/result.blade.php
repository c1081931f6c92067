@props(['value'])
@if ($say->kind($value) === 'cause')
  <span class="bad">{{ lcfirst($value->message) }}</span>
@elseif ($say->kind($value) === 'parent')
  <span class="raw">{{ $value->space }} {{ $value }}</span>
@elseif ($value === null)
  <span class="raw none">none</span>
@else<x-raw :value="$value" />
@endif
