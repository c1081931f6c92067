@props(['strip', 'of'])
@if ($strip)
  @php($most = max(1, ...$strip['bars']))
  @php($wide = 60 / count($strip['bars']))
  <svg class="strip-of" width="60" height="16" role="img"
    aria-label="{{ $of }}: {{ $tell->strip($strip) }}">
    <title>{{ $tell->strip($strip) }}</title>
    @foreach ($strip['bars'] as $i => $n)
      @if ($n > 0)
        @php($high = max(1, round((15 * $n) / $most, 1)))
        <rect x="{{ round($i * $wide, 2) }}" y="{{ 16 - $high }}" width="{{ round(max(1, $wide - 1), 2) }}"
          height="{{ $high }}" />
      @endif
    @endforeach
  </svg>
@endif
