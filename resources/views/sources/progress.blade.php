<div @if (in_array($take->state, ['waiting', 'reading'])) hx-get="/m/{{ $migration->id }}/sources/takes/{{ $take->id }}" hx-trigger="every 700ms" hx-swap="outerHTML" @endif>
@if (in_array($take->state, ['waiting', 'reading']))
    <div class="note" role="status">Take {{ $take->number }}: {{ $take->state === 'waiting' ? 'waits for a worker' : 'reading, '.number_format($take->rows ?? 0).' rows, '.number_format($take->bytes_read).' of '.number_format($take->bytes).' bytes' }} <progress max="{{ max(1, $take->bytes) }}" value="{{ $take->bytes_read }}" aria-label="Bytes read"></progress></div>
@elseif ($take->state === 'failed')
    <div class="note bad" role="alert">Take {{ $take->number }} ({{ $take->file_name }}) was not frozen, and nothing of it is kept. {{ $take->error }}</div>
@elseif (request()->hasHeader('HX-Request'))
    <div class="note ok" role="status">{{ number_format($take->rows) }} rows are frozen. <a class="linkish" href="/m/{{ $migration->id }}/sources/extracts/{{ $take->extract_id }}">Show them</a></div>
@endif
</div>
