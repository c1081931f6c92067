@props(['says', 'target' => null])
{{-- Asks again by itself: the part of a page that waits, or the whole page. --}}
<div class="note" role="status"
  @if ($target) hx-get="{{ request()->fullUrl() }}" hx-trigger="load delay:1s" hx-target="{{ $target }}" @else data-look-again @endif>
  {{ $says }} <a class="linkish" href="{{ request()->fullUrl() }}">Look again</a>
</div>
