@props(['table', 'page', 'label'])
@php($right = $table::NAMES + $table::WIDTH)
<div class="scroll-x panel" tabindex="0" role="region" aria-label="Timetable of {{ $label }}">
  <svg width="{{ $right + 12 }}" height="{{ $table->height }}" role="group"
    aria-label="When each load of {{ $label }} was worked on; the table below has the seconds">
    @foreach ($table->marks as $mark)
      <line class="wave-line" x1="{{ $mark['x'] }}" x2="{{ $mark['x'] }}" y1="18"
        y2="{{ $table->height - 4 }}" />
      <text class="plate-small" x="{{ $mark['x'] + 3 }}" y="12">{{ $mark['label'] }}</text>
    @endforeach
    @php($wave = null)
    @foreach ($table->bars as $bar)
      @if ($bar['wave'] !== $wave)
        <text class="plate-small" x="0" y="{{ $bar['y'] + 13 }}">Wave {{ $bar['wave'] }}</text>
        <line class="wave-line" x1="0" x2="{{ $right }}" y1="{{ $bar['y'] - 1 }}"
          y2="{{ $bar['y'] - 1 }}" />
        @php($wave = $bar['wave'])
      @endif
      <text class="plate-text small" x="52" y="{{ $bar['y'] + 13 }}">{{ $say->short($bar['name'], 24) }}</text>
      <rect @class(['time-bar', 'going' => $bar['isGoing']]) x="{{ $bar['x'] }}" y="{{ $bar['y'] + 4 }}" width="{{ $bar['width'] }}"
        height="11">
        <title>{{ $bar['title'] }}</title>
      </rect>
    @endforeach
  </svg>
</div>
