@props(['proof', 'label', 'tall' => false])
@php
  $shown = [];
  foreach ($say->outcomes() as $outcome) {
      if ($proof->count($outcome) > 0 && !$outcome->isBeside()) {
          $shown[$outcome->value] = $proof->count($outcome);
      }
  }
  $gap = $proof->unaccounted();
  if ($gap > 0) {
      $shown['gap'] = $gap;
  }
  $total = max(1, array_sum($shown));
  // Small segments keep a width one can see; the large ones give it up.
  $least = 1.6;
  $raw = array_map(fn($n) => (100 * $n) / $total, $shown);
  $lift = array_sum(array_map(fn($w) => max(0, $least - $w), $raw));
  $spare = array_sum(array_map(fn($w) => max(0, $w - $least), $raw)) ?: 1;
  $x = 0;
  $words = implode(
      ', ',
      array_map(
          fn($o, $n) => number_format($n) . ' ' . ($o === 'gap' ? 'unaccounted for' : $o),
          array_keys($shown),
          $shown,
      ),
  );
@endphp
<svg @class(['bar', 'tall' => $tall]) role="img" aria-label="{{ $label }}: {{ $words ?: 'no rows' }}">
  <title>{{ $words ?: 'no rows' }}</title>
  @foreach ($raw as $outcome => $w)
    @php($w = $w < $least ? $least : $w - (($w - $least) / $spare) * $lift)
    @if ($outcome === 'gap')
      <svg x="{{ round($x, 3) }}%" width="{{ round($w, 3) }}%" height="100%">
        <rect class="gap" width="100%" height="100%" />
        @for ($i = -1; $i < 30; $i++)
          <line class="hatch" x1="{{ $i * 4 }}" y1="14" x2="{{ $i * 4 + 8 }}" y2="-2" />
        @endfor
      </svg>
    @else
      <rect class="f-{{ $outcome }}" x="{{ round($x, 3) }}%" width="{{ round(max(0.3, $w - 0.35), 3) }}%"
        height="100%" />
    @endif
    @php($x += $w)
  @endforeach
</svg>
