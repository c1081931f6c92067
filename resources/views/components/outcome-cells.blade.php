@props(['proof', 'columns', 'rows', 'say', 'gaps', 'load' => null])
@foreach ($columns as $o)
  @php($n = $proof->count($say->outcome($o)))
  <td @class(['n', 'zero' => $n === 0])>
    @if ($n)
      <a
        href="{{ $rows }}?{{ $load ? "load=$load&" : '' }}outcome={{ $o }}">{{ number_format($n) }}</a>
    @else
      0
    @endif
  </td>
@endforeach
<td @class(['n', 'bad' => $proof->unaccounted() !== 0])>
  @if ($proof->unaccounted() !== 0)
    <a href="{{ $gaps }}">{{ number_format($proof->unaccounted()) }}</a>
  @else
    0
  @endif
</td>
