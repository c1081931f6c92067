@props(['proof', 'page', 'entity', 'load' => null, 'beside' => [], 'columns'])
@php($rows = $page->url('rows', $entity) . '?' . ($load ? "load=$load&" : ''))
@foreach ($columns as $o)
  @php($n = $proof->count($say->outcome($o)))
  <td @class(['n', 'zero' => $n === 0])>
    @if ($n)
      <a href="{{ $rows }}outcome={{ $o }}">{{ number_format($n) }}</a>
    @else
      0
    @endif
  </td>
@endforeach
<td @class(['n', 'bad' => $proof->unaccounted() !== 0])>
  @if ($proof->unaccounted() !== 0)
    <a href="{{ $page->url('gaps', $entity) }}">{{ number_format($proof->unaccounted()) }}</a>
  @else
    0
  @endif
</td>
@foreach ($beside as $of => $title)
  @php($n = $proof->outcomes[$of] ?? 0)
  <td @class(['n', 'zero' => $n === 0])>
    @if ($n)
      <a href="{{ $rows }}{{ $of === $say::OLDER ? 'older=1' : "outcome=$of" }}">{{ number_format($n) }}</a>
    @else
      {{ number_format($n) }}
    @endif
  </td>
@endforeach
