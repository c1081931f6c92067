@props(['bar', 'label', 'tall' => false])
<svg @class(['bar', 'tall' => $tall]) role="img" aria-label="{{ $label }}: {{ $bar->words }}">
  <title>{{ $bar->words }}</title>
  @foreach ($bar->segments as $s)
    @if ($s['class'] === 'gap')
      <svg x="{{ $s['x'] }}%" width="{{ $s['width'] }}%" height="100%">
        <rect class="gap" width="100%" height="100%" />
        @for ($i = -1; $i < 30; $i++)
          <line class="hatch" x1="{{ $i * 4 }}" y1="14" x2="{{ $i * 4 + 8 }}" y2="-2" />
        @endfor
      </svg>
    @else
      <rect class="f-{{ $s['class'] }}" x="{{ $s['x'] }}%" width="{{ max(0.3, $s['width'] - 0.35) }}%"
        height="100%" />
    @endif
  @endforeach
</svg>
