@props(['value'])
@if ($value instanceof \Baggage\Core\Rows\Cause)<span class="bad">{{ lcfirst($value->message) }}</span>
@elseif ($value instanceof \Baggage\Core\Crosswalks\ParentKey)<span class="raw">{{ $value->source }} {{ $value }}</span>
@elseif ($value === null)<span class="raw none">none</span>
@else<x-raw :value="$value"/>
@endif
