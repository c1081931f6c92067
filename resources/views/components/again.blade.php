@props(['page'])
@php($all = $page->due())
@php($here = $page->entity ? $page->due($page->loads()) : $all)
@php($isBusy = $page->pass?->isGoing() || $page->pass?->canResume())
@php($at = "/m/{$page->migration->id}/runs/again")
@if ($here > 0)
  <form method="post" action="{{ $at }}">@csrf<x-round :$page />
    @if ($all > $here)
      <input type="hidden" name="entity" value="{{ $page->entity->name }}">
    @endif
    <button class="btn main" @disabled($isBusy)>Load
      {{ $say->count($here, 'row') }}{{ $all > $here ? ' of ' . $say->label($page->entity->name) : '' }}
      again</button>
    <button class="btn" name="again" value="1" formaction="/m/{{ $page->migration->id }}/dry-runs"
      @disabled($isBusy) title="Says what would become of them; nothing is written">Dry run</button>
  </form>
@endif
@if ($all > $here)
  <form method="post" action="{{ $at }}">@csrf<x-round :$page /><button class="btn"
      @disabled($isBusy)>Load
      {{ $say->count($all, 'row') }} of all entities again</button></form>
@endif
