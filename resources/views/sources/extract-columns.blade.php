<x-sources.extract :$page :$extract :$take :$latest :$show :open="$openFindings" :all="$allFindings">
  @php($here = "/m/{$page->migration->id}/sources/extracts/{$extract->id}")
  @php($columns = $extract->tidyColumns()->all)
  @php($width = 100)
  <div class="scroll-x" tabindex="0" role="region" aria-label="Columns">
    <table class="sheet tight">
      <thead>
        <tr>
          <th>Column</th>
          <th>Name in rules</th>
          <th>Seems to be</th>
          <th class="n">Do not fit</th>
          <th class="n">Filled</th>
          <th class="n">Blank</th>
          <th class="n">Different</th>
          <th class="n">Length</th>
          <th>Smallest</th>
          <th>Largest</th>
          <th>Usual build</th>
        </tr>
      </thead>
      <tbody>
        @foreach (array_slice($columns, $from, $width) as $column)
          @php($f = $take->profile[$column->position])
          <tr class="hit">
            <td><a href="{{ $here }}/columns/{{ $column->position }}">{{ $column->header }}</a></td>
            <td><code>{{ $column->name }}</code></td>
            <td>{{ $f['type']['label'] }}{{ $f['type']['ambiguous'] ? ', day or month first?' : '' }}</td>
            <td @class([
                'n',
                'zero' => $f['type']['breaking'] === 0,
                'bad' => $f['type']['breaking'] > 0,
            ])>{{ number_format($f['type']['breaking']) }}</td>
            <td class="n">{{ number_format($f['filled']) }}</td>
            <td @class(['n', 'zero' => $f['blank'] + $f['missing'] === 0])>{{ number_format($f['blank'] + $f['missing']) }}</td>
            <td class="n">{{ $f['estimated'] ? 'about ' : '' }}{{ number_format($f['distinct']) }}</td>
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
      </tbody>
    </table>
  </div>
  @if (count($columns) > $width)
    <p class="row mt-2">Columns {{ $from + 1 }} to {{ min(count($columns), $from + $width) }} of
      {{ number_format(count($columns)) }}.
      @if ($from > 0)
        <a class="btn small" href="{{ $here }}?from={{ max(0, $from - $width) }}">Columns before</a>
      @endif
      @if ($from + $width < count($columns))
        <a class="btn small" href="{{ $here }}?from={{ $from + $width }}">Columns after</a>
      @endif
    </p>
  @endif
</x-sources.extract>
