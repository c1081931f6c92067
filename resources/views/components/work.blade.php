@props(['work', 'm'])
@php($going = $work->isGoing())
<div id="work-{{ $work->id }}" @class([
    'note',
    'bad' => $work->state->value === 'refused',
    'ok' => $work->state->value === 'done',
]) role="status"
  @if ($going) hx-get="/m/{{ $m->id }}/works/{{ $work->id }}" hx-trigger="every 1s" hx-swap="outerHTML" @endif>
  @if ($going)
    <span class="row">{{ $work->title }} <progress max="{{ max(1, $work->total) }}" value="{{ $work->done }}"
        aria-label="Rows done"></progress> {{ number_format($work->done) }} of {{ number_format($work->total) }}
      @if ($work->done > 0 && $work->total > $work->done)
        <span class="quiet">{{ $tell->workLeft($work) }}</span>
      @endif
      @if ($work->kind->canStop())
        <form method="post" action="/m/{{ $m->id }}/works/{{ $work->id }}/stop">@csrf<button class="btn small"
            @disabled($work->stop_requested)>{{ $work->stop_requested ? 'Stopping' : 'Stop' }}</button></form>
      @endif
    </span>
  @else
    {{ $work->told }}
    @if ($work->file)
      <a class="linkish" href="/m/{{ $m->id }}/works/{{ $work->id }}/file">Fetch {{ $work->title }}</a>
    @endif
    @if (request()->hasHeader('HX-Request'))
      <a class="linkish" data-anew href="#">Show this page as it is now</a>
    @endif
  @endif
</div>
