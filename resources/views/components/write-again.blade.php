@props(['page', 'load', 'of', 'leave' => false])
<form class="row" method="post" action="/m/{{ $page->migration->id }}/compared/{{ $load->id }}/again">
  @csrf<x-round :$page />
  @foreach ($of + ($leave ? ['leave' => 1] : []) as $name => $value)
    <input type="hidden" name="{{ $name }}" value="{{ $value }}">
  @endforeach
  <button {{ $attributes }}>{{ $slot }}</button>
</form>
