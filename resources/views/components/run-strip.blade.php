@props(['page', 'isOnRuns' => $page->stop === 'runs' && !request()->is('*/strip')])
@php($pass = $page->pass)
@php($with = $isOnRuns ? '&' . http_build_query(['passes' => 1] + ($page->entity ? ['entity' => $page->entity->name] : [])) : '')
<footer id="strip" class="strip" aria-label="The latest pass"
  @if ($pass?->isGoing()) hx-get="/m/{{ $page->migration->id }}/runs/strip?pass={{ $pass->id }}{{ $with }}"
  hx-trigger="every 1s" hx-swap="outerHTML" @endif>
  @if ($pass === null)
    <span>No round yet. Nothing has been written to the target.</span>
  @else
    @php($view = $say->progress($page, $pass))
    <span>{{ $page->round->label() }}, pass {{ $pass->number }}</span>
    @if ($pass->isGoing())
      <progress max="{{ max(1, $view->total) }}" value="{{ $view->done }}" aria-label="Rows done"></progress>
      <span>{{ $view->current ?? 'starting' }} {{ number_format($view->done) }} of
        {{ number_format($view->total) }}</span>
      <span>{{ number_format($view->rate) }} rows/s</span>
      <span>{{ $view->left }} left in this pass</span>
      @can('work', $page->migration)
        <form method="post" class="push" action="/m/{{ $page->migration->id }}/passes/{{ $pass->id }}/pause">
          @csrf<button>{{ $pass->stop_requested ? 'Pausing after this batch' : 'Pause after this batch' }}</button>
        </form>
      @endcan
    @else
      <span>{{ $pass->stateInWords() }}: {{ number_format($view->done) }} of {{ number_format($view->total) }} rows
        in
        {{ $view->elapsed }}</span>
      @if ($pass->error)
        <span>{{ $say->short((string) $pass->error, 110) }}</span>
      @endif
      @if (request()->hasHeader('HX-Request'))
        <a data-anew href="#">The figures on this page are from before it ended. Show new ones</a>
      @endif
      @if ($pass->canResume())
        @can('work', $page->migration)
          <form method="post" class="push" action="/m/{{ $page->migration->id }}/passes/{{ $pass->id }}/resume">
            @csrf<button>Resume</button></form>
        @endcan
      @endif
    @endif
  @endif
</footer>
