@props(['page', 'on'])
@php($entity = $page->entity?->name)
<nav class="leaves" aria-label="Ways to reconcile">
  @foreach (['reconciliation' => 'Rows counted', 'totals' => 'Control totals', 'comparison' => 'Records compared'] as $of => $title)
    <a href="{{ $page->url($of, $entity) }}"
      @if ($on === $of) aria-current="page" @endif>{{ $title }}</a>
  @endforeach
</nav>
