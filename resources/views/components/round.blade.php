@props(['page'])
{{-- What a form is about stays the round it was shown for, whatever another tab looks at meanwhile. --}}
<input type="hidden" name="round" value="{{ $page->round?->id }}">
