<x-sources.extract :$page :$extract :$take :$latest :$show :open="$openFindings" :all="$allFindings">
  @php($here = "/m/{$page->migration->id}/sources/extracts/{$extract->id}")
  <x-table :table="$columns" tight label="Columns">
    @foreach ($columns->rows() as $column)
      @php($f = $take->facts()[$column->position])
      <tr class="hit">
        <td><a href="{{ $here }}/columns/{{ $column->position }}">{{ $column->header }}</a></td>
        <td class="clip"><code class="raw" title="{{ $column->name }}">{{ $column->name }}</code></td>
        <td>{{ $f['type']['label'] }}{{ $f['type']['ambiguous'] ? ', day or month first?' : '' }}</td>
        <td @class([
            'n',
            'zero' => $f['type']['breaking'] === 0,
            'bad' => $f['type']['breaking'] > 0,
        ])>{{ number_format($f['type']['breaking']) }}</td>
        <td class="n">{{ number_format($f['filled']) }}</td>
        <td @class(['n', 'zero' => $f['blank'] + $f['missing'] === 0])>{{ number_format($f['blank'] + $f['missing']) }}</td>
        <td class="n">{{ $f['estimated'] ? 'about ' : '' }}{{ number_format($f['distinct']) }}</td>
        <td><x-strip :strip="$f['strip'] ?? null" :of="$column->header" /></td>
        <td class="n">
          {{ $f['shortest'] === $f['longest'] ? $f['longest'] : $f['shortest'] . '–' . $f['longest'] }}</td>
        <td class="clip"><x-raw :value="$f['smallest']" /></td>
        <td class="clip"><x-raw :value="$f['largest']" /></td>
        <td>@php($usual = array_key_first($f['shapes']))@if ($usual !== null)
            {{ $say->shape($usual) }} <span class="quiet">{{ number_format($f['shapes'][$usual]) }}</span>
          @endif
        </td>
      </tr>
    @endforeach
  </x-table>
</x-sources.extract>
