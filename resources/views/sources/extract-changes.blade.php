<x-sources.extract :$page :$extract :$take :$latest show="takes" :open="$openFindings" :all="$allFindings">
  @php($c = $changes->take->compared)
  @php($here = "/m/{$page->migration->id}/sources/extracts/{$extract->id}")
  <h2>Take {{ $changes->take->number }} beside take {{ $c['with'] }}</h2>
  <p class="quiet mb-2">
    {{ $tell->toldApart($c['key']) }}
  </p>
  <nav class="parts" aria-label="How rows differ">
    @foreach ($say::CHANGES as $kind)
      @if ($c[$kind] !== null)
        <a href="{{ $here }}?show=changes&of={{ $changes->take->number }}&kind={{ $kind }}"
          @if ($changes->kind === $kind) aria-current="page" @endif>{{ number_format($c[$kind]) }}
          {{ $kind }}</a>
      @endif
    @endforeach
  </nav>
  @if ($changes->rows === [])
    <p>No rows.</p>
  @else
    <div class="scroll-x" tabindex="0" role="region" aria-label="Rows">
      <table class="sheet" data-walk>
        <thead>
          <tr>
            <th class="n">{{ $changes->kind === 'gone' ? "Row of take {$c['with']}" : 'Row' }}</th>
            @if ($changes->kind === 'changed')
              <th class="n">Was row</th>
              @endif @foreach ($changes->headers as $header)
                <th>{{ $header }}</th>
                @endforeach @if ($changes->kind === 'changed')
                  <th>Column</th>
                  <th>Was</th>
                  <th>Is</th>
                @endif
          </tr>
        </thead>
        <tbody>
          @foreach ($changes->rows as $row)
            @php($first = $row['differences'][0] ?? null)
            @php($lines = max(1, count($row['differences'])))
            @php($number = number_format($row['row']))
            <tr>
              <td class="n" rowspan="{{ $lines }}">
                @if ($changes->kind !== 'gone' && $changes->take->id === $take->id)
                  <a
                    href="{{ $here }}?show=rows&after={{ $row['row'] - 1 }}">{{ $number }}</a>@else{{ $number }}
                @endif
              </td>
              @if ($changes->kind === 'changed')
                <td class="n zero" rowspan="{{ $lines }}">{{ number_format((int) $row['was']) }}</td>
                @endif @foreach ($row['cells'] as $cell)
                  <td rowspan="{{ $lines }}"><x-raw :value="$cell" /></td>
                @endforeach
                @if ($changes->kind === 'changed')
                  <td>{{ $first['header'] ?? '' }}</td>
                  <td>
                    @if ($first)
                      <x-raw :value="$first['was']" />
                    @endif
                  </td>
                  <td class="marked">
                    @if ($first)
                      <x-raw :value="$first['is']" />
                    @endif
                  </td>
                @endif
            </tr>
            @foreach (array_slice($row['differences'], 1) as $d)
              <tr>
                <td>{{ $d['header'] }}</td>
                <td><x-raw :value="$d['was']" /></td>
                <td class="marked"><x-raw :value="$d['is']" /></td>
              </tr>
            @endforeach
          @endforeach
        </tbody>
      </table>
    </div>
    @if ($changes->kind !== 'changed' && $changes->width > count($changes->headers))
      <p class="quiet mt-2">{{ count($changes->headers) }} of {{ $changes->width }} columns.</p>
    @endif
    @if ($changes->next)
      <p class="mt-2"><a class="btn small"
          href="{{ $here }}?show=changes&of={{ $changes->take->number }}&kind={{ $changes->kind }}&after={{ $changes->next }}">The
          next rows</a></p>
    @endif
  @endif
</x-sources.extract>
