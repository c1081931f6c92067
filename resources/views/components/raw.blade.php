@props(['value'])
@if ($value === null || $value === '')<span class="raw none" title="{{ $value === null ? 'no cell' : 'blank' }}">␣</span>@else<span class="raw">{!! \App\View\Raw::html($value) !!}</span>@endif
