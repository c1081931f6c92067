@props(['page', 'of', 'label'])
<form class="mt-1" method="post" action="/m/{{ $page->migration->id }}/reconciliation/differences">@csrf
  @foreach ($of as $name => $value)
    @if ($value !== null)
      <input type="hidden" name="{{ $name }}" value="{{ $value }}">
    @endif
  @endforeach
  <button class="linkish">{{ $label }}</button>
</form>
