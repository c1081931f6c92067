@php($going = $take->state->isGoing())
<div
  @if ($going) hx-get="/m/{{ $migration->id }}/sources/takes/{{ $take->id }}" hx-trigger="every 700ms" hx-swap="outerHTML" @endif>
  @if ($going)
    <div class="note row" role="status"><span>Take {{ $take->number }}: @if ($take->state->value === 'waiting')
          waits for a worker
        @elseif ($take->state->value === 'stopping')
          stops
        @else
          reading, {{ number_format($take->rows ?? 0) }}
          rows{{ $tell->reading($take) }}
        @endif
      </span>
      @if ($take->bytes_read > 0)
        <progress max="{{ max(1, $take->bytes) }}" value="{{ $take->bytes_read }}" aria-label="Bytes read"></progress>
      @endif
      @can('work', $migration)
        @if ($take->state->value !== 'stopping')
          <form method="post" action="/m/{{ $migration->id }}/sources/takes/{{ $take->id }}/stop">@csrf<button
              class="linkish">Stop</button></form>
        @endif
      @endcan
    </div>
  @elseif ($take->state->value === 'failed')
    <div class="note bad" role="alert">Take {{ $take->number }} ({{ $take->file_name }}) was not frozen, and nothing
      of it is kept. {{ $take->error }}</div>
  @elseif (request()->hasHeader('HX-Request'))
    <div class="note ok" role="status">Take {{ $take->number }}:
      {{ $take->rows === 1 ? '1 row is' : number_format($take->rows) . ' rows are' }} frozen. <a class="linkish"
        href="/m/{{ $migration->id }}/sources/extracts/{{ $take->extract_id }}">Show them</a></div>
  @endif
</div>
