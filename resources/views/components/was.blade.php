@props(['of', 'keys'])
<input type="hidden" name="was" value="{{ $say::shown($of, $keys) }}">
