@props(['proof', 'columns', 'rows', 'say', 'load' => null])
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
<td @class(['n', 'bad' => $proof->unaccounted() !== 0])>{{ number_format($proof->unaccounted()) }}</td>
