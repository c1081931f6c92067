@props(['space', 'legacy', 'target' => null, 'href' => null])
@php($shown = $say->key($legacy))
<a @class(['tag', 'torn' => $target === null]) @if ($href) href="{{ $href }}" data-journey @endif
  title="{{ $space }} {{ $shown }}{{ $target === null ? ', no target key' : ' became ' . $target }}">
  <span><em>{{ $space }}</em>{{ $shown === '' ? 'no key' : $shown }}</span>
  @if ($target !== null)
    <span class="key">{{ $target }}</span>
  @endif
</a>
